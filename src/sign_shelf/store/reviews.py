"""What people said of changes, and their remarks."""

from collections.abc import Iterable, Sequence
from datetime import datetime
from uuid import UUID

from sqlalchemy.orm import aliased
from sqlmodel import col, select

from sign_shelf.store.database import Session
from sign_shelf.store.tables import (
    ContributionRow,
    PersonRow,
    RemarkRow,
    ScheduleRow,
    SignOffRow,
    SignOffSaidRow,
    VerdictRow,
)


async def verdicts(session: Session, change_ids: Iterable[UUID]) -> Sequence[VerdictRow]:
    """In the order in which they were given."""
    query = select(VerdictRow).where(col(VerdictRow.change_id).in_(list(change_ids)))
    return list(await session.exec(query.order_by(col(VerdictRow.id))))


async def authors(session: Session, change_ids: Iterable[UUID]) -> dict[UUID, set[UUID]]:
    """The people who wrote something into each change. A yearly change has the authors of all its years."""
    ids = list(change_ids)
    query = select(ContributionRow.change_id, ContributionRow.person_id).where(col(ContributionRow.change_id).in_(ids))
    this, other = aliased(ScheduleRow), aliased(ScheduleRow)
    other_years = (
        select(this.change_id, ContributionRow.person_id)
        .join(other, col(other.season_id) == this.season_id)
        .join(ContributionRow, col(ContributionRow.change_id) == other.change_id)
        .where(col(this.change_id).in_(ids))
    )
    found: dict[UUID, set[UUID]] = {}
    for change_id, person_id in await session.exec(query.union(other_years)):  # type: ignore[call-overload]
        found.setdefault(change_id, set()).add(person_id)
    return found


async def hold_on(
    session: Session, rows: Iterable[VerdictRow], content: str, at: datetime, *, change_id: UUID | None = None
) -> None:
    """These stand for the change under its new name as well, or for this other one."""
    for row in rows:
        again = row.model_dump(exclude={"id"}) | {"content": content, "stands_since": at}
        again |= {"change_id": change_id} if change_id is not None else {}
        session.add(VerdictRow(**again))
    await session.flush()


async def remarks(session: Session, change_id: UUID) -> Sequence[RemarkRow]:
    query = select(RemarkRow).where(RemarkRow.change_id == change_id)
    return list(await session.exec(query.order_by(col(RemarkRow.at), col(RemarkRow.id))))


async def remark(session: Session, remark_id: UUID, *, lock: bool = False) -> RemarkRow | None:
    return await session.get(RemarkRow, remark_id, with_for_update=lock or None)


async def agreed(session: Session, change_id: UUID) -> list[str]:
    """Who said yes to the change, here and at the client, in the order in which they did."""
    here = select(PersonRow.name, VerdictRow.at).join(PersonRow, col(PersonRow.id) == VerdictRow.person_id)
    here = here.where(VerdictRow.change_id == change_id, VerdictRow.verdict == "approved")
    client = select(SignOffSaidRow.name, SignOffSaidRow.at).join(
        SignOffRow, col(SignOffRow.id) == SignOffSaidRow.sign_off_id
    )
    client = client.where(SignOffRow.change_id == change_id, SignOffSaidRow.verdict == "yes")
    said = [*await session.exec(here), *((f"{name}, at the client", at) for name, at in await session.exec(client))]
    return [name for name, _ in sorted(said, key=lambda one: one[1])]

"""Sets of facts that sites share, in every version that they had."""

from collections.abc import Iterable

from sqlalchemy import func, text
from sqlmodel import col, select, tuple_

from sign_shelf.core.changes.arrangement import SetVersion
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.facts import FactSet
from sign_shelf.store.database import Session
from sign_shelf.store.tables import FactSetRow


async def alone(session: Session) -> None:
    """Until the transaction ends nobody else keeps a version of a set."""
    await (await session.connection()).execute(text("SELECT pg_advisory_xact_lock(hashtextextended('fact sets', 0))"))


async def newest_sets(session: Session) -> dict[str, tuple[int, FactSet]]:
    """The newest version of each set, by key, in the order of their titles."""
    newest = select(FactSetRow.key, func.max(FactSetRow.version)).group_by(col(FactSetRow.key))
    query = select(FactSetRow).where(tuple_(col(FactSetRow.key), col(FactSetRow.version)).in_(newest))
    rows = sorted(await session.exec(query), key=lambda row: row.title)
    return {row.key: (row.version, read(FactSet, row.document, what=f"fact set {row.key}")) for row in rows}


async def fact_sets(session: Session, wanted: Iterable[SetVersion]) -> dict[SetVersion, FactSet]:
    pairs = {(one.key, one.version) for one in wanted}
    if not pairs:
        return {}
    query = select(FactSetRow).where(tuple_(col(FactSetRow.key), col(FactSetRow.version)).in_(pairs))
    return {
        SetVersion(key=row.key, version=row.version): read(FactSet, row.document, what=f"fact set {row.key}")
        for row in await session.exec(query)
    }


async def keep_fact_set(session: Session, key: str, version: int, shared: FactSet) -> None:
    session.add(FactSetRow(key=key, version=version, title=shared.title, document=shared.to_json()))
    await session.flush()

"""Who is in a change with one: each page says where it is, and hears where the others are."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import datetime, timedelta
from uuid import UUID

from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import unknown_change
from sign_shelf.store import changes, presence, sites
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import PresenceRow

HEARD_WITHIN = timedelta(seconds=50)
"""A page that is open says so every 20 seconds."""


@dataclass(frozen=True)
class Meets:
    """An edit of somebody's that met another's: of the entry that is called so, in this field of it. In words."""

    title: str
    field: str
    ours: str
    theirs: str


@dataclass(frozen=True)
class Somebody:
    page: UUID
    person: UUID
    name: str
    site: str
    menu: str
    item: str
    meets: tuple[Meets, ...]
    """What of others' edits they are choosing about just now; `ours` is theirs of whom this is told."""


@dataclass(frozen=True)
class There:
    people: tuple[Somebody, ...]
    heads: dict[str, str]
    """By site: what the change wants there. Where it is another, somebody saved."""


async def be_there(
    database: Database, person: Person, change_id: UUID, *, page: UUID, site: str, menu: str, item: str, now: datetime,
    meets: Sequence[Meets] = (),
) -> None:  # fmt: skip
    async with database.transaction() as session:
        await _look(session, person, change_id)
        row = PresenceRow(
            page=page, person_id=person.id, change_id=change_id, site=site, menu=menu, item=item,
            meets=[asdict(one) for one in meets], at=now,
        )  # fmt: skip
        await presence.be_there(session, row)
        await presence.forget(session, now - HEARD_WITHIN)


async def leave(database: Database, person: Person, page: UUID) -> None:
    async with database.transaction() as session:
        await presence.leave(session, page, person.id)


async def there(database: Database, person: Person, change_id: UUID, now: datetime) -> There:
    """Raises NotFound, and NotAllowed where the person may not look at all of its sites."""
    async with database.transaction() as session:
        await _look(session, person, change_id)
        found = await presence.there(session, change_id, now - HEARD_WITHIN)
        return There(
            tuple(
                Somebody(
                    row.page,
                    row.person_id,
                    name,
                    row.site,
                    row.menu,
                    row.item,
                    tuple(Meets(**one) for one in row.meets),
                )
                for row, name in found
            ),
            await presence.heads(session, change_id),
        )


async def _look(session: Session, person: Person, change_id: UUID) -> None:
    parts = await changes.parts_of(session, change_id)
    if not parts:
        raise unknown_change(change_id)
    for part in parts:
        require(person, "look", f"changes/{change_id}", (await sites.site_by_id(session, part.site_id)).key)

"""Ways of looking at the shelf that a person keeps under a name."""

from collections.abc import Mapping, Sequence
from datetime import datetime

from sign_shelf.core.errors import Refusal
from sign_shelf.desk.people import checked_name
from sign_shelf.desk.permission import Person
from sign_shelf.store import shelf_views
from sign_shelf.store.database import Database
from sign_shelf.store.tables import ShelfViewRow

MOST = 30


async def kept(database: Database, person: Person) -> Sequence[ShelfViewRow]:
    async with database.transaction() as session:
        return await shelf_views.kept_by(session, person.id)


async def keep(database: Database, person: Person, name: str, at: Mapping[str, object], now: datetime) -> None:
    """In place of one of the same name. Raises Refusal."""
    called = checked_name(name)
    async with database.transaction() as session:
        others = [one for one in await shelf_views.kept_by(session, person.id) if one.name != called]
        if len(others) >= MOST:
            raise Refusal(f"{MOST} views are kept already.", where="name", remedy="Let go of one of them first.")
        await shelf_views.keep(session, person.id, called, at, now)


async def forget(database: Database, person: Person, name: str) -> None:
    async with database.transaction() as session:
        await shelf_views.forget(session, person.id, name)

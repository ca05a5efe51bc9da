"""People at the shelf, for tests: their accounts, their browsers over HTTP, the keys of sites."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from datetime import UTC, datetime, timedelta

import httpx

from sign_shelf.api.app import create_app
from sign_shelf.desk.connect import Made, new_key
from sign_shelf.desk.people import add_person
from sign_shelf.desk.permission import Person
from sign_shelf.desk.sign_in import person_of
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.settings import Settings
from sign_shelf.store import people
from sign_shelf.store.database import Database
from tests.constants import OWN_PAGE, PASSWORD, SHELF


async def account(database: Database, name: str, role: str) -> Person:
    """The account of this name, made where there is none yet."""
    email = f"{name.partition(' ')[0].lower()}@quillfen.example"
    async with database.transaction() as session:
        known = await people.person_by_email(session, email)
        if known is not None:
            return person_of(known, await people.roles_of(session, known.id))
    return await add_person(database, email=email, name=name, password=PASSWORD, role=role, now=datetime.now(UTC))


@asynccontextmanager
async def browser_at(settings: Settings, database: Database, fetcher: Fetcher) -> AsyncIterator[httpx.AsyncClient]:
    """A browser at a server of its own, in which nobody is signed in."""
    app = create_app(settings)
    app.state.database, app.state.fetcher = database, fetcher
    transport = httpx.ASGITransport(app=app, raise_app_exceptions=False)
    async with httpx.AsyncClient(transport=transport, base_url=SHELF, headers=OWN_PAGE) as client:
        yield client


async def sign_in(api: httpx.AsyncClient, email: str) -> None:
    answer = await api.post("/api/session", json={"email": email, "password": PASSWORD})
    assert answer.status_code == 200, answer.text


async def site_key(database: Database, person: Person, site: str, kind: Made) -> str:
    """A new key of the site's."""
    made = await new_key(database, person, site, kind, old_counts=timedelta(), now=datetime.now(UTC))
    return made.get_secret_value()

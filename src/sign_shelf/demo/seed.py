"""The demo portfolio: accounts, four client sites taken in from their stand-ins, and some work under way.

Everything goes the way that a person's work goes: read over HTTP, kept by the desk, edited as drafts.
"""

import asyncio
from datetime import UTC, datetime, timedelta
from typing import get_args

import httpx
from pydantic import SecretStr

from sign_shelf.core.model.documents import content_hash
from sign_shelf.core.model.tree import insert, move
from sign_shelf.core.outline import format_outline, parse_outline
from sign_shelf.demo.cafes import share_legal
from sign_shelf.demo.garden import GARDEN, gardener_begins, spring_opening
from sign_shelf.demo.past import BEGINS, year_that_was
from sign_shelf.demo.planned import plan_a_year
from sign_shelf.demo.stand_ins.asking import Source, tell_source
from sign_shelf.demo.stand_ins.building import BRANCH, MENUS
from sign_shelf.demo.stand_ins.content import cafe_details
from sign_shelf.demo.stand_ins.more_pages import AT as MORE_PAGES
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk import changes, connect, connections, edit, inventory, take_in
from sign_shelf.desk.people import add_person
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import board
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.outside.reading import read_site
from sign_shelf.store import inventory as reading_records
from sign_shelf.store import keys
from sign_shelf.store import sites as site_records
from sign_shelf.store.database import Database
from sign_shelf.store.requests import RequestKey
from sign_shelf.store.seals import Seals

PASSWORD = "quillfen-demo"
ACCOUNTS = [
    ("owen@quillfen.example", "Owen Marsh", "owner"),
    ("ines@quillfen.example", "Ines Calder", "lead"),
    ("tom@quillfen.example", "Tom Arkwright", "editor"),
    ("mara@quillfen.example", "Mara Voss", "reviewer"),
    ("guest@quillfen.example", "Guest", "viewer"),
]
CAME = {
    "thornby": {
        "/visit/dogs": "With a dog", "/ride/moonlight-special": "Moonlight special", "/jubilee": "A hundred years of Thornby",
        "/visit/car-park": {"was": "/visit/parking"},
    },
    "brackwater": {"/on-board/dogs": "Travelling with a dog"},
    "kestrel": {"/events/map-room-evenings": "Map room evenings", "/learn/letters": "Reading old letters"},
}  # fmt: skip
"""Pages that came and moved after the sites were taken in."""
EDITED_AT = "thornby"
"""Where somebody edits a menu in the site's own back office."""
MADE: tuple[connect.Made, ...] = get_args(connect.Made)
ON_SHELF = ("brackwater", "vesper", "kestrel", "thornby", "saltmarsh")


def seed(address: str, seals: Seals, stand_ins: list[StandIn], *, shelf: str) -> None:
    """Fills an empty database; one that has a site already stays as it is. `shelf` is where the server will be: sites
    that ask for their menus ask there."""
    asyncio.run(_seed(address, seals, stand_ins, shelf))


async def _seed(address: str, seals: Seals, stand_ins: list[StandIn], shelf: str) -> None:
    database = Database(address, seals)
    async with database.transaction() as session:
        begun = bool(await site_records.all_sites(session))
    if not begun:
        whole = any(site.content.key in cafe_details() for site in stand_ins)
        first = datetime.now(UTC) - (BEGINS if whole else timedelta())
        people = [
            await add_person(database, email=email, name=name, password=PASSWORD, role=role, now=first)
            for email, name, role in ACCOUNTS
        ]
        for site in stand_ins:
            if site.content.key in {*ON_SHELF, *cafe_details(), GARDEN}:
                await take_in_stand_in(database, site, people[1], first)
            if site.places.building is not None:
                await _by_commits(database, site, people[1])
        async with database.transaction() as session:
            for site in stand_ins:
                await site_records.keep_template(session, site.content.template)
        if whole:
            await year_that_was(database, people[2], people[1], stand_ins)
            await plan_a_year(database, people[2], people[1], datetime.now(UTC))
        await _work_under_way(database, people[2], beside=people[1])
        if whole:
            await share_legal(database, people[1])
            await spring_opening(database, people[2])
    async with database.transaction() as session:
        for site in stand_ins:
            row = await site_records.site_by_key(session, site.content.key)
            if site.content.asks and row is not None:
                delivery = await keys.keys_of(session, seals, row.id, ["delivery"], datetime.now(UTC))
                shown = delivery[0].secret.get_secret_value()
                tell_source(site.asking.folder, row.key, Source(f"{shelf}/live", shown))
    await database.close()


def some_time_after(address: str, seals: Seals, stand_ins: list[StandIn]) -> None:
    """Pages come to the sites, which are running, and move there; they are read again."""
    asyncio.run(_some_time_after(address, seals, stand_ins))


async def _some_time_after(address: str, seals: Seals, stand_ins: list[StandIn]) -> None:
    database = Database(address, seals)
    now = datetime.now(UTC)
    async with Fetcher(frozenset({"127.0.0.1"})) as fetcher, httpx.AsyncClient(trust_env=False) as client:
        for site in stand_ins:
            if site.content.key not in CAME:
                continue
            async with database.transaction() as session:
                row = await site_records.site_by_key(session, site.content.key)
                assert row is not None
                await reading_records.read_by(session, row.id, now)
            # Once as they were: what moved is known by its text.
            await inventory.read_one(database, fetcher, row.id, now)
            (await client.put(f"{site.base}{MORE_PAGES[1:]}", json=CAME[site.content.key])).raise_for_status()
            await inventory.read_one(database, fetcher, row.id, now)
        for site in stand_ins:
            if site.content.key == EDITED_AT:
                outline = format_outline(site.content.menus["second"]) + "Come and see -> /visit\n"
                answer = await client.post(
                    f"{site.base}back-office/second/desktop",
                    data={"outline": outline, "who": "Ada at Thornby"},
                    follow_redirects=True,
                )
                answer.raise_for_status()
            if site.content.key == GARDEN:
                await gardener_begins(site, client)
    await database.close()


async def take_in_stand_in(database: Database, site: StandIn, person: Person, at: datetime | None = None) -> None:
    """`at`: when that was; now if None."""
    async with Fetcher(frozenset({"127.0.0.1"})) as fetcher:
        found = await read_site(fetcher, site.base)
    content = site.content
    settled = take_in.Confirmation(
        key=content.key, zone=content.zone, secret=None if content.silent else SecretStr(site.places.secret),
        facts=content.facts, policy=content.policy,
    )  # fmt: skip
    now = at or datetime.now(UTC)
    async with database.transaction() as session:
        await take_in.keep_site(session, database.seals, found, settled, person.id, now)
    for kind in MADE if content.asks else ():
        await connect.new_key(database, person, content.key, kind, old_counts=timedelta(), now=now)


async def _by_commits(database: Database, site: StandIn, person: Person) -> None:
    building = site.places.building
    assert building is not None
    wanted = connections.ByCommitting(
        kind="repository", remote=SecretStr(str(building.repository)), branch=BRANCH, folder=MENUS
    )
    async with Fetcher(frozenset({"127.0.0.1"}), repositories=building.repository.parent) as fetcher:
        await connections.use(database, fetcher, person, site.content.key, wanted, datetime.now(UTC))


async def _work_under_way(database: Database, person: Person, *, beside: Person) -> None:
    """A draft at one site in which two people work, so that the shelf shows what a draft looks like; and at another a menu
    that hangs nowhere yet."""
    async with database.transaction() as session:
        menu = (await board(session, person, "kestrel")).menus["header"]
    added = parse_outline("Summer reading -> @events-reading-groups").items[0]
    items = move(insert(menu.document.items, added, parent="what-s-on", at=0), "learn", parent=None, at=0)
    saved = await edit.save_menu(
        database, person, "kestrel", "header",
        expected=content_hash(menu.document), document=menu.document.with_items(items), now=datetime.now(UTC),
    )  # fmt: skip
    if saved.change is not None:
        await changes.work_in(database, beside, "kestrel", saved.change.id)
    regatta = "Regatta week -> @offers-regatta\nSummer timetable -> @timetables-summer\nGroups -> @fares-groups\nStalls on the quay -> ?"
    await edit.create_menu(
        database, person, "brackwater", name="Regatta week",
        document=parse_outline('{menu "Regatta week"}\n' + regatta), request_key=RequestKey("demo-regatta"), now=datetime.now(UTC),
    )  # fmt: skip

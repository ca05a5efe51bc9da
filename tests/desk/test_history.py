"""A menu's past as the desk tells it: runs of saves, what went live, whose revisions may be asked for."""

from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from itertools import pairwise

import pytest

from sign_shelf.core.errors import NotAllowed, NotFound, SourceRefused
from sign_shelf.core.model.menu import MenuDocument
from sign_shelf.core.outline import format_outline, parse_outline
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk import bring_in, edit, history, put_live
from sign_shelf.desk.people import add_person
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import View
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store.database import Database
from sign_shelf.store.requests import RequestKey
from tests.constants import PASSWORD

NOON = datetime(2026, 2, 1, 12, tzinfo=UTC)


async def saved(
    database: Database, person: Person, outline: str, on: str, at: datetime, menu: str = "legal", view: View = None
) -> edit.Saved:
    document = parse_outline('{menu "Legal"}\n' + outline)
    return await edit.save_menu(database, person, "brackwater", menu, view=view, expected=on, document=document, now=at)


async def begun(database: Database, person: Person, menu: str = "legal") -> str:
    found = await history.history(database, person, "brackwater", menu, language="en")
    return found.entries[0].hash


async def test_a_pause_another_person_and_going_live_each_begin_an_entry(
    database: Database, brackwater: StandIn, ines: Person, tom: Person, run_jobs: Callable[[], object]
) -> None:
    hash = await begun(database, ines)
    hash = (await saved(database, ines, "A -> /a", hash, NOON)).hash
    hash = (await saved(database, ines, "A -> /a\nB -> /b", hash, NOON + timedelta(minutes=14))).hash
    last = await saved(database, ines, "B -> /b", hash, NOON + timedelta(minutes=40))
    assert last.change is not None
    view = last.change.id
    hash = (await saved(database, tom, "B -> /b\nC -> /c", last.hash, NOON + timedelta(minutes=41), view=view)).hash
    mine = await history.history(database, tom, "brackwater", "legal", language="en")
    assert len(mine.entries) == 1, "what others have in their changes is told there alone"
    await put_live.ask(
        database, tom, "brackwater", view=view, request_key=RequestKey("go"), now=NOON + timedelta(minutes=42)
    )
    await run_jobs()  # type: ignore[misc]
    await saved(database, tom, "C -> /c", hash, NOON + timedelta(minutes=43))
    entries = (await history.history(database, tom, "brackwater", "legal", language="en")).entries
    assert [(one.by, one.saves, one.live_at is not None) for one in entries] == [
        ("Tom Arkwright", 1, False), ("Tom Arkwright", 1, True), ("Ines Calder", 1, False), ("Ines Calder", 2, False),
        (None, 1, False),
    ]  # fmt: skip
    assert [edit.says for edit in entries[2].edits] == ["Removed A"]
    assert (entries[3].since, entries[3].at) == (NOON, NOON + timedelta(minutes=14))
    assert all(newer.before == older.hash for newer, older in pairwise(entries))


async def test_only_the_menus_own_revisions_are_told(database: Database, brackwater: StandIn, ines: Person) -> None:
    other = await begun(database, ines, "footer")
    assert format_outline(await history.revision(database, ines, "brackwater", "footer", other)).startswith(
        '{menu "Footer"}'
    )
    with pytest.raises(NotFound, match="never had that revision"):
        await history.revision(database, ines, "brackwater", "legal", other)
    with pytest.raises(NotFound):
        await history.compare(database, ines, "brackwater", "legal", before=other, after=other, language="en")


async def test_taking_back_knows_the_name_and_needs_no_base(
    database: Database, brackwater: StandIn, ines: Person
) -> None:
    base = await begun(database, ines)
    document = (await history.revision(database, ines, "brackwater", "legal", base)).model_copy(
        update={"name": "Small print"}
    )
    mended = await history.take_back(
        database, ines, "brackwater", "legal", before=base, document=document, keys=["set::name"]
    )
    assert mended.name == "Legal"
    fresh = parse_outline("A -> /a\nB -> /b")
    less = await history.take_back(database, ines, "brackwater", "legal", before=None, document=fresh, keys=["add:a:"])
    assert format_outline(less) == "B -> /b\n"


async def test_lines_of_the_same_menu_keep_their_pages_and_includes(
    database: Database, brackwater: StandIn, ines: Person
) -> None:
    lines = parse_outline("Fares -> @fares\n+ legal")
    copied = await bring_in.from_items(database, ines, "brackwater", lines, from_site="brackwater", from_menu="header")
    assert format_outline(copied.document).splitlines() == [
        "Fares -> @fares {origin header/fares}", "+ legal {origin header/include}",
    ]  # fmt: skip
    assert copied.notes == ()
    with pytest.raises(NotFound):
        await bring_in.from_items(database, ines, "brackwater", lines, from_site="nowhere", from_menu="header")


async def test_who_only_looks_brings_nothing_in(database: Database, brackwater: StandIn, fetcher: Fetcher) -> None:
    guest = await add_person(database, email="g@q.example", name="Guest", password=PASSWORD, role="viewer", now=NOON)
    with pytest.raises(NotAllowed, match="may not edit"):
        await bring_in.from_data(database, guest, "brackwater", b"A -> /a", None, name=None)
    with pytest.raises(NotAllowed):
        await bring_in.from_menu(database, guest, "brackwater", from_site="brackwater", from_menu="header")
    with pytest.raises(NotAllowed):
        await bring_in.from_live(database, fetcher, guest, "brackwater", "/")


@pytest.mark.parametrize(
    "path", ["//else.example/", "https://else.example/", "javascript:alert(1)", "http://[", "ftp://x/"]
)
async def test_only_the_sites_own_pages_are_read_live(
    database: Database, brackwater: StandIn, fetcher: Fetcher, ines: Person, path: str
) -> None:
    with pytest.raises(SourceRefused, match="is no address of Brackwater Ferries"):
        await bring_in.from_live(database, fetcher, ines, "brackwater", path)


async def test_a_live_page_that_is_missing_is_told(
    database: Database, brackwater: StandIn, fetcher: Fetcher, ines: Person
) -> None:
    with pytest.raises(SourceRefused, match="answered with 404"):
        await bring_in.from_live(database, fetcher, ines, "brackwater", "/no/such/page")
    found: list[MenuDocument] = [
        one.document for one in await bring_in.from_live(database, fetcher, ines, "brackwater", "")
    ]
    assert any("Terms of carriage -> @terms" in format_outline(document) for document in found)

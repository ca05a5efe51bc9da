"""Search over everything: what a person may look at, as they see it."""

from datetime import UTC, datetime
from typing import Any

import httpx
import pytest

from sign_shelf.desk.people import add_person
from sign_shelf.store.database import Database
from tests.accounts import sign_in
from tests.api.test_menus import read, save, with_line
from tests.constants import PASSWORD

pytestmark = pytest.mark.usefixtures("brackwater")


async def search(api: httpx.AsyncClient, words: str) -> dict[str, Any]:
    answer = await api.get("/api/search", params={"words": words})
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


async def test_a_menu_is_found_by_a_few_letters_of_its_site_and_name(as_ines: httpx.AsyncClient) -> None:
    found = await search(as_ines, "brack HEADER")
    assert [(one["site"], one["menu"]) for one in found["menus"]] == [("brackwater", "header")]
    assert found["hangs"]["brackwater/header"] == ["Header bar"]
    assert (await search(as_ines, "brack"))["sites"] == [{"key": "brackwater", "name": "Brackwater Ferries"}]


@pytest.mark.parametrize(
    ("words", "number", "leads_to"),
    [
        ("islander", "2.1", "@fares-islander-pass"),
        ("live departures", "1.3", "https://live.brackwater.example/"),
        ("dienstrooster", "5", "/crew/{visitor.id}/rota"),
        ("tickets.brackwater header", "6", "https://tickets.brackwater.example/"),
        ("!question", "3.3", "!question-form"),
    ],
)
async def test_an_entry_is_found_by_its_words_in_any_language_and_by_its_goal(
    as_ines: httpx.AsyncClient, words: str, number: str, leads_to: str
) -> None:
    [first, *_] = (await search(as_ines, words))["entries"]
    assert (first["number"], first["leads_to"]) == (number, leads_to)


async def test_one_finds_what_one_sees(as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient) -> None:
    """What somebody else edits in a change of their own is not there yet; as a percent sign, `%` is itself."""
    bench = await read(as_ines)
    await save(as_ines, with_line(bench["document"], "Quiet lounge"), bench["hash"])
    assert [one["label"] for one in (await search(as_ines, "quiet lounge"))["entries"]] == ["Quiet lounge"]
    assert (await search(as_tom, "quiet lounge"))["entries"] == []
    nothing = {"sites": [], "menus": [], "entries": [], "pages": [], "people": [], "hangs": {}}
    assert await search(as_ines, "%") == await search(as_ines, " ") == nothing


async def test_pages_and_people_are_found_by_whom_they_concern(as_ines: httpx.AsyncClient, database: Database) -> None:
    assert [one["path"] for one in (await search(as_ines, "regatta"))["pages"]] == ["/offers/regatta"]
    assert (await search(as_ines, "calder"))["people"] == [], "who does not look after accounts finds nobody"
    await add_person(
        database, email="owen@quillfen.example", name="Owen", password=PASSWORD, role="owner", now=datetime.now(UTC)
    )
    await sign_in(as_ines, "owen@quillfen.example")
    [found] = (await search(as_ines, "calder"))["people"]
    assert found["name"] == "Ines Calder"

"""A client's word by a link: what is shown, what is said, and that a link tells nothing else and nothing longer than it should."""

from urllib.parse import urlsplit

import httpx
from selectolax.lexbor import LexborHTMLParser
from sqlalchemy import text

from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.store.database import Database
from tests.desk.conftest import on_shelf
from tests.desk.test_review import do, look
from tests.desk.test_schedule import with_entry


async def linked(api: httpx.AsyncClient, change: str, **more: object) -> str:
    """The path of a new link."""
    made = await api.post(f"/api/changes/{change}/sign-offs", json={"for_whom": "Mrs Hale", **more})
    assert made.status_code == 201, made.text
    return urlsplit(made.json()["address"]).path


def content_of(page: httpx.Response) -> str:
    field = LexborHTMLParser(page.text).css_first("input[name=content]")
    assert field is not None
    return str(field.attributes["value"])


async def say(api: httpx.AsyncClient, link: str, verdict: str, says: str = "", content: str | None = None, name: str = "Ann Hale") -> httpx.Response:  # fmt: skip
    if content is None:
        content = content_of(await api.get(link))
    return await api.post(link, data={"name": name, "verdict": verdict, "says": says, "content": content})


async def test_a_client_sees_what_it_does_and_says_yes_to_exactly_that(
    as_tom: httpx.AsyncClient, api: httpx.AsyncClient, database: Database, brackwater: StandIn
) -> None:
    await on_shelf(database, "other", {"top": ["https://x.example/"]})
    change = await with_entry(as_tom, "Summer <b>", "Summer line")
    bench = (await as_tom.get(f"/api/sites/other/menus/top?in={change}")).json()
    more = bench["document"] | {"name": "Secret plans"}
    saved = await as_tom.put(f"/api/sites/other/menus/top?in={change}", json=more, headers={"if-match": bench["hash"]})
    assert saved.status_code == 200, saved.text
    assert (await as_tom.post(f"/api/changes/{change}/remarks", json={"says": "Do they pay?"})).status_code == 201
    refused = await as_tom.post(f"/api/changes/{change}/sign-offs", json={"for_whom": "Mrs Hale", "sites": ["nowhere"]})
    assert refused.status_code == 404
    link = await linked(as_tom, change, sites=["brackwater"])
    page = await api.get(link)
    assert page.status_code == 200, page.text
    tree = LexborHTMLParser(page.text)
    words = tree.body.text() if tree.body else ""
    assert "Summer <b>" in words
    assert "Added Summer line, to /x" in words
    assert tree.css_first("h1 b") is None, "what was typed is no markup"
    drawn = [str(frame.attributes["srcdoc"]) for frame in tree.css("iframe")]
    assert ["Summer line" in one for one in drawn] == [False, True], (
        "now, and then; on a phone another menu hangs, and nothing is different"
    )
    for hidden in ("Tom Arkwright", "Do they pay?", "Secret plans", "Other"):
        assert hidden not in page.text, "nothing else of the agency"
    assert page.headers["cache-control"] == "no-store"
    assert "set-cookie" not in page.headers

    answered = await say(api, link, "yes", "Lovely <i>")
    assert (answered.status_code, answered.headers["location"]) == (303, f"{link}#said")
    assert "Ann Hale says yes" in " ".join(LexborHTMLParser((await api.get(link)).text).text().split())
    ((told,),) = [(await look(as_tom, change))["sign_offs"]]
    assert [(one["name"], one["verdict"], one["says"], one["holds"]) for one in told["said"]] == [
        ("Ann Hale", "yes", "Lovely <i>", True)
    ]
    assert "Ann Hale says yes to Summer <b>, by the link for Mrs Hale" in str((await as_tom.get("/api/ledger")).json())
    # An edit makes it another: the word was on what it was then.
    before = content_of(await api.get(link))
    bench = (await as_tom.get(f"/api/sites/brackwater/menus/footer?in={change}")).json()
    edited = bench["document"] | {"name": "Foot"}
    saved = await as_tom.put(
        f"/api/sites/brackwater/menus/footer?in={change}", json=edited, headers={"if-match": bench["hash"]}
    )
    assert saved.status_code == 200, saved.text
    assert not (await look(as_tom, change))["sign_offs"][0]["said"][0]["holds"]
    stale = await say(api, link, "yes", "Still lovely", before)
    assert stale.status_code == 422
    form = LexborHTMLParser(stale.text)
    assert "It was changed while you looked at it" in form.text()
    assert form.css_first("textarea").text() == "Still lovely", "nothing that was typed is lost"  # type: ignore[union-attr]
    for verdict, says, name in (("no", " ", "Ann"), ("remark", "", "Ann"), ("yes", "", " "), ("maybe", "x", "Ann")):
        assert (await say(api, link, verdict, says, name=name)).status_code == 422
    assert (await say(api, link, "no", "Not in May")).status_code == 303


async def test_forged_ended_and_withdrawn_links_tell_nothing_and_all_the_same(
    as_tom: httpx.AsyncClient, api: httpx.AsyncClient, database: Database, brackwater: StandIn
) -> None:
    change = await with_entry(as_tom, "Summer")
    ended, withdrawn, over = [await linked(as_tom, change) for _ in range(3)]
    content = content_of(await api.get(over))
    ids = [one["id"] for one in (await look(as_tom, change))["sign_offs"]]
    async with database.transaction() as session:
        past = text("UPDATE sign_off SET until = now() WHERE id = CAST(:id AS uuid)")
        await (await session.connection()).execute(past, {"id": ids[0]})
    assert (await as_tom.delete(f"/api/changes/{change}/sign-offs/{ids[1]}")).status_code == 204
    assert (await do(as_tom, change, "withdraw")).status_code == 204
    answers = []
    for link in ("/sign-off/forged", ended, withdrawn, over):
        for answer in (await api.get(link), await say(api, link, "yes", content=content)):
            assert answer.status_code == 404
            answers.append(answer.text)
    assert len(set(answers)) == 1
    assert "Summer" not in answers[0]
    for body in ({"for_whom": " "}, {"for_whom": "x", "days": 0}, {"for_whom": "x", "days": 1_000}):
        assert (await as_tom.post(f"/api/changes/{change}/sign-offs", json=body)).status_code == 422

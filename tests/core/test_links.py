"""What is asked of an address and what follows: held to a model that simply follows, and case by case."""

from collections.abc import Mapping
from typing import Literal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.links import Answer, Ask, Came, Failed, LinkFinding, Pause, addresses_of, decide
from sign_shelf.core.links.asking import LONGEST_WAIT_S, part_named
from sign_shelf.core.model.site import Page
from sign_shelf.core.outline import parse_outline
from tests.core.test_site_edits import site

HOST = "https://client.example"
Goal = tuple[int, str]
Web = Mapping[str, int | Goal]
"""Statuses of pages, and statuses with addresses that they lead on to."""


def found(address: str, *answers: Answer, pause_s: float = 60.0) -> tuple[LinkFinding, list[Ask | Pause]]:
    """The verdict by these answers, and what was asked for them."""
    asking, asked, given = decide(address, pause_s=pause_s), [], list(answers)
    send: Answer | None = None
    while True:
        try:
            step = asking.send(send)
        except StopIteration as done:
            assert not given, "what is not asked for is not answered"
            return done.value, asked
        asked.append(step)
        send = given.pop(0) if isinstance(step, Ask) else None


def followed(web: Web, start: str) -> tuple[str, list[str]]:
    """What a visitor comes to who follows each redirect until there is none, and by which addresses."""
    at, by = start, [start]
    while isinstance(goal := web[at], tuple):
        at = goal[1]
        if at in by:
            return "loop", by
        by.append(at)
    if goal in {404, 410}:
        return "gone", by
    return ("error" if goal >= 400 else ["ok", "redirect", "chain"][min(len(by) - 1, 2)]), by


@st.composite
def webs(draw: st.DrawFn) -> Web:
    addresses = [f"{HOST}/{name}" for name in "abcdef"]
    page = st.sampled_from([200, 200, 204, 404, 410, 403, 500])
    on = st.tuples(st.sampled_from([301, 302, 303, 307, 308]), st.sampled_from(addresses))
    return {address: draw(page | on) for address in addresses}


@given(webs(), st.booleans(), st.booleans())
def test_a_web_that_stays_as_it_is_is_found_as_one_follows_it(web: Web, knows_head: bool, part: bool) -> None:
    start = f"{HOST}/a"
    asking = decide(start + ("#here" if part else ""), pause_s=30)
    send: Answer | None = None
    pauses = 0
    while True:
        try:
            step = asking.send(send)
        except StopIteration as done:
            finding: LinkFinding = done.value
            break
        if isinstance(step, Pause):
            pauses, send = pauses + 1, None
            continue
        assert step.parts == part
        goal = web[step.address]
        status, location = goal if isinstance(goal, tuple) else (goal, None)
        told = status if knows_head or step.method == "GET" else 405
        send = Came(told, location if told == status else None, None, frozenset({"here"}) if step.parts else None)
    verdict, by = followed(web, start)
    assert (finding.verdict, [hop.address for hop in finding.hops]) == (verdict, by)
    assert pauses == (verdict == "error"), "what may pass is asked twice, and nothing else"


@pytest.mark.parametrize("kind", ["slow", "no-host", "tls", "refused"])
def test_what_may_pass_counts_when_it_fails_twice(kind: Literal["slow", "no-host", "tls", "refused"]) -> None:
    failed = Failed(kind, "It is away.")
    # A connection that is refused for HEAD may be given for GET.
    tries = [failed, failed] if kind == "refused" else [failed]
    finding, asked = found(f"{HOST}/", *tries, *tries)
    assert (finding.verdict, finding.status, finding.says) == (kind, None, "It is away.")
    assert [step.seconds for step in asked if isinstance(step, Pause)] == [60.0]
    assert found(f"{HOST}/", *tries, Came(200))[0].verdict == "ok", "one failure is not dead"


def test_a_host_that_asks_to_wait_is_waited_for_but_not_for_ever() -> None:
    for asks, waits in ((5.0, 60.0), (90.0, 90.0), (1e9, LONGEST_WAIT_S)):
        busy = Came(503, wait_s=asks)
        finding, asked = found(f"{HOST}/", busy, busy, Came(200))
        assert ([step.seconds for step in asked if isinstance(step, Pause)], finding.verdict) == ([waits], "ok")


def test_parts_are_looked_for_where_there_are_any() -> None:
    page = Came(200, parts=frozenset({"zürich", "a%20b", "times"}))
    for fragment, verdict in (
        ("times", "ok"), ("z%C3%BCrich", "ok"), ("a%20b", "ok"), ("fares", "missing-part"), ("top", "ok"), ("TOP", "ok"),
        ("/route", "ok"), (":~:text=fares", "ok"), ("fares:~:text=x", "missing-part"),
    ):  # fmt: skip
        named = part_named(fragment) is not None
        finding, [first, *_] = found(f"{HOST}/p#{fragment}", page if named else Came(200))
        assert (finding.verdict, first) == (verdict, Ask(f"{HOST}/p", "GET" if named else "HEAD", named)), fragment
    assert found(f"{HOST}/guide.pdf#page=3", Came(200))[0].verdict == "ok", "a document has no parts that are seen"
    # The part is handed on, unless the next address has one (RFC 9110, 10.2.2).
    assert found(f"{HOST}/p#fares", Came(301, "/q"), page)[0].verdict == "missing-part"
    assert found(f"{HOST}/p#fares", Came(301, "/q#times"), page)[0].verdict == "redirect"
    finding, asked = found(f"{HOST}/p", Came(301, "/q#fares"), page)
    assert (finding.verdict, [step.method for step in asked if isinstance(step, Ask)]) == (
        "missing-part",
        ["HEAD", "GET"],
    )


def test_where_it_leads_is_told_in_words() -> None:
    says = {
        found(f"{HOST}/a", Came(308, "/b"), Came(200))[0].says: "It leads on for good, to https://client.example/b.",
        found(f"{HOST}/a", Came(301, "/b"), Came(302, "//other.example/"), Came(200))[0].says:
            "It leads on 2 times, for now, to https://other.example/.",
        found(f"{HOST}/a", Came(301, "mailto:x@y.example"))[0].says:
            'It leads on to "mailto:x@y.example", which is no http or https address.',
        found(f"{HOST}/a", Came(301, "/b"), Came(404), Came(404))[0].says:
            "There is no such page at https://client.example/b (404).",
        found(f"{HOST}/a", Came(301, "/b"), Failed("not-asked", "It is private."))[0].says: "It is private.",
    }  # fmt: skip
    assert list(says) == list(says.values())
    endless = [Came(302, f"/{at}") for at in range(1, 30)]
    finding, _ = found(f"{HOST}/0", *endless[:21])
    assert (finding.verdict, len(finding.hops)) == ("loop", 21)
    lost, asked = found(f"{HOST}/a", Came(302), Came(302), pause_s=0)
    assert (lost.verdict, len(asked)) == ("error", 3), "one that leads nowhere is no page"


def test_each_address_is_asked_once_and_told_with_all_its_uses() -> None:
    plain = site({("header", "desktop"): "main"}, {})
    lines = (
        "Shop -> /shop\n  Again -> /shop\n  Times -> @times#winter\nAway -> https://away.example/#x\n"
        "Write -> mailto:a@b.example\nCall -> tel:+441234567\nTop -> #top\nLater -> ?\nGone -> @gone\nHeading:\n"
    )
    document = plain.model_copy(
        update={
            "menus": {"main": parse_outline(lines), "end": parse_outline("Shop -> /shop\n")},
            "pages": (Page(ref="times", path="/timetables"),),
        }
    )
    told = {one.address: one for one in addresses_of(document)}
    assert list(told) == [
        "/shop",
        "/timetables#winter",
        "https://away.example/#x",
        "mailto:a@b.example",
        "tel:+441234567",
        "#top",
    ]
    assert [(use.menu, use.number) for use in told["/shop"].used] == [("main", "1"), ("main", "1.1"), ("end", "1")]
    assert [one.absolute is None for one in told.values()] == [False, False, False, True, True, True]
    assert all(one.why_not for one in told.values() if one.absolute is None)

"""What a reading of a site's pages tells: differences, what is doubted, and where new pages belong in menus."""

from collections.abc import Sequence

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.inventory import (
    Answered,
    Compared,
    KnownPage,
    News,
    Reading,
    SeenPage,
    compared,
    doubt,
    placing,
)
from sign_shelf.core.inventory.placing import top_level
from sign_shelf.core.model.site import Page
from sign_shelf.core.outline import parse_outline

HOME = KnownPage(Page(ref="home", path="/", title={"en": "Home"}, language="en"), "home text")
FARES = KnownPage(Page(ref="fares", path="/fares", title={"en": "Fares"}, language="en"), "fares text")


def known(path: str, content: str = "") -> KnownPage:
    ref = path.strip("/").replace("/", "-")
    return KnownPage(Page(ref=ref, path=path, title={"en": path}, language="en"), content or f"text of {path}")


def seen(title: str, content: str = "", **more: object) -> Answered:
    return Answered("page", SeenPage(title=title, language="en", content=content, **more))  # type: ignore[arg-type]


def told(
    pages: Sequence[KnownPage], answers: dict[str, Answered], listed: Sequence[str] | None = None, ending: str = ""
) -> Compared:
    paths = tuple(listed) if listed is not None else tuple(dict.fromkeys([one.page.path for one in pages] + [*answers]))
    return compared(pages, Reading(answers, paths), language="en", ending=ending)


def kinds(found: Compared) -> list[tuple[str, str]]:
    return [(one.kind, one.ref) for one in found.news]


@pytest.mark.parametrize(("answered", "kind", "state"), [
    (Answered("gone"), "gone", "gone"),
    (Answered("hidden"), "unpublished", "hidden"),
    (Answered("none"), None, "published"),
    (Answered("unchanged"), None, "published"),
    (seen("Fares", "fares text"), None, "published"),
    (seen("Fares and passes", "fares text"), "changed", "published"),
    (seen("Fares", "fares text", parts=("groups",)), "changed", "published"),
    (seen("Fares", "fares text", noindex=True), "changed", "published"),
    (Answered("moved", to=None), "gone", "gone"),
])  # fmt: skip
def test_what_an_address_answers_is_what_becomes_of_its_page(answered: Answered, kind: str | None, state: str) -> None:
    found = told([HOME, FARES], {"/fares": answered})
    assert [one.kind for one in found.news] == ([kind] if kind else [])
    assert {page.ref: page.state for page in found.pages} == {"home": "published", "fares": state}
    assert kinds(told([HOME, FARES], {"/fares": answered}, listed=["/"])) == kinds(found), "no sitemap decides on it"


def test_a_page_that_was_gone_comes_back_with_its_reference() -> None:
    gone = KnownPage(FARES.page.model_copy(update={"state": "gone"}), "fares text")
    for answered in (Answered("unchanged"), seen("Fares", "fares text")):
        found = told([HOME, gone], {"/fares": answered})
        assert (kinds(found), found.pages[1].state) == ([("back", "fares")], "published")
    assert kinds(told([HOME, gone], {"/fares": Answered("gone")})) == []


def test_a_page_moves_by_a_redirect_for_good_or_with_its_title_and_text() -> None:
    by_redirect = told(
        [HOME, FARES], {"/fares": Answered("moved", SeenPage("Fares", content="new words"), to="/prices")}
    )
    by_content = told([HOME, FARES], {"/fares": Answered("gone"), "/prices": seen("Fares", "fares text")})
    for found in (by_redirect, by_content):
        assert kinds(found) == [("moved", "fares")]
        assert [page.path for page in found.pages] == ["/", "/prices"]
    # Another text, another title, or two that came alike: one page went and another came.
    for other in ({"/prices": seen("Fares", "else")}, {"/prices": seen("Prices", "fares text")}):
        assert kinds(told([HOME, FARES], {"/fares": Answered("gone"), **other})) == [
            ("gone", "fares"),
            ("new", "prices"),
        ]
    twins = {"/a": seen("Fares", "fares text"), "/b": seen("Fares", "fares text")}
    assert ("gone", "fares") in kinds(told([HOME, FARES], {"/fares": Answered("gone"), **twins}))


def test_a_redirect_to_a_page_that_is_known_is_an_end_and_says_where_it_leads() -> None:
    both = [HOME, FARES, known("/prices")]
    found = told(both, {"/fares": Answered("moved", SeenPage("Prices"), to="/prices")})
    assert [(one.kind, one.because) for one in found.news] == [("gone", "its address leads to /prices for good")]


def test_new_pages_are_named_by_their_titles_or_their_addresses_and_stand_below_their_parents() -> None:
    fresh = {"/fares/groups": seen("Groups – Brackwater", "x"), "/fares": seen("Fares", "y")}
    found = told([HOME], fresh, listed=["/", "/fares", "/fares/groups", "/day-trips.html"], ending=" – Brackwater")
    assert [(page.ref, page.title["en"], page.under) for page in found.pages[1:]] == [
        ("fares", "Fares", None), ("fares-groups", "Groups", "fares"), ("day-trips", "Day trips", None),
    ]  # fmt: skip
    assert found.contents["fares-groups"] == "x"
    assert [page.ref for page in top_level([one.after for one in found.news])] == ["fares", "day-trips"]


ANSWERS = st.one_of(
    st.sampled_from([Answered("gone"), Answered("hidden"), Answered("none"), Answered("unchanged")]),
    st.builds(seen, st.sampled_from(["One", "Two", "Three"]), st.sampled_from(["x", "y", ""])),
    st.builds(lambda to: Answered("moved", SeenPage("Moved", content="z"), to=to), st.sampled_from([f"/{n}" for n in range(8)])),
)  # fmt: skip


def sound(answered: Answered, answers: dict[str, Answered]) -> Answered:
    """Where a move leads is what stands there, where that is asked as well."""
    there = answers.get(answered.to or "", answered)
    if answered.answer != "moved" or there is answered:
        return answered
    return Answered("moved", there.page, to=answered.to) if there.answer == "page" else Answered("none")


@given(
    st.lists(st.sampled_from([known(f"/{n}", "x" if n % 2 else "y") for n in range(6)]), unique_by=lambda one: one.page.ref),
    st.dictionaries(st.sampled_from([f"/{n}" for n in range(8)]), ANSWERS),
)  # fmt: skip
def test_references_stay_addresses_are_had_once_and_nothing_is_told_twice(
    pages: list[KnownPage], answers: dict[str, Answered]
) -> None:
    answers = {path: sound(answered, answers) for path, answered in answers.items()}
    found = told([HOME, *pages], answers)
    refs = [page.ref for page in found.pages]
    assert refs[: 1 + len(pages)] == ["home", *(one.page.ref for one in pages)]
    assert len(set(refs)) == len(refs)
    assert len({page.path for page in found.pages}) == len(refs)
    asked = {one.page.ref: answers[one.page.path].answer for one in pages if one.page.path in answers}
    for one in found.news:
        if one.kind in {"gone", "unpublished"}:
            assert asked[one.ref] in {"gone", "hidden", "moved"}, "only its own address says so"
    # What is asked next answers as the site now is: no address that led elsewhere is asked again.
    after = [KnownPage(page, found.contents[page.ref]) for page in found.pages]
    again = {path: answered for path, answered in answers.items() if answered.answer != "moved"}
    assert kinds(told(after, again, listed=[page.path for page in found.pages])) == []


@pytest.mark.parametrize(("lost", "listed", "before", "says"), [
    (5, 40, 40, None),
    (7, 40, 40, "7 of 12 pages answered that they are not there"),
    (0, 0, 12, "the sitemap named 12 pages and names none any more; each of them still answers"),
    (0, 5, 12, "the sitemap named 12 pages and names only 5; each of them still answers"),
    (0, 7, 12, None),
    (0, 0, 4, None),
])  # fmt: skip
def test_too_much_at_once_is_doubted(lost: int, listed: int, before: int, says: str | None) -> None:
    pages = [known(f"/{n}").page for n in range(12)]
    news = [News(kind="gone", ref=page.ref, before=page, after=page) for page in pages[:lost]]
    assert doubt(pages, news, listed=listed, listed_before=before) == says


PAGES = {
    page.ref: page
    for page in (
        Page(ref="home", path="/"), Page(ref="fares", path="/fares"), Page(ref="day", path="/fares/day", under="fares"),
        Page(ref="groups", path="/fares/groups", under="fares"), Page(ref="week", path="/fares/week", under="fares"),
        Page(ref="news", path="/news"), Page(ref="jobs", path="/jobs"), Page(ref="regatta", path="/offers/regatta"),
        Page(ref="winter", path="/offers/winter"), Page(ref="about", path="/about"),
    )
}  # fmt: skip


@pytest.mark.parametrize(("ref", "outline", "where"), [
    ("week", "Fares -> @fares\n  Day -> @day\n  Groups -> @groups\nNews -> @news",
     ("fares", 2, "its address is under /fares, and 2 of the pages beside it stand there")),
    ("week", "Fares -> @fares\nNews -> @news", ("fares", 0, "its address is under /fares")),
    ("winter", "Plan:\n  Regatta -> @regatta\nNews -> @news", ("plan", 1, "1 of the pages beside it stands there (/offers)")),
    ("about", "News -> @news\nJobs -> @jobs", (None, 2, "2 of the pages beside it stand there (at the top of the site)")),
    ("winter", "News -> @news\nJobs -> @jobs", None),
    ("week", "Fares -> @fares\n  Week -> @week", None),
    ("winter", "Plan:\n  Regatta -> @regatta\n  News -> @news\n  Jobs -> @jobs", None),
])  # fmt: skip
def test_a_new_page_belongs_where_its_address_and_its_neighbours_stand(
    ref: str, outline: str, where: tuple[str | None, int, str] | None
) -> None:
    found = placing(PAGES[ref], PAGES, {"header": parse_outline(outline)})
    assert (None if found is None else (found.parent, found.at, found.because)) == where

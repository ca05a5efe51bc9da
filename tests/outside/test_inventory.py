"""Finding pages: robots.txt is heeded, titles are freed of what all share, addresses are made one form."""

from collections.abc import Callable

import pytest
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, PlainTextResponse, RedirectResponse, Response
from starlette.routing import Route

from sign_shelf.core.basics.address import normal
from sign_shelf.core.formats.html_tree import MAX_NESTING, _depth, parse, tidy_words
from sign_shelf.core.inventory import shared_ending
from sign_shelf.demo.cluster import free_port
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.outside.reading import ReadSite, read_site
from sign_shelf.outside.reading.page import read_page
from sign_shelf.outside.reading.site import site_name
from tests.serving import serving


async def taken(fetcher: Fetcher, files: dict[str, str | Callable[[], Response]]) -> ReadSite:
    """What is read of a site that answers with these files; `{base}` in them is its address."""
    port = free_port()
    base = f"http://127.0.0.1:{port}/"

    async def answer(request: Request) -> Response:
        found = files.get(request.path_params["path"])
        if found is None:
            return PlainTextResponse("no", 404)
        if callable(found):
            return found()
        text = found.replace("{base}", base)
        return PlainTextResponse(text) if request.path_params["path"].endswith((".txt", ".xml")) else HTMLResponse(text)

    with serving(Starlette(routes=[Route("/{path:path}", answer)]), port):
        return await read_site(fetcher, base)


def paths(found: ReadSite) -> list[str]:
    return [page.path for page in found.pages]


async def test_without_a_sitemap_links_are_followed_from_the_home_page(fetcher: Fetcher) -> None:
    found = await taken(
        fetcher,
        {
            "": '<title>Home - Post</title><a href="one">1</a><a href="/two?x=1#y">2</a><a href="index.html">home</a>'
            '<a href="https://elsewhere.example/">out</a><a href="/photo.jpg">picture</a><a href="mailto:x@y.example">m</a>',
            "one": '<title>One - Post</title><a href="/deep/three">3</a>',
            "two": "<title>Two - Post</title>",
            "deep/three": "<title>Three - Post</title>",
        },
    )
    assert paths(found) == ["/", "/one", "/two?x=1", "/deep/three"]
    assert [page.title["en"] for page in found.pages][1:] == ["One", "Two", "Three"]


async def test_robots_txt_is_heeded_and_names_the_sitemap(fetcher: Fetcher) -> None:
    found = await taken(
        fetcher,
        {
            "": "<title>Post</title>",
            "robots.txt": "User-agent: *\nDisallow: /private\nSitemap: {base}maps/all.xml\n",
            "maps/all.xml": "<urlset><url><loc>{base}a</loc></url><url><loc>{base}private/b</loc></url>"
            "<url><loc>https://elsewhere.example/c</loc></url><url><loc>javascript:x</loc></url>"
            "<url><loc>{base}gone</loc></url><url><loc>{base}moved</loc></url></urlset>",
            "a": "<title>A</title>",
            "private/b": "<title>Never opened</title>",
            "moved": lambda: RedirectResponse("/a"),
        },
    )
    assert "Never opened" not in str(found.pages)
    assert "/private/b" in paths(found), "known from the sitemap, named after its address"
    assert "/gone" not in paths(found)
    assert any("robots.txt asks not to read" in note for note in found.notes)


async def test_a_broken_sitemap_is_told_and_links_are_followed_instead(fetcher: Fetcher) -> None:
    found = await taken(
        fetcher,
        {
            "": '<title>Post</title><a href="/a">a</a>',
            "sitemap.xml": '<!DOCTYPE x [<!ENTITY a "b">]><urlset><url><loc>&a;</loc></url></urlset>',
            "a": "<title>A</title>",
        },
    )
    assert paths(found) == ["/", "/a"]
    assert any("document type or entities" in note for note in found.notes)


async def test_pages_know_their_parents_by_their_addresses(fetcher: Fetcher) -> None:
    found = await taken(
        fetcher,
        {
            "": '<title>Post</title><a href="/a/">a</a><a href="/a/b.html">b</a><a href="/a/c/d">d</a>',
            "a/": "<title>A</title>",
            "a/b.html": "<title>B</title>",
            "a/c/d": "<title>D</title>",
        },
    )
    assert {page.path: page.under for page in found.pages} == {"/": None, "/a/": None, "/a/b.html": "a", "/a/c/d": "a"}
    assert [page.ref for page in found.pages] == ["home", "a", "a-b", "a-c-d"]


async def test_the_language_of_the_page_is_the_language_of_its_labels(fetcher: Fetcher) -> None:
    found = await taken(fetcher, {"": '<html lang="cy-GB"><title>Post</title><nav><a href="/a">Hafan</a></nav></html>'})
    assert found.languages == ("cy",)
    assert found.menus[0].document.items[0].label == {"cy": "Hafan"}  # type: ignore[union-attr]


@pytest.mark.parametrize(
    ("url", "expected"),
    [
        ("a/../b#c", "https://x.example/b"),
        ("//y.example", "https://y.example/"),
        ("HTTP://Y.Example:80/%7Ea", "http://y.example/%7Ea"),
        ("https://bücher.example/ü", "https://xn--bcher-kva.example/%C3%BC"),
        ("?q=1", "https://x.example/?q=1"),
        ("mailto:a@b.example", None),
        ("javascript:x", None),
        ("https://me:pw@y.example/", None),
        ("http://[", None),
        ("https://exa mple/", None),
    ],
)
def test_addresses_are_read_as_a_browser_reads_them(url: str, expected: str | None) -> None:
    assert normal(url, "https://x.example/") == expected


@pytest.mark.parametrize(
    ("titles", "ending"),
    [
        (["Fares – Ferries", "Home – Ferries", "Ferries"], " – Ferries"),
        (["A | B | Site", "C | Site"], " | Site"),
        (["One", "Two - x", "Three - y"], ""),
        ([], ""),
        (["well-known thing", "other-thing"], ""),
    ],
)
def test_what_all_titles_end_with_is_found(titles: list[str], ending: str) -> None:
    assert shared_ending(titles) == ending


@pytest.mark.parametrize(
    ("html", "name"),
    [
        ("<title>Home – Tollan Post</title>", "Tollan Post"),
        ("<title>Tollan Post | Welcome</title>", "Tollan Post"),
        ('<title>x</title><meta property="og:site_name" content="The Post">', "The Post"),
        ("<title></title>", "fallback.example"),
        ("", "fallback.example"),
    ],
)
def test_sites_are_called_what_they_call_themselves(html: str, name: str) -> None:
    page = read_page("http://x.example/", parse(html.encode(), "x"))
    assert site_name(page, "fallback.example") == name


def test_pages_tell_their_parts_and_overlays() -> None:
    html = (
        '<html lang="nl"><meta property="og:type" content="Route"><h2 id="fares">x</h2><section id="a b"></section>'
        '<h3 id="fares"></h3><dialog id="ask"></dialog><div role="dialog" id="tell"></div></html>'
    )
    page = read_page("http://x.example/", parse(html.encode(), "x"))
    assert (page.language, page.type, page.parts, page.overlays) == ("nl", "route", ("fares",), ("ask", "tell"))


def test_nesting_is_counted_without_being_fooled() -> None:
    assert _depth(b"<div><p>one<p>two<br><img></div>" * 1_000) < 5
    assert _depth(b"<ul>" + b"<li>x" * 2_000 + b"</ul>") < 5
    assert _depth(b"<div></span>" * 2_000) > MAX_NESTING
    assert tidy_words(" a\n\tb\u202e\u2066c\x00 ") == "a b c"

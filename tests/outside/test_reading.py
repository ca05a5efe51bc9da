"""Reading sites: navigations out of HTML by cases, and whole sites that nobody here wrote."""

import http.server
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from html import unescape
from pathlib import Path

import pytest
from selectolax.lexbor import LexborHTMLParser

from sign_shelf.core.drawing.elevation import elevation
from sign_shelf.core.errors import SourceRefused
from sign_shelf.core.fit import fit, request_of
from sign_shelf.core.look import PlaceLook
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.model.tree import count
from sign_shelf.core.outline import format_outline
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.demo.cluster import free_port
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.outside.fonts import shipped_fonts
from sign_shelf.outside.reading import read_site
from sign_shelf.settings import STATIC

PAGE = """<!doctype html><html lang="en-GB"><head><title>Home – Tollan Post</title></head><body>
<header><nav aria-label="main"><ul>
  <li><a href="/routes">Routes</a><ul><li><a href="routes/north">North &amp; east</a></li><li role="separator"></li>
      <li><a href="https://other.example/x#y" target="_blank" rel="noopener">Elsewhere</a></li></ul></li>
  <li><span>About us</span><div><ul><li><a href="/#team">Team</a></li></ul></div></li>
  <li><button aria-haspopup="dialog" aria-controls="ask">Ask</button></li>
  <li><a href="#">Soon</a></li><li><a href="javascript:go()">Run</a></li><li><a href="#here">Here</a></li>
  <li><a href="mailto:desk@tollan.example?subject=x">Write</a></li><li><a href="tel:+44 20 1">Call</a></li>
  <li><a href="/icon"><img src="x" alt="Search"></a></li><li></li>
</ul></nav></header>
<main><p>See <a href="/routes">routes</a>.</p><ul><li><a href="/a">not a menu</a></li></ul></main>
<footer><h2>Company</h2><ul><li><a href="/about">About</a></li><li><a href="/jobs">Jobs</a></li></ul>
<h2>Help</h2><ul><li><a href="/routes?day=1">Today</a></li><li><a href="/help">Help</a></li></ul></footer>
<nav class="mobile-drawer"><ul><li><a href="/routes">Routes</a></li><li><a href="/about">About</a></li></ul></nav>
</body></html>"""

EXPECTED = """\
{menu "Main"}
Routes -> @routes
  North & east -> /routes/north
  ---
  Elsewhere -> https://other.example/x#y {new tab; rel noopener}
About us:
  Team -> @home#team
Ask -> !ask
Soon -> ? {note the site has no address here}
Run -> ? {note the site has the address javascript:go()}
Here -> #here
Write -> mailto:desk@tollan.example
Call -> <tel:+44 20 1>
Search -> /icon
"""


class _Quiet(http.server.SimpleHTTPRequestHandler):
    def log_message(self, format: str, *args: object) -> None:
        """Says nothing."""


@contextmanager
def folder_served(folder: Path) -> Iterator[str]:
    server = http.server.ThreadingHTTPServer(("127.0.0.1", free_port()), partial(_Quiet, directory=str(folder)))
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.server_port}/"
    server.shutdown()
    thread.join(10)
    server.server_close()


async def test_navigations_become_menus(fetcher: Fetcher, tmp_path: Path) -> None:
    """Nesting, headings, dividers, overlays, outside links, mail and phone; a twin list is one menu hung twice."""
    (tmp_path / "index.html").write_text(PAGE)
    for name in ("routes", "about"):
        (tmp_path / name).mkdir()
        (tmp_path / name / "index.html").write_text(f"<title>{name.title()} – Tollan Post</title><h2 id=top>x</h2>")
    with folder_served(tmp_path) as url:
        found = await read_site(fetcher, url)
    assert (found.name, found.languages, found.connection) == ("Tollan Post", ("en",), "observe")
    main, footer, _drawer = found.menus
    assert format_outline(main.document) == EXPECTED
    assert [(menu.where, menu.key) for menu in found.menus] == [
        ("header", "main"),
        ("footer", "footer-columns"),
        ("drawer", "phone-drawer"),
    ]
    assert {place: LexborHTMLParser(PAGE).css_first(at).tag for place, at in found.seen_at.items()} == {
        "bar": "nav", "columns": "footer", "drawer": "nav",
    }  # fmt: skip
    assert format_outline(footer.document).startswith('{menu "Footer columns"}\nCompany:\n  About -> @about\n')
    assert [(place.shape, place.devices[0]) for place in found.template.locations][-1] == ("drawer", "phone")
    about = next(page for page in found.pages if page.ref == "about")
    assert (about.title, about.parts) == ({"en": "About"}, ("top",))


async def test_a_page_with_endless_links_is_read_to_a_limit(fetcher: Fetcher, tmp_path: Path) -> None:
    (tmp_path / "index.html").write_text("<title>x</title><nav>" + "<a href=/x>x</a>" * 20_000)
    with folder_served(tmp_path) as url:
        found = await read_site(fetcher, url)
    assert [count(menu.document.items) for menu in found.menus] == [5_000]


@pytest.mark.parametrize("nested", ["<ul><li>", "<div>", "<b>", "<ul></x>"])
async def test_pages_that_nest_without_end_are_refused_at_once(fetcher: Fetcher, tmp_path: Path, nested: str) -> None:
    (tmp_path / "index.html").write_text("<title>x</title>" + nested * 60_000)
    with folder_served(tmp_path) as url, pytest.raises(SourceRefused, match="500 deep"):
        await read_site(fetcher, url)


async def test_a_site_that_speaks_the_protocol_gives_its_own_template(fetcher: Fetcher, stand_in: StandIn) -> None:
    found = await read_site(fetcher, stand_in.base)
    assert (found.connection, found.zone, len(found.pages)) == ("endpoint", "Europe/London", 28)
    assert [place.key for place in found.template.locations] == ["strip", "header", "drawer", "footer", "legal"]
    header = next(menu for menu in found.menus if menu.key == "header")
    assert header.document == stand_in.content.menus["header"]
    cabins = next(page for page in found.pages if page.path == "/on-board/cabins")
    assert (cabins.under, cabins.overlays) == ("on-board", ("question-form",))
    assert next(page for page in found.pages if page.path == "/routes/skerry").type == "route"


async def test_the_developers_reference_is_taken_in(fetcher: Fetcher) -> None:
    """A real site from a Debian package: its pages by following links, its navigations as trees."""
    with folder_served(Path("/usr/share/developers-reference")) as url:
        found = await read_site(fetcher, url)
    assert found.name == "Debian Developer's Reference"
    assert {"scope", "pkgs", "resources"} <= {page.ref for page in found.pages}
    assert next(page for page in found.pages if page.ref == "scope").title == {"en": "1. Scope of This Document"}
    related = found.menus[0]
    assert related.where == "header"
    assert "next -> @scope" in format_outline(related.document)
    assert found.connection == "observe"


async def test_the_git_documentation_is_taken_in(fetcher: Fetcher) -> None:
    """Two hundred pages without a single landmark: the lists of its front page are offered, named by their headings."""
    with folder_served(Path("/usr/share/doc/git-doc")) as url:
        found = await read_site(fetcher, url)
    assert len(found.pages) > 150
    porcelain = next(menu for menu in found.menus if menu.title == "Main porcelain commands")
    assert '"git-add(1)" -> @git-add' in format_outline(porcelain.document).replace("git-add(1) ->", '"git-add(1)" ->')
    assert any("opened" in note for note in found.notes)


@pytest.mark.parametrize(
    ("folder", "page", "shape", "label"),
    [
        ("/usr/share/doc/debian-policy/policy.html", "", "side", "Next topic"),
        ("/usr/share/doc/debmake-doc/html", "index.en.html", "side", "1. Overview"),
    ],
)
async def test_real_sites_are_drawn_and_measured(
    fetcher: Fetcher, folder: str, page: str, shape: str, label: str
) -> None:
    """Two more sites that nobody here wrote: their menus stand in their elevation, and what stands side by side is
    measured as it would be for any client's site."""
    with folder_served(Path(folder)) as url:
        found = await read_site(fetcher, url + page)
    site = read(
        SiteDocument,
        {
            "format": "sign-shelf/site",
            "version": 1,
            "site": {"key": found.key, "name": found.name, "base": found.url, "languages": list(found.languages)},
            "template": found.template.to_json(),
            "menus": {menu.key: menu.document.to_json() for menu in found.menus},
            "placements": [placement.to_json() | {"menu": placement.menu} for placement in found.placements],
            "pages": [one.to_json() for one in found.pages],
        },
    )
    prepared = Prepared(site)
    lens = Lens(device="desktop", language=found.languages[0], at="2027-01-01T12:00")
    drawn = elevation(prepared, lens)
    assert label in unescape(drawn.html)
    assert all(standing.entries for standing in drawn.standing)
    place = next(one for one in found.template.locations if one.shape == shape)
    across = place.model_copy(update={"shape": "bar", "look": PlaceLook(font="Noto Sans", max=1_000)})
    items = prepared.resolve(place.key, lens).items
    measured = fit(shipped_fonts(STATIC / "fonts"), request_of(items, across, language="en", device="desktop"))
    assert len(measured.item_widths) == len(items)
    assert measured.missing == ()
    assert measured.rows_at[0][1] >= measured.rows_at[-1][1] >= 1


@pytest.mark.parametrize(
    ("url", "says"),
    [
        ("ftp://x.example/", "no http or https"),
        ("http://127.0.0.1:1/", "No usable answer"),
        ("javascript:x", "no http or https"),
    ],
)
async def test_what_cannot_be_read_is_refused(fetcher: Fetcher, url: str, says: str) -> None:
    with pytest.raises(SourceRefused, match=says):
        await read_site(fetcher, url)

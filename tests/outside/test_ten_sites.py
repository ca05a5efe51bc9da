"""Ten documentation sites of Debian's, which nobody here wrote: their main navigations are found and every link of them is read, as a walk
with lxml alone reads it; and what was read is what the site shows, to the live reading as well."""

import re
from pathlib import Path
from urllib.parse import urldefrag, urljoin, urlsplit

import lxml.html
import pytest

from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import Link, MenuDocument, PageTarget, PendingTarget, walk
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.outline.writing import target_text
from sign_shelf.core.protocol.drift import page_drift
from sign_shelf.core.protocol.on_the_page import on_the_page
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.outside.reading import ReadSite, read_site
from tests.outside.test_reading import folder_served

DOC = Path("/usr/share/doc")
# Its home page, where its main navigations stand (XPath), and how many links each of them has.
SITES: dict[str, tuple[Path, dict[str, int]]] = {
    "flask": (DOC / "python-flask-doc/html/index.html", {'//div[@class="related"][1]': 4, '//div[@class="sphinxsidebar"]': 10}),
    "jinja": (DOC / "python-jinja2-doc/html/index.html", {'//div[@class="related"][1]': 4, '//div[@class="sphinxsidebar"]': 7}),
    "click": (DOC / "python-click-doc/html/index.html", {'//div[@class="related"][1]': 4, '//div[@class="sphinxsidebar"]': 10}),
    "requests": (DOC / "python-requests-doc/html/index.html", {'//div[@class="sphinxsidebar"]': 9}),
    "bottle": (DOC / "python-bottle-doc/html/index.html", {'//div[@class="sphinxsidebar"]': 16}),
    "mkdocs": (DOC / "mkdocs/html/index.html", {'//*[@id="navbar-collapse"]/ul[1]': 19}),
    "developers-reference": (Path("/usr/share/developers-reference/index.html"), {'//div[@class="related"][1]': 4}),
    "debian-policy": (DOC / "debian-policy/policy.html/index.html", {'//div[@class="related"][1]': 3}),
    "debmake": (DOC / "debmake-doc/html/index.en.html", {'//div[@class="toc"]/dl': 159}),
    "git": (DOC / "git-doc/git.html", {'//*[h3[@id="_main_porcelain_commands"]]//dl': 44}),
}  # fmt: skip


def by_lxml(page: Path, base: str, where: str) -> list[str]:
    """The addresses in a part of the page, from top to bottom; what leads nowhere opens what is below it."""
    tree = lxml.html.parse(str(page), parser=lxml.html.HTMLParser(encoding="utf-8")).getroot()
    (part, *_) = tree.xpath(where)
    return [urljoin(base, href.strip()) for href in part.xpath(".//a/@href") if href != "#"]


def by_us(found: ReadSite, menu: MenuDocument) -> list[str]:
    """The same of a menu that was read."""
    paths = {page.ref: page.path for page in found.pages}
    told = []
    for _, item in walk(menu.items):
        if isinstance(item, Link) and not isinstance(item.target, PendingTarget):
            target = item.target
            text = (
                f"{paths[target.page]}{f'#{target.part}' if target.part else ''}"
                if isinstance(target, PageTarget)
                else target_text(target)
            )
            told.append(urljoin(found.url, text))
    return told


def same_page(address: str, base: str) -> str:
    """An index is its folder; where a page leads to itself counts as that page."""
    bare, part = urldefrag(address)
    path = re.sub(r"/index(\.en)?\.html$", "/", urlsplit(urljoin(base, bare)).path)
    return f"{path}#{part}" if part else path


@pytest.mark.parametrize("name", SITES)
async def test_main_navigations_are_found_and_every_link_of_them_is_read(fetcher: Fetcher, name: str) -> None:
    page, expected = SITES[name]
    with folder_served(page.parent) as url:
        found = await read_site(fetcher, url + page.name)
        home = await fetcher.get(url + page.name)
    read_ = [by_us(found, menu.document) for menu in found.menus]
    for where, count in expected.items():
        links = [same_page(one, home.url) for one in by_lxml(page, home.url, where)]
        assert len(links) == count, "as it was when this was written"
        mine = [[same_page(one, home.url) for one in one_menu] for one_menu in read_]
        assert links in mine, (where, links, mine)

    # Read as it is live, the page shows what was just read from it.
    site = read(
        SiteDocument,
        {
            "format": "sign-shelf/site", "version": 1,
            "site": {"key": found.key, "name": found.name, "base": found.url, "languages": list(found.languages)},
            "template": found.template.to_json(),
            "menus": {menu.key: menu.document.to_json() for menu in found.menus},
            "placements": [placement.to_json() | {"menu": placement.menu} for placement in found.placements],
            "pages": [one.to_json() for one in found.pages],
        },
    )  # fmt: skip
    prepared, language = Prepared(site), found.languages[0]
    shows = on_the_page(home.body, site.pages, language=language, base=home.url, seen_at=found.seen_at)
    assert shows.at.keys() == found.seen_at.keys(), "where they were found they are found again"
    at = Lens(device="desktop", language=language, at="2027-01-01T12:00")
    for location in site.template.locations:
        if "desktop" in location.devices and location.shape != "section":
            hung = next(one.menu for one in site.placements if one.location == location.key and one.menu)
            drifted = page_drift(
                prepared.resolve(location.key, at), shows.of(location.key), site.pages, language=language, base=home.url,
                menu=site.menus[hung].items, surely=location.key in shows.at,
            )  # fmt: skip
            assert drifted is None, (location.key, [edit.says for edit in drifted.edits][:5])

"""The stand-in sites: whole, without dead ends, and as they should be on each device."""

import asyncio
import json
import os
import re
import subprocess
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from urllib.parse import urljoin, urlsplit

import httpx
import pytest
from pydantic import SecretStr
from selectolax.lexbor import LexborHTMLParser

from sign_shelf.core.errors import SiteRefused
from sign_shelf.core.model.documents import content_hash
from sign_shelf.core.model.menu import Link, PageTarget, walk
from sign_shelf.core.model.tree import depth_of
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.protocol.placed import placed_menu
from sign_shelf.demo import cluster
from sign_shelf.demo.stand_ins.building import Building
from sign_shelf.demo.stand_ins.content import Content, whole_demo
from sign_shelf.demo.stand_ins.pages import PageWriter, site_document
from sign_shelf.demo.stand_ins.server import CLOCK, StandIn, make_stand_ins, stand_in_app
from sign_shelf.outside.endpoint import write_slot
from sign_shelf.outside.fetch import Fetcher
from tests.constants import LOOPBACK
from tests.serving import serving

CONTENTS = {content.key: content for content in whole_demo()[:8]}


def html(content: Content, path: str, *, language: str | None = None, at: datetime | None = None) -> LexborHTMLParser:
    document = site_document(content, content.placed(), "http://127.0.0.1:1/")
    writer = PageWriter(content, document, language or content.languages[0], at or datetime(2026, 11, 24, tzinfo=UTC))
    page = next(page for page in content.pages if page.path == path)
    return LexborHTMLParser(writer.page(page))


def entries(tree: LexborHTMLParser, place: str) -> list[str]:
    return [node.text(deep=True).strip() for node in tree.css(f'[data-place="{place}"] a, [data-place="{place}"] span')]


@pytest.mark.parametrize("content", CONTENTS.values(), ids=list(CONTENTS))
def test_menus_fit_their_places_and_lead_to_pages_that_exist(content: Content) -> None:
    refs = {page.ref for page in content.pages}
    for key, menu in content.menus.items():
        place = content.template.location(key)
        assert place is not None
        assert depth_of(menu.items) <= place.depth
        for _, item in walk(menu.items):
            assert item.kind in place.kinds
            if isinstance(item, Link) and isinstance(item.target, PageTarget):
                assert item.target.page in refs, (content.key, key, item.id)


@pytest.fixture(scope="module")
def all_sites(tmp_path_factory: pytest.TempPathFactory) -> Iterator[list[StandIn]]:
    return make_stand_ins(tmp_path_factory.mktemp("sites"), iter(lambda: cluster.free_port(), None))


async def test_no_link_of_any_site_is_dead(all_sites: list[StandIn]) -> None:
    """Every page of every sitemap is there, and so is everything on the site that its pages link to."""
    async with httpx.AsyncClient(trust_env=False) as client:
        for site in all_sites:
            with serving(stand_in_app(site), site.port):
                sitemap = (await client.get(f"{site.base}sitemap.xml")).text
                wanted = set(re.findall("<loc>(.*?)</loc>", sitemap))
                assert len(wanted) == len(site.content.pages)
                seen: set[str] = set()
                while missing := wanted - seen:
                    for answer in await asyncio.gather(*(client.get(url) for url in missing)):
                        assert answer.status_code == 200, answer.url
                        seen.add(str(answer.url))
                        links = [node.attributes["href"] or "" for node in LexborHTMLParser(answer.text).css("a[href]")]
                        inside = {urljoin(str(answer.url), link).partition("#")[0] for link in links}
                        wanted |= {url for url in inside if urlsplit(url).netloc == urlsplit(site.base).netloc}
                assert (await client.get(f"{site.base}nowhere")).status_code == 404


def test_pages_show_what_a_visitor_may_see_now() -> None:
    """Pending entries and entries with rules are left out; listings are filled; windows open in time."""
    ferries = CONTENTS["brackwater"]
    now = entries(html(ferries, "/"), "header")
    assert "Winter" in now
    assert "Skerry" in now
    assert not {"Summer", "Travelling with a dog", "Crew rota"} & set(now)
    assert "Summer" in entries(html(ferries, "/", at=datetime(2027, 5, 1, tzinfo=UTC)), "header")
    assert "Dienstregeling" in entries(html(ferries, "/", language="nl"), "header")


def test_the_current_page_is_marked_and_its_branch() -> None:
    tree = html(CONTENTS["brackwater"], "/on-board/cabins")
    header = tree.css_first('[data-place="header"]')
    assert header is not None
    assert [node.text() for node in header.css('[aria-current="page"]')] == ["Cabins"]
    inside = html(CONTENTS["brackwater"], "/timetables/winter").css_first('[data-place="header"] a.branch')
    assert inside is not None
    assert inside.text() == "Timetables"


async def test_a_site_that_knows_its_visitors_shows_each_their_own(all_sites: list[StandIn]) -> None:
    site = next(one for one in all_sites if one.content.key == "brackwater")
    async with httpx.AsyncClient(trust_env=False) as client:
        with serving(stand_in_app(site), site.port):
            shown = {
                who: (await client.get(site.base, params={"as": who})).text for who in ("visitor", "crew", "nobody")
            }
            said = (await client.get(f"{site.base}.well-known/sign-shelf")).json()
    assert {who: "Crew rota" in page for who, page in shown.items()} == {
        "visitor": False,
        "crew": True,
        "nobody": False,
    }
    assert said["facts"] == ["roles", "signed_in", "visitor.id"]


def test_each_device_has_its_own_navigation() -> None:
    tree = html(CONTENTS["brackwater"], "/")
    header = tree.css_first('[data-place="header"]')
    drawer = tree.css_first("details.drawer-box")
    assert header is not None
    assert drawer is not None
    assert "on-desktop" in (header.attributes["class"] or "")
    assert "on-phone" not in (header.attributes["class"] or "")
    assert "on-phone" in (drawer.attributes["class"] or "")


def test_labels_never_become_markup() -> None:
    content = CONTENTS["thornby"]
    placed = content.placed()
    evil = parse_outline('"<script>alert(1)</script>" -> "/x"'.replace('"/x"', "/x?a=1&b=2"))
    placed["legal", "desktop"] = placed_menu("legal", "desktop", evil, content.pages)
    writer = PageWriter(content, site_document(content, placed, "http://127.0.0.1:1/"), "en", datetime.now(UTC))
    page = writer.page(content.pages[0])
    assert "<script>alert" not in page
    assert "&lt;script&gt;alert(1)&lt;/script&gt;" in page
    assert 'href="/x?a=1&amp;b=2"' in page


def test_ports_and_keys_are_made_once(tmp_path: Path) -> None:
    first = make_stand_ins(tmp_path, iter(range(20_000, 21_000)))
    second = make_stand_ins(tmp_path, iter(range(30_000, 31_000)))
    assert [(site.port, site.places.secret) for site in first] == [(site.port, site.places.secret) for site in second]
    assert (tmp_path / "sites.json").stat().st_mode & 0o077 == 0
    assert len({content_hash(placed) for site in first for placed in site.places.placed.values()}) > 15


def test_the_cluster_goes_where_its_user_can_enter(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Under a folder of mode 700 PostgreSQL's own user cannot enter: the cluster lies elsewhere, and that is said."""
    closed = tmp_path / "closed"
    closed.mkdir(mode=0o700)
    folder, why = cluster.cluster_folder(closed / "pg")
    if cluster._run_as() is None:
        assert (folder, why) == (closed / "pg", None)
    else:
        assert str(folder).startswith("/var/tmp/sign-shelf-")
        assert why is not None
        assert str(folder) in why
    monkeypatch.setattr(Path, "glob", lambda self, pattern: iter(()))
    with pytest.raises(cluster.ClusterFailed, match="make setup"):
        cluster._binaries()


async def test_a_site_lives_at_the_moment_that_it_is_told_for_signatures(tmp_path: Path) -> None:
    """So that a demo has a past: what was signed then is not old, what is signed now is."""
    (site,) = make_stand_ins(tmp_path, iter(lambda: cluster.free_port(), None), [CONTENTS["brackwater"]])
    then = datetime(2026, 2, 1, 9, tzinfo=UTC)
    placed = placed_menu("legal", "desktop", parse_outline("Privacy -> /privacy"), ())
    with serving(stand_in_app(site), site.port):
        async with Fetcher(LOOPBACK) as fetcher, httpx.AsyncClient(base_url=site.base, trust_env=False) as client:

            async def write(at: datetime, key: str) -> None:
                await write_slot(
                    fetcher, f"{site.base}sign-shelf/menus", placed, secrets=[SecretStr(site.places.secret)],
                    etag=site.places.get("legal", "desktop").etag, idempotency_key=key, at=at,
                )  # fmt: skip

            with pytest.raises(SiteRefused, match="401"):
                await write(then, "old")
            assert (await client.put(CLOCK, json={"at": then.isoformat()})).status_code == 204
            await write(then, "then")
            with pytest.raises(SiteRefused, match="401"):
                await write(datetime.now(UTC), "ahead")
            assert (await client.put(CLOCK, json={"at": None})).status_code == 204
            await write(datetime.now(UTC), "now")


def test_a_site_is_built_from_what_is_pushed_to_its_repository(tmp_path: Path) -> None:
    building = Building(tmp_path, "kiln")
    assert building.placed() == {}
    placed = placed_menu("legal", "desktop", parse_outline("Privacy -> /privacy"), ())
    clone = tmp_path / "clone"
    quiet = os.environ | {"GIT_CONFIG_NOSYSTEM": "1", "GIT_CONFIG_GLOBAL": os.devnull}

    def git(*words: str) -> None:
        line = ["git", "-c", "user.name=x", "-c", "user.email=x@x.example", *words]
        subprocess.run(line, cwd=clone, check=True, env=quiet, capture_output=True)

    clone.mkdir()
    git("init", "--quiet", "--initial-branch=main", ".")
    (clone / "menus").mkdir()
    for text, found in ((json.dumps(placed.to_json()), {("legal", "desktop"): placed}), ("no menu", {})):
        (clone / "menus" / "legal.desktop.json").write_text(text)
        git("add", ".")
        git("commit", "--quiet", "-m", "Menus")
        git("push", "--quiet", str(building.repository), "HEAD:main")
        assert building.placed() == found, "built by the hook, whatever was pushed"

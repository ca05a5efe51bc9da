"""A shelf of three hundred sites of six menus of sixty items each: the server's answers, Chromium, and moving an older
database to the newest schema."""

import asyncio
import os
import re
import statistics
import subprocess
import sys
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from time import perf_counter
from uuid import UUID, uuid4

import httpx
import psycopg
from alembic import command
from psycopg.types.json import Json

from bench.bench_view import SCROLL
from bench.sharing import sharing_lines
from bench.trees import Row
from bench.world import new_database, own_cluster, signed_in_page
from sign_shelf.cli.sweeps import SITES_AT_ONCE
from sign_shelf.core.model.documents import content_hash
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.demo.cluster import Cluster
from sign_shelf.demo.portfolio import portfolio
from sign_shelf.demo.seed import PASSWORD
from sign_shelf.desk.people import add_person
from sign_shelf.store.changes import LOOKED_IN
from sign_shelf.store.database import Database
from sign_shelf.store.migrate import alembic_config, migrate
from sign_shelf.store.shelf import IN_WORK
from tests.constants import SEALS
from tests.running import environment, running

SITES = 300
SIZE = f"{SITES} sites × 6 menus × 60 items"
TIMES = 15
INES = "ines@quillfen.example"
TOMASZ = "tomasz@quillfen.example"


def shelf_lines() -> Iterator[Row]:
    with own_cluster() as (cluster, folder):
        address = new_database(cluster, "shelf")
        migrate(address, SEALS)
        database = Database(address, SEALS)
        person = asyncio.run(_people(database))
        words = [sys.executable, "-m", "sign_shelf"]
        made = folder / "sites"
        subprocess.run([*words, "portfolio", "--sites", str(SITES), "--to", str(made)], check=True)
        began = perf_counter()
        subprocess.run([*words, "import", str(made)], env=environment(address), check=True, capture_output=True)
        yield ("sites put on the shelf from files", SIZE, _s(perf_counter() - began), "", "")
        with psycopg.connect(address, autocommit=True) as tidying:
            tidying.execute("ANALYZE")
        with running(address) as shelf, httpx.Client(
            base_url=shelf.base, headers={"origin": shelf.base}, trust_env=False, timeout=60
        ) as client:  # fmt: skip
            client.post("/api/session", json={"email": INES, "password": PASSWORD})
            yield from _answers(client, address, person)
            yield from sharing_lines(client, address)
            yield _many_savers(client, shelf.base)
            yield _in_chromium(shelf.base)
        with running(address) as just_started:
            yield _first_in_chromium(just_started.base)
        yield _migration(cluster)


async def _people(database: Database) -> UUID:
    ines, _ = [
        await add_person(database, email=email, name=name, password=PASSWORD, role="lead", now=datetime.now(UTC))
        for email, name in ((INES, "Ines"), (TOMASZ, "Tomasz"))
    ]
    await database.close()
    return ines.id


def _ms(ask: Callable[[], object], times: int = TIMES) -> float:
    spent = []
    for _ in range(times):
        began = perf_counter()
        ask()
        spent.append((perf_counter() - began) * 1_000)
    return statistics.median(spent)


def _s(seconds: float) -> str:
    return f"{seconds:.1f} s"


def _sweep(client: httpx.Client) -> Iterator[Row]:
    """Entries of all menus found by a query, and what would come of each, as it is worked out."""

    def found(query: str) -> int:
        answer = client.get("/api/sweeps", params={"query": query})
        assert answer.status_code == 200, answer.text
        return int(answer.json()["entries"])

    told = []
    for query in (
        "label:contact",
        'label:~"^(contact|about)"',
        "target:pending",
        "finding:any kind:link",
        "place:header kind:heading",
    ):
        told.append(f"{query} {_ms(lambda query=query: found(query), 5):.0f} ms ({found(query)})")  # type: ignore[misc]
    yield "sweep: entries found by a query", SIZE, "; ".join(told), "", "< 300 ms"
    sites = client.get("/api/sweeps", params={"query": "label:contact"}).json()["sites"]
    body = {"query": "label:contact", "making": {"do": "look", "emphasis": "strong"}}
    began, lines, first = perf_counter(), 0, 0.0
    for at in range(0, len(sites), SITES_AT_ONCE):
        answer = client.post("/api/sweeps/preview", json=body | {"sites": sites[at : at + SITES_AT_ONCE]})
        lines += len(answer.text.splitlines())
        first = first or perf_counter() - began
    yield (
        "sweep: what would come of each, told as it goes", f"{lines} entries",
        f"the first after {first * 1_000:.0f} ms, all in {_s(perf_counter() - began)}", "", "",
    )  # fmt: skip
    began = perf_counter()
    done = client.post("/api/sweeps", json=body | {"title": "Strong"}, headers={"idempotency-key": str(uuid4())})
    assert done.status_code == 201, done.text
    yield (
        "sweep: into one change", f"{done.json()['entries']} entries at {len(done.json()['sites'])} sites",
        _s(perf_counter() - began), "", "",
    )  # fmt: skip


def _in_psql(address: str, person: UUID) -> float:
    """Milliseconds that psql says the shelf's one query takes."""
    looked_in = "ARRAY[" + ", ".join(f"'{one}'" for one in LOOKED_IN) + "]"
    query = IN_WORK.replace(":person", f"'{person}'").replace(":looked_in", looked_in)
    script = "\\timing on\n\\o /dev/null\n" + f"{query};\n" * TIMES
    told = subprocess.run(
        ["psql", "-X", address], input=script, capture_output=True, text=True, check=True,
        env=os.environ | {"PGOPTIONS": "-c jit=off"},
    ).stdout  # fmt: skip
    return statistics.median(float(one) for one in re.findall(r"Time: ([0-9.]+) ms", told))


def _answers(client: httpx.Client, address: str, person: UUID) -> Iterator[Row]:
    first = client.get("/api/shelf")
    keys = [line["key"] for line in first.json()]
    cold = _ms(lambda: client.get("/api/shelf/signs", params={"site": keys[:12]}), 1)
    query, ours = _in_psql(address, person), _ms(lambda: client.get("/api/shelf"))
    plain = len(first.content)
    sent = int(first.headers.get("content-length", plain))
    signs = _ms(lambda: client.get("/api/shelf/signs", params={"site": keys[:12]}))
    yield (
        "shelf: the line of every site", SIZE,
        f"{ours:.0f} ms, {sent / 1_000:.0f} kB sent, {plain / 1_000:.0f} kB unpacked",
        f"its one query in psql: {query:.1f} ms ({ours / query:.1f}×)", "≤ 2×, ≤ 100 kB",
    )  # fmt: skip
    yield (
        "shelf: the signs of the boards in sight",
        "12 boards",
        f"{signs:.0f} ms; {cold:.0f} ms the first time",
        "",
        "",
    )
    found = client.get("/api/search", params={"words": "header contact"}).json()
    yield (
        "search over everything, three words", SIZE,
        f"{_ms(lambda: client.get('/api/search', params={'words': 'about us header'})):.0f} ms; a menu by its site and name: "
        f"{_ms(lambda: client.get('/api/search', params={'words': f'{keys[7]} header'})):.0f} ms", "", "",
    )  # fmt: skip
    assert found["entries"] or found["menus"], found
    yield from _sweep(client)
    yield _bench(client, keys[100], "181 pages")
    with psycopg.connect(address, autocommit=True) as growing:
        growing.execute(
            "INSERT INTO page (site_id, ref, position, path, title, type, state, noindex, parts, overlays)"
            " SELECT id, 'more-' || n, 1000 + n, '/more/' || n, '{\"en\": \"More\"}', 'page', 'published', false, '[]', '[]'"
            " FROM site, generate_series(1, 20000) n WHERE key = %s", [keys[200]],
        )  # fmt: skip
    yield _bench(client, keys[200], "20 000 pages")


def _bench(client: httpx.Client, site: str, pages: str) -> Row:
    url = f"/api/sites/{site}/menus/header"
    opened = _ms(lambda: client.get(url))
    bench = client.get(url)
    document, name = bench.json()["document"], bench.headers["etag"]

    def save() -> None:
        nonlocal name
        document["items"][0]["label"]["en"] += "x"
        saved = client.put(url, json=document, headers={"if-match": name})
        assert saved.status_code == 200, saved.text
        name = saved.headers["etag"]

    return (
        "bench: a menu of 60 items opened, and saved", f"{pages}, {SITES} sites",
        f"opened in {opened:.0f} ms, saved in {_ms(save):.0f} ms", "", "≤ 100 ms each",
    )  # fmt: skip


def _many_savers(client: httpx.Client, base: str) -> Row:
    """Everybody saves a line of their own in the same menu, in the same change, at the same time."""
    site = client.get("/api/shelf").json()[50]["key"]
    url = f"/api/sites/{site}/menus/footer"
    bench = client.get(url)
    document, name = bench.json()["document"], bench.headers["etag"]
    opened = client.put(url, json=document | {"name": "Saved"}, headers={"if-match": name})
    change, name = opened.json()["change"]["id"], opened.headers["etag"]
    document = client.get(url).json()["document"]

    async def saved(by: httpx.AsyncClient, number: int) -> float:
        line = {
            "id": f"own-{number}",
            "kind": "link",
            "label": {"en": f"Own {number}"},
            "target": {"url": f"/{number}"},
        }
        began = perf_counter()
        answer = await by.put(
            url,
            params={"in": change},
            json=document | {"items": [*document["items"], line]},
            headers={"if-match": name},
        )
        assert answer.status_code in {200, 409, 412}, answer.text
        return (perf_counter() - began) * 1_000

    def of(cookies: httpx.Cookies) -> httpx.AsyncClient:
        limits = httpx.Limits(max_connections=SAVERS)
        return httpx.AsyncClient(
            base_url=base, headers={"origin": base}, cookies=cookies, trust_env=False, timeout=60, limits=limits
        )

    async def together() -> list[float]:
        async with of(client.cookies) as ines, of(httpx.Cookies()) as tomasz:
            entered = await tomasz.post("/api/session", json={"email": TOMASZ, "password": PASSWORD})
            assert entered.status_code == 200, entered.text
            savers = (saved((ines, tomasz)[number % 2], number) for number in range(SAVERS))
            return sorted(await asyncio.gather(*savers))

    spent = asyncio.run(together())
    return (
        "saves of one menu at the same time", f"{SAVERS} savers, two people",
        f"{statistics.median(spent):.0f} ms in the middle, {spent[-1]:.0f} ms at most", "", "",
    )  # fmt: skip


SAVERS = 50


def _in_chromium(base: str) -> Row:
    with signed_in_page(base) as page:
        spent, frames = [], []
        for _ in range(5):
            page.goto("/you")
            began = perf_counter()
            page.goto("/shelf")
            page.locator("[data-sign]").first.wait_for()
            page.locator("[data-sign]").first.focus()
            spent.append(perf_counter() - began)
            frames.append(page.evaluate(SCROLL, "main"))
    return (
        "shelf in Chromium", SIZE,
        f"signs there and in the hand after {statistics.median(spent) * 1_000:.0f} ms; scrolling: 95 % of frames within "
        f"{statistics.median(frames):.0f} ms", "", "≤ 1 s, ≤ 25 ms",
    )  # fmt: skip


def _first_in_chromium(base: str) -> Row:
    """Nothing is read yet, neither by the server's processes nor by the browser."""
    began = perf_counter()
    with signed_in_page(base) as page:
        signed_in = perf_counter()
        page.locator("[data-sign]").first.wait_for()
        page.locator("[data-sign]").first.focus()
        spent = perf_counter() - signed_in
        whole = perf_counter() - began
    return (
        "shelf in Chromium, a server's first visitor", SIZE,
        f"signs in the hand {spent * 1_000:.0f} ms after the shelf's heading; {whole:.1f} s with starting Chromium and"
        " signing in", "", "≤ 1 s",
    )  # fmt: skip


def _migration(cluster: Cluster) -> Row:
    """From the schema in which a site had one draft, with a draft and a release at every site."""
    address = new_database(cluster, "older")
    command.upgrade(alembic_config(address, SEALS), "0004")
    with psycopg.connect(address) as filling:
        for document in portfolio(SITES, 1):
            _as_it_was(filling, document)
    began = perf_counter()
    migrate(address, SEALS)
    spent = perf_counter() - began
    with psycopg.connect(address) as looking:
        found = looking.execute("SELECT (SELECT count(*) FROM site), (SELECT count(*) FROM tree_item)").fetchone()
    assert found == (SITES, SITES * 6 * 60), found
    return ("an older database moved to the newest schema", SIZE, _s(spent), "", "≤ 60 s")


def _as_it_was(filling: psycopg.Connection, document: SiteDocument) -> None:
    whole = document.to_json()
    site = uuid4()
    filling.execute(
        "INSERT INTO template (key, version, document) VALUES (%s, 1, %s) ON CONFLICT DO NOTHING",
        [document.template.key, Json(whole["template"])],
    )
    filling.execute(
        "INSERT INTO site (id, key, name, base, particulars, facts, audiences, template_key, template_version, connection,"
        " looks, rules, fact_sets, created_at)"
        " VALUES (%s, %s, %s, %s, %s, %s, '{}', %s, 1, 'observe', '{}', '{}', '[]', now())",
        [site, document.site.key, document.site.name, document.site.base, Json(whole["site"]), Json(whole["facts"]),
         document.template.key],
    )  # fmt: skip
    menus = {}
    for key, menu in document.menus.items():
        menus[key], name = uuid4(), content_hash(menu)
        filling.execute(
            "INSERT INTO tree (hash, document, items, depth) VALUES (%s, %s, 60, 2) ON CONFLICT DO NOTHING",
            [name, Json(menu.to_json())],
        )
        filling.execute(
            "INSERT INTO menu (id, site_id, key, created_at) VALUES (%s, %s, %s, now())", [menus[key], site, key]
        )
        filling.execute("INSERT INTO revision (menu_id, hash, at) VALUES (%s, %s, now())", [menus[key], name])
        filling.execute(
            "UPDATE menu SET head_revision_id = (SELECT max(id) FROM revision), live_revision_id = (SELECT max(id) FROM"
            " revision) WHERE id = %s", [menus[key]],
        )  # fmt: skip
    for one in document.placements:
        filling.execute(
            "INSERT INTO placement (site_id, location, device, menu_id) VALUES (%s, %s, %s, %s)",
            [site, one.location, one.device, menus[str(one.menu)]],
        )
    filling.execute(
        "INSERT INTO live_site (site_id, hash, document, at) VALUES (%s, 'x', %s, now())",
        [site, Json({name: whole[name] for name in ("template", "placements", "menus", "facts")})],
    )


if __name__ == "__main__":
    for row in shelf_lines():
        print(" | ".join(row), flush=True)

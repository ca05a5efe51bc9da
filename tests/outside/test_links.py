"""Addresses asked for real, at the command line: servers on loopback that behave in every way that an address can."""

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from starlette.applications import Starlette

from sign_shelf.core.links import LinkFinding
from sign_shelf.demo.cluster import free_port
from sign_shelf.demo.stand_ins.certificate import certificate
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.outside.links import LinkAsker, check_all
from tests.command_line import run
from tests.odd_server import Odd, odd_server
from tests.serving import serving


@pytest.fixture
def odd() -> Iterator[Odd]:
    with odd_server() as server:
        yield server


@pytest.fixture
def bad_certificate(tmp_path: Path) -> Iterator[str]:
    """A server that shows the certificate of another name."""
    with serving(Starlette(), free_port(), certificate(tmp_path, ["other.test"])) as address:
        yield address


LOCAL = ("--allow-private", "127.0.0.1", "--allow-private", "localhost", "--timeout", "1", "--pause", "0.1")


def site_of(odd: Odd, *addresses: str) -> dict[str, Any]:
    """With a menu that leads to these."""
    items = [{"id": f"i{at}", "kind": "link", "label": {"en": f"L{at}"}, "target": {"url": one}}
             for at, one in enumerate(addresses)]  # fmt: skip
    return {
        "format": "sign-shelf/site", "version": 1,
        "site": {"key": "odd", "name": "Odd", "base": f"http://127.0.0.1:{odd.port}/"},
        "template": {"key": "t", "devices": {"desktop": [0, None]},
                     "locations": [{"key": "h", "title": "H", "shape": "bar", "devices": ["desktop"]}]},
        "menus": {"main": {"format": "sign-shelf/menu", "version": 1, "name": "Main", "items": items}},
    }  # fmt: skip


def checked(odd: Odd, *addresses: str) -> tuple[int, dict[str, dict[str, Any]]]:
    """What the command says of these addresses, and its exit code."""
    done = run("links", "-", *LOCAL, "--format", "json", given=json.dumps(site_of(odd, *addresses)))
    assert done.stdout, done.stderr.decode()
    told = json.loads(done.stdout)
    assert all(list(one) == ["address", "verdict", "status", "hops", "says", "used"] for one in told)
    return done.returncode, {one["address"]: one for one in told}


def test_every_verdict_is_found_and_told_with_its_hops(odd: Odd, bad_certificate: str) -> None:
    here, there = f"http://127.0.0.1:{odd.port}", f"http://localhost:{odd.port}"
    expected = {
        "/": ("ok", 200), "/no-head": ("ok", 200), "/head-404": ("ok", 200), "/in-turns": ("ok", 200), "/busy": ("ok", 200),
        "/page#here": ("ok", 200), "/page#there": ("ok", 200), "/page#z%C3%BCrich": ("ok", 200), "/closed": ("ok", 200),
        "/moved": ("redirect", 200), "/for-now": ("redirect", 200), "/old": ("redirect", 200), "/one": ("chain", 200),
        "/round": ("loop", 302), "/404": ("gone", 404), "/410": ("gone", 410), "/lost": ("gone", 404), "/403": ("error", 403),
        "/broken": ("error", 500), "/page#nowhere": ("missing-part", 200), "/empty#x": ("missing-part", 200), "/old#nowhere": ("redirect", 200),
        "/slow": ("slow", None), "/big#here": ("too-big", None), "/big": ("ok", 200), "/inside": ("not-asked", None),
        "/away": ("not-asked", 302), "http://10.0.0.1/": ("not-asked", None), f"{there}/closed": ("not-asked", None),
        f"{there}/open": ("ok", 200), f"http://127.0.0.1:{free_port()}/": ("refused", None),
        "http://nobody.invalid/": ("no-host", None), bad_certificate: ("tls", None),
    }  # fmt: skip
    code, told = checked(odd, *expected)
    assert {one: (found["verdict"], found["status"]) for one, found in told.items()} == expected
    assert code == 1
    assert told["/one"]["hops"] == [
        {"address": f"{here}/one", "status": 301}, {"address": f"{here}/two", "status": 308},
        {"address": f"{here}/", "status": 200},
    ]  # fmt: skip
    assert told["/inside"]["hops"][-1] == {"address": "http://10.0.0.1/", "status": None}
    assert "for good" in told["/moved"]["says"]
    assert "for now" in told["/for-now"]["says"]
    assert told["/410"]["used"] == [{"menu": "main", "item": told["/410"]["used"][0]["item"], "number": "16"}]
    assert odd.asked["HEAD 404"] <= 2, "what is gone is asked once, and once more at the end of another's hops"
    assert odd.asked["GET robots.txt"] == 1, "of the other host, once"


def test_what_the_checks_find_holds_what_addresses_answer(odd: Odd) -> None:
    """And goes to pipelines as SARIF, with a fingerprint that stays while a menu is rearranged."""
    given = site_of(odd, "/moved", "/404", "/page#nowhere", "/404")
    turned = given | {"menus": {"main": given["menus"]["main"] | {"items": given["menus"]["main"]["items"][::-1]}}}

    def checks(site: dict[str, Any], *more: str) -> Any:
        done = run("check", "-", *LOCAL, "--links", "live", *more, given=json.dumps(site))
        assert done.returncode == 1, done.stderr.decode()
        return json.loads(done.stdout)

    told = [one for one in checks(given) if one["code"].startswith("link-")]
    assert [(one["code"], one["severity"], one["number"]) for one in told] == [
        ("link-gone", "stop", "2"), ("link-gone", "stop", "4"), ("link-missing-part", "warn", "3"), ("link-redirect", "note", "1"),
    ]  # fmt: skip
    assert told[0]["cause"] == told[1]["cause"] == f"address http://127.0.0.1:{odd.port}/404"
    assert told[3]["fix"] == f"Lead it to http://127.0.0.1:{odd.port}/ at once."
    logs = [checks(one, "--format", "sarif") for one in (given, turned)]
    for log in logs:
        assert (log["version"], log["runs"][0]["tool"]["driver"]["name"]) == ("2.1.0", "Sign Shelf")
        rules = {rule["id"] for rule in log["runs"][0]["tool"]["driver"]["rules"]}
        assert {one["ruleId"] for one in log["runs"][0]["results"]} == rules
    first, other = ({one["partialFingerprints"]["signShelf/v1"] for one in log["runs"][0]["results"]} for log in logs)
    assert first == other
    assert len(first) == len(logs[0]["runs"][0]["results"])
    without = run("check", "-", given=json.dumps(given))
    assert b"link-" not in without.stdout, "nothing is asked unless it is said"
    refused = run("check", "-", "--today", "soon", given=json.dumps(given))
    assert (refused.returncode, b"no day" in refused.stderr) == (2, True)


def test_an_address_that_stands_in_many_places_is_asked_once_and_all_being_well_is_no_finding(odd: Odd) -> None:
    code, told = checked(odd, "/shop", "/shop", "/moved", "/shop")
    assert (code, len(told), len(told["/shop"]["used"])) == (0, 2, 3)
    assert odd.asked["HEAD shop"] == 1


def test_what_no_command_can_read_is_refused_in_one_line() -> None:
    for given in ("{}", "no json"):
        done = run("links", "-", given=given)
        assert (done.returncode, done.stdout, done.stderr.count(b"\n")) == (2, b"", 1)


async def test_a_host_is_never_asked_more_at_once_than_it_bears(odd: Odd) -> None:
    addresses = [f"http://127.0.0.1:{odd.port}/many?{at}" for at in range(60)]
    async with Fetcher(frozenset({"127.0.0.1"}), timeout_s=10) as fetcher:
        asker = LinkAsker(fetcher, {f"127.0.0.1:{odd.port}"})
        found: dict[str, LinkFinding] = {one: what async for one, what in check_all(asker, addresses, pause_s=0)}
    assert {one.verdict for one in found.values()} == {"ok"}
    assert found.keys() == set(addresses)
    assert odd.most <= 6

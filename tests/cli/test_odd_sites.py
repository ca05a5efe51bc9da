"""Site documents that nobody should have written: every command answers, or says in one line what is wrong where."""

import json
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from sign_shelf.cli import main
from sign_shelf.core.outline import parse_outline

COMMANDS = {
    "check": ["check", "FILE", "--today", "2027-01-01"],
    "resolve": ["resolve", "FILE", "--location", "header", "--device", "desktop", "--at", "2027-01-01T00:00"],
    "reach": ["reach", "FILE", "--at", "2027-01-01T00:00"],
    "audiences": ["audiences", "FILE", "--location", "header", "--at", "2027-01-01T00:00"],
    "timeline": ["timeline", "FILE", "--from", "2027-01-01T00:00", "--to", "2027-12-31T00:00"],
}
PAGES = [{"ref": "a", "path": "/a"}, {"ref": "b", "path": "/b", "under": "a"}]


def site(**parts: Any) -> dict[str, Any]:
    outline = parts.pop("outline", "A -> @a\n  B -> @b")
    menus = {"m": parse_outline(outline).to_json()} | parts.pop("menus", {})
    return {
        "format": "sign-shelf/site", "version": 1,
        "site": {"key": "x", "name": "X", "base": "https://x.example/", "zone": "Europe/London", "languages": ["en"]},
        "template": {"key": "t", "devices": {"phone": [0, 600], "desktop": [601, None]},
                     "locations": [{"key": "header", "title": "H", "shape": "bar"},
                                   {"key": "drawer", "title": "D", "shape": "drawer", "stand_in": "header"}]},
        "menus": menus,
        "placements": [{"location": "header", "device": "desktop", "menu": "m"}], "pages": PAGES,
    } | parts  # fmt: skip


def included(*keys: str) -> dict[str, Any]:
    items = [{"id": f"i{at}", "kind": "include", "menu": key} for at, key in enumerate(keys)]
    return {"format": "sign-shelf/menu", "version": 1, "name": "Menu", "items": items}


ROLES = {"roles": {"type": "tags", "values": ["crew"]}}
ANSWERED = {
    "pages below each other": site(pages=[PAGES[0] | {"under": "b"}, PAGES[1]]),
    "a page below itself": site(pages=[PAGES[0] | {"under": "a"}, PAGES[1]]),
    "a page below one that is not there": site(pages=[PAGES[0] | {"under": "nowhere"}, PAGES[1]]),
    "menus that include each other": site(outline="+ n", menus={"n": included("o"), "o": included("n")}),
    "a menu that includes itself": site(outline="+ m"),
    "menus that all include each other": site(
        outline="+ n0", menus={f"n{at}": included(*(f"n{to}" for to in range(12) if to != at)) for at in range(12)}
    ),
    "menus that double and double": site(
        outline="+ n0", menus={f"n{at}": included(f"n{at + 1}", f"n{at + 1}") for at in range(60)} | {"n60": included()}
    ),
    "a menu that is not there": site(outline="+ nowhere"),
    "a rule that cannot be read": site(outline="A -> @a {when ((( and}"),
    "a rule of a fact that is not declared": site(outline="A -> @a {when captain}"),
    "rules that name each other": site(outline="A -> @a {when one}", rules={"one": "two", "two": "not one"}),
    "a long chain of names": site(
        outline="A -> @a {when r0}", rules={f"r{at}": f"r{at + 1}" for at in range(400)} | {"r400": "signed_in"}
    ),
    "names that double and double": site(
        outline="A -> @a {when d0}",
        rules={f"d{at}": f"d{at + 1} and not d{at + 1}" for at in range(60)} | {"d60": "signed_in"},
    ),
    "a window at a skipped time": site(outline="A -> @a {from 2027-03-28T01:30}"),
    "two hundred audiences": site(
        facts=ROLES, audiences={f"a{at}": {"roles": ["crew"] if at % 2 else []} for at in range(200)}
    ),
    "nothing at all": site(outline="", pages=[], placements=[]),
}  # fmt: skip
REFUSED = {
    "no JSON": (b"{", "not JSON"),
    "not an object": (b"[]", "object"),
    "another format": (json.dumps({"format": "sign-shelf/menu", "version": 1}).encode(), "format"),
    "a place that is not there": (
        json.dumps(site(placements=[{"location": "moon", "device": "desktop", "menu": "m"}])).encode(), "moon",
    ),
    "two pages of one reference": (json.dumps(site(pages=[PAGES[0], PAGES[0]])).encode(), "two pages"),
    "an audience that cannot be": (
        json.dumps(site(facts=ROLES, audiences={"crew": {"roles": ["cook"]}})).encode(), "audiences.crew.roles",
    ),
    "a built-in fact declared": (json.dumps(site(facts={"hour": {"type": "flag"}})).encode(), "built in"),
    "a name for a fact and a rule": (json.dumps(site(facts=ROLES, rules={"roles": "signed_in"})).encode(), "roles"),
    "a zone that is none": (
        json.dumps(site(site={"key": "x", "name": "X", "base": "https://x.example/", "zone": "Atlantis"})).encode(),
        "Europe/London",
    ),
    "a window that ends before it begins": (
        json.dumps(site(outline="A -> @a {from 2027-01-01T00:00}")).replace('"from"', '"until": "2026-01-01T00:00", "from"').encode(), "must be later",
    ),
    "a stand-in for itself": (
        json.dumps(site(template={
            "key": "t", "devices": {"desktop": [0, None]},
            "locations": [{"key": "header", "title": "H", "shape": "bar", "stand_in": "header"}]})).encode(), "names itself",
    ),
    "places that fold into each other": (
        json.dumps(site(template={
            "key": "t", "devices": {"desktop": [0, None]},
            "locations": [{"key": "header", "title": "H", "shape": "bar", "fold": [{"into": "foot", "on": ["desktop"]}]},
                          {"key": "foot", "title": "F", "shape": "bar", "fold": [{"into": "header", "on": ["desktop"]}]}],
        })).encode(), "folds away itself",
    ),
    "half of a character": (json.dumps(site(outline="A")).replace('"A"', '"\\ud800"').encode(), "not JSON"),
    "far too deep": (b'{"a":' * 100_000, "not JSON"),
}  # fmt: skip

Run = Callable[[str, bytes], tuple[int, str, str]]


@pytest.fixture
def run(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> Run:
    def running(command: str, document: bytes) -> tuple[int, str, str]:
        file = tmp_path / "site.json"
        file.write_bytes(document)
        words = [str(file) if word == "FILE" else word for word in COMMANDS[command]]
        monkeypatch.setattr(sys, "argv", ["sign-shelf", *words])
        with pytest.raises(SystemExit) as ended:
            main()
        told = capsys.readouterr()
        return int(ended.value.code or 0), told.out, told.err

    return running


@pytest.mark.parametrize("command", COMMANDS)
@pytest.mark.parametrize("name", ANSWERED)
def test_odd_sites_are_answered_by_every_command(run: Run, name: str, command: str) -> None:
    code, out, err = run(command, json.dumps(ANSWERED[name]).encode())
    assert (code in {0, 1}, err) == (True, ""), err
    if command != "check":
        json.loads(out)


@pytest.mark.parametrize("command", COMMANDS)
@pytest.mark.parametrize("name", REFUSED)
def test_what_is_no_site_is_refused_in_one_line_by_every_command(run: Run, name: str, command: str) -> None:
    document, says = REFUSED[name]
    code, out, err = run(command, document)
    assert (code, out) == (2, "")
    assert says in err
    assert len(err.splitlines()) == 1


@pytest.mark.parametrize(
    ("name", "says"),
    [
        ("menus that include each other", "n → o → n"),
        ("a menu that is not there", "include-empty"),
        ("menus that double and double", "over 20000 entries"),
        ("a rule that cannot be read", "rule"),
        ("a rule of a fact that is not declared", "captain"),
        ("rules that name each other", "itself"),
        ("a window at a skipped time", "28 Mar 2027 01:30"),
    ],
)
def test_what_is_odd_in_a_site_is_a_finding(run: Run, name: str, says: str) -> None:
    code, out, _ = run("check", json.dumps(ANSWERED[name]).encode())
    assert code == 1
    assert says in out, out

"""The command line as a pipeline uses it: JSON on standard output, one line on standard error, exit 0, 1 or 2."""

import gc
import json
import re
import signal
import socket
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any, get_args

import httpx
import jsonpatch
import psutil
import pytest
import typer
from typer.core import TyperGroup
from typer.main import get_command

from sign_shelf.cli import COMMANDS, app
from sign_shelf.core.changes.life import Life
from sign_shelf.core.checks.check import Family
from sign_shelf.demo.cluster import free_port
from sign_shelf.demo.stand_ins.server import StandIn
from tests.command_line import apart, at, run
from tests.constants import KEY
from tests.core.test_outline import DESIGN
from tests.waiting import eventually


def test_outline_and_convert_work_as_filters() -> None:
    parsed = apart("outline", "parse", "-", given=DESIGN)
    assert parsed.returncode == 0
    document = json.loads(parsed.stdout)
    assert document["items"][0]["items"][1] == {"id": "divider", "kind": "divider"}
    text = run("outline", "format", "-", given=parsed.stdout).stdout
    assert run("convert", "--from", "outline", "--to", "outline", "-", given=text).stdout == text
    assert json.loads(run("convert", "--from", "json", "--to", "json", "-", given=parsed.stdout).stdout) == document
    html = run("convert", "--from", "json", "--to", "html", "-", given=parsed.stdout).stdout.decode()
    assert '<a data-goal="@timetables">Timetables</a>' in html
    assert '<button type="button" data-overlay="question-form">Ask us</button>' in html


def test_formats_edits_and_icons_at_the_command_line(tmp_path: Path) -> None:
    for name, outline in {
        "a": "Fares -> /fares\nShop -> /shop",
        "b": "Shop -> /shop\nFare -> /fares {icon ticket}",
    }.items():
        (tmp_path / name).write_bytes(run("outline", "parse", "-", given=outline).stdout)
    a, b = str(tmp_path / "a"), str(tmp_path / "b")
    by_id = json.loads(run("diff", a, b).stdout)
    assert [edit["op"] for edit in by_id] == ["add", "remove"], "other ids are other items"
    by_content = json.loads(run("diff", a, b, "--match", "content").stdout)
    assert [edit["op"] for edit in by_content] == ["reorder", "relabel", "set"]
    assert by_content[0] == {
        "op": "reorder",
        "id": "shop",
        "parent": None,
        "after": None,
        "says": "Put Shop to the front",
    }
    patch = json.loads(run("diff", a, b, "--as", "json-patch").stdout)
    assert jsonpatch.apply_patch(json.loads((tmp_path / "a").read_bytes()), patch) == json.loads(
        (tmp_path / "b").read_bytes()
    )
    assert run("diff", a, "-", given="{").returncode == 2
    (tmp_path / "c").write_text("Fares -> /fares\n")
    assert [edit["op"] for edit in json.loads(run("diff", a, str(tmp_path / "c")).stdout)] == ["remove"]
    table = run("convert", "--from", "json", "--to", "csv", a).stdout
    assert table == b"path,kind,label,target,settings\r\n1,link,Fares,/fares,\r\n2,link,Shop,/shop,\r\n"
    odd = run("convert", "--from", "csv", "--to", "outline", "-", given=table.replace(b"/shop", b"javascript:x"))
    assert "line 3: expected http, https" in odd.stderr.decode()
    assert odd.stdout.decode() == "Fares -> /fares\nShop -> ? {note was not understood: javascript:x}\n"
    assert json.loads(run("icons", "ticket", "--limit", "1").stdout)[0]["name"] == "ticket"
    unknown = run("outline", "parse", "-", given="A -> /a {icon tikcet}")
    assert (unknown.returncode, "did you mean ticket" in unknown.stderr.decode()) == (2, True)


def test_rules_are_checked_asked_and_analysed(tmp_path: Path) -> None:
    facts, visitor, many = tmp_path / "facts.json", tmp_path / "v.json", tmp_path / "rules"
    facts.write_text(json.dumps({"signed_in": {"type": "flag"}, "roles": {"type": "tags", "values": ["crew", "skipper"]},
                                 "visits": {"type": "number", "min": 0, "max": 1000}}))  # fmt: skip
    given = ["--facts", str(facts)]
    good = json.loads(run("rules", "check", "signed_in and roles has crew", *given).stdout)
    assert good == {"rule": 'signed_in and roles has "crew"',
                    "says": "Shows to visitors who are signed in and who have crew among their roles"}  # fmt: skip
    wrong = run("rules", "check", "roles has crwe", *given)
    assert (wrong.returncode, wrong.stdout) == (2, b"")
    line, rule, caret = wrong.stderr.decode().splitlines()
    assert line == 'column 11: roles has "crwe": roles has no such value. did you mean crew?'
    assert (rule, caret) == ("roles has crwe", "          ^")
    visitor.write_text('{"signed_in": true, "roles": null, "visits": 3}')
    asked = json.loads(run("rules", "eval", "signed_in and roles has crew", *given, "--visitor", str(visitor)).stdout)
    assert (asked["value"], [one["fact"] for one in asked["why"]]) == (None, ["roles"])
    visitor.write_text('{"visits": 3000}')
    refused = run("rules", "eval", "signed_in", *given, "--visitor", str(visitor))
    assert (refused.returncode, "visits: expected a number from 0 to 1000" in refused.stderr.decode()) == (2, True)
    many.write_text("signed_in\nsigned_in and visits > 3\nnot not_a_fact\n")
    odd = run("rules", "analyse", str(many), *given)
    assert (odd.returncode, "line 3, column 5" in odd.stderr.decode()) == (2, True)
    many.write_text("signed_in\nvisits > 3 and signed_in\nsigned_in and visits > 3\nvisits < 0\n\nvisits >= 0\n")
    told = json.loads(run("rules", "analyse", str(many), *given).stdout)
    assert [(one["never"], one["always"]) for one in told] == [(False, False)] * 3 + [(True, False), (False, True)]
    assert told[1] == {"never": False, "always": False, "example": {"signed_in": True, "visits": 4.0},
                       "counter_example": told[1]["counter_example"], "same_as": [2], "implied_by": [2, 3]}  # fmt: skip
    assert told[3]["example"] is None
    open_ = json.loads(run("rules", "analyse", str(many), *given, "--unsupplied").stdout)
    assert (open_[4]["always"], open_[4]["counter_example"]) == (False, {})


def test_audiences_and_timeline_of_a_site_document(tmp_path: Path) -> None:
    site = tmp_path / "site.json"
    outline = 'Summer -> /s {from 2027-04-01T04:00}\nRota -> /rota {when roles has "crew"}\nOld -> /o {until 2026-01-01T00:00}'
    site.write_text(json.dumps({
        "format": "sign-shelf/site", "version": 1,
        "site": {"key": "x", "name": "X", "base": "https://x.example/", "zone": "Europe/London"},
        "template": {"key": "t", "devices": {"desktop": [0, None]},
                     "locations": [{"key": "header", "title": "H", "shape": "bar", "devices": ["desktop"]}]},
        "facts": {"roles": {"type": "tags", "values": ["crew"]}},
        "audiences": {"visitor": {"roles": []}, "crew": {"roles": ["crew"]}},
        "menus": {"m": json.loads(run("outline", "parse", "-", given=outline).stdout)},
        "placements": [{"location": "header", "device": "desktop", "menu": "m"}]}))  # fmt: skip
    at = ["--location", "header", "--at", "2027-01-01T00:00"]
    found = json.loads(run("audiences", str(site), *at).stdout)
    seen = {row["item"]: [cell["seen"] for cell in row["cells"][::3]] for row in found["rows"]}
    assert seen == {"summer": ["none", "none"], "rota": ["none", "whole"], "old": ["none", "none"]}
    assert [(one["item"], one["answer"]) for one in found["never_seen"]] == [("old", "never")]
    assert run("audiences", str(site), *at, "--format", "csv").stdout.startswith(b"level,entry,id,")
    crew = json.loads(run("resolve", str(site), *at, "--device", "desktop", "--audience", "crew").stdout)
    assert [item["id"] for item in crew["items"]] == ["rota"]
    window = ["--from", "2027-01-01T00:00", "--to", "2027-12-31T00:00"]
    told = json.loads(run("timeline", str(site), *window, "--audience", "crew").stdout)
    assert [one["begins"] for one in told["places"][0]["stretches"]] == ["2027-01-01T00:00", "2027-04-01T04:00"]
    for words, says in [
        (
            ["timeline", str(site), "--from", "2027-03-28T01:30", "--to", "2028-01-01T00:00"],
            "does not exist in Europe/London",
        ),
        (["timeline", str(site), "--from", "2027-10-31T01:30", "--to", "2028-01-01T00:00"], "comes twice"),
        (["timeline", str(site), "--from", "2027-02-01T00:00", "--to", "2027-01-01T00:00"], "no stretch"),
        (["audiences", str(site), "--location", "nowhere"], "no location"),
        (["resolve", str(site), *at, "--device", "desktop", "--audience", "cook"], "Its audiences are visitor, crew"),
    ]:
        refused = run(*words)
        assert (refused.returncode, refused.stdout, says in refused.stderr.decode()) == (2, b"", True), refused.stderr


def test_html_takes_addresses_from_the_site_and_never_markup_from_labels(tmp_path: Path) -> None:
    site = tmp_path / "site.json"
    site.write_text(json.dumps({
        "format": "sign-shelf/site", "version": 1,
        "site": {"key": "x", "name": "X", "base": "https://x.example/a/"},
        "template": {"key": "t", "devices": {"desktop": [0, None]}, "locations": [{"key": "header", "title": "H", "shape": "bar"}]},
        "menus": {"m": json.loads(run("outline", "parse", "-", given="Fares -> @fares").stdout)},
        "placements": [{"location": "header", "device": "desktop", "menu": "m"}],
        "pages": [{"ref": "fares", "path": "/fares"}]}))  # fmt: skip
    evil = '"<script>alert(1)</script>" -> @fares#a"b'.replace('#a"b', "#top")
    html = run("convert", "--from", "outline", "--to", "html", "--site", str(site), "-", given=evil).stdout.decode()
    assert '<a href="https://x.example/fares#top">&lt;script&gt;alert(1)&lt;/script&gt;</a>' in html
    resolved = run("resolve", str(site), "--location", "header", "--device", "phone", "--at", "2027-01-01T00:00")
    answer = json.loads(resolved.stdout)
    assert answer["items"][0]["href"] == "https://x.example/fares"
    checked = run("check", str(site), "--today", "2027-01-01", "--format", "text")
    assert (checked.returncode, checked.stdout) == (0, b"")
    assert answer["source"]["placement"] == "inherited"
    missing = run("resolve", str(site), "--location", "moon", "--device", "phone", "--at", "2027-01-01T00:00")
    assert (missing.returncode, missing.stdout) == (2, b"")
    assert "Its locations are header" in missing.stderr.decode()


@pytest.mark.parametrize(
    ("words", "given", "says"),
    [
        (["outline", "parse", "-"], "Book -> javascript:x", "line 1, column 1"),
        (["outline", "parse", "-"], b"ok\n\xff", "line 2, column 1: is not UTF-8"),
        (["outline", "parse", "-"], b"a\0b", "U+0000"),
        (["outline", "parse", "-"], "x" * 1_000_000, "1000000 characters"),
        (["outline", "parse", "-"], "\n".join(" " * n + "x" for n in range(5_000)), "24 levels"),
        (["outline", "format", "-"], '{"format": 1}', "format"),
        (["convert", "--from", "json", "--to", "html", "-"], "[" * 200_000, "not JSON"),
        (["outline", "parse", "/nowhere/at/all"], "", "cannot be read"),
        (["site", "read", "http://127.0.0.1:9/"], "", "No usable answer"),
    ],
)
def test_unusable_input_is_one_line_and_exit_2(words: list[str], given: str | bytes, says: str) -> None:
    done = run(*words, given=given)
    assert (done.returncode, done.stdout) == (2, b"")
    assert len(done.stderr.decode().strip().splitlines()) == 1
    assert says in done.stderr.decode()


def test_site_read_prints_the_proposal_and_site_add_keeps_it(stand_in: StandIn, address: str) -> None:
    read = run("site", "read", stand_in.base)
    proposal = json.loads(read.stdout)
    assert {"path", "title"} <= proposal["pages"][0].keys()
    assert {"where", "document"} <= proposal["menus"][0].keys()
    assert proposal["template"]["key"] == "quayside"
    add = ["site", "add", stand_in.base, "--key", "ferries", "--yes"]
    kept = run(*add, env=at(address))
    assert "On the shelf as ferries." in kept.out
    again = run(*add, env=at(address))
    assert (again.returncode, "already" in again.err) == (2, True)
    gc.collect()  # A connection that was left open would be told of here.


@contextmanager
def demo_in(folder: Path, port: int) -> Iterator[tuple["subprocess.Popen[str]", str]]:
    """The demo once it is there, and what it said; ended, whatever came between."""
    # PostgreSQL's own user must be able to enter the folder.
    for one in (folder, *folder.parents):
        if one.owner() == Path.home().owner() and str(one).startswith("/tmp/"):
            one.chmod(0o755)
    words = [sys.executable, "-m", "sign_shelf", "demo", "--port", str(port), "--folder", str(folder / "demo")]
    with subprocess.Popen(words, stdout=subprocess.PIPE, text=True) as demo:
        assert demo.stdout is not None
        told = ""
        try:
            while "Ctrl-C ends" not in told:
                line = demo.stdout.readline()
                assert line, told
                told += line
            yield demo, told
        finally:
            demo.terminate()


def alive(process: psutil.Process) -> bool:
    try:
        return bool(process.status() != psutil.STATUS_ZOMBIE)
    except psutil.NoSuchProcess:  # Ended since it was listed.
        return False


def works(process: psutil.Process) -> bool:
    try:
        return process.cmdline()[-1:] == ["worker"]
    except psutil.NoSuchProcess:
        return False


def shows_all_of_it(base: str) -> None:
    """Findings of every family, a change in each state, drift, and something that is due this week."""
    with httpx.Client(base_url=base, headers={"origin": base}, trust_env=False, timeout=30) as shelf:

        def told(path: str) -> Any:
            answer = shelf.get(f"/api/{path}")
            assert answer.status_code == 200, answer.text
            return answer.json()

        given = {"email": "ines@quillfen.example", "password": "quillfen-demo"}
        assert shelf.post("/api/session", json=given).status_code == 200
        eventually(lambda: not told("findings")["unchecked"], within_s=90)
        assert {line["family"] for line in told("findings")["lines"]} == set(get_args(Family))
        named = {line["change"] for line in told("ledger?limit=500")} - {None}
        assert {told(f"changes/{one}")["change"]["state"] for one in named} == set(get_args(Life))
        week = (datetime.now(UTC) + timedelta(days=7)).isoformat()
        goes = [site["goes_at"] for one in told("changes") if one["state"] == "scheduled" for site in one["sites"]]
        assert any(at is not None and at < week for at in goes)
        assert "drifted" in {one["state"] for one in told("sync")}


def test_the_demo_is_one_begins_again_what_ends_and_leaves_nothing_behind(tmp_path: Path) -> None:
    """Printed address and accounts; a second one is refused before it touches anything; a worker that dies is begun
    again; killed, it takes all of its processes along."""
    port = free_port()
    with demo_in(tmp_path, port) as (demo, told):
        assert f"http://127.0.0.1:{port}/" in told
        assert "ines@quillfen.example" in told
        sites = re.findall(r"http://127\.0\.0\.1:\d+/ +\w+", told)
        assert len(sites) == 19
        shows_all_of_it(f"http://127.0.0.1:{port}")
        whole = psutil.Process(demo.pid)
        family = whole.children(recursive=True)
        running = psutil.process_iter(["cmdline"])
        servers = [one for one in running if str(tmp_path) in " ".join(one.info["cmdline"] or [])]
        assert len(family) >= 3
        second = run("demo", "--port", str(port), "--folder", str(tmp_path / "other"))
        assert second.returncode == 1
        assert f"Port {port} is taken" in second.stderr.decode()
        assert f"make demo PORT={port + 1}" in second.stderr.decode()
        none = run("demo", "--port", "80000", "--folder", str(tmp_path / "other"))
        assert (none.returncode, "There is no port 80000: take one from 1024" in none.stderr.decode()) == (1, True)
        same = run("demo", "--port", str(free_port()), "--folder", str(tmp_path / "demo"))
        assert same.returncode == 1
        assert f"running already (process {demo.pid}, at http://127.0.0.1:{port}/)" in same.stderr.decode()
        ready = f"http://127.0.0.1:{port}/api/health/ready"
        worker = next(one for one in family if works(one))
        worker.kill()
        eventually(
            lambda: any(works(one) and alive(one) for one in whole.children() if one.pid != worker.pid), within_s=90
        )
        eventually(lambda: httpx.get(ready, trust_env=False).json()["worker"], within_s=90)
        family = whole.children(recursive=True)
        demo.kill()
        eventually(lambda: not any(alive(one) for one in [*family, *servers]), within_s=90)
    with demo_in(tmp_path, port) as (again, _):
        again.send_signal(signal.SIGTERM)
        assert again.wait(30) == 0
    with socket.socket() as probe:
        assert probe.connect_ex(("127.0.0.1", port)) != 0


def test_accounts_are_looked_after_at_the_machine(address: str) -> None:
    """Passwords come from standard input where that is no terminal; what is missing or wrong is one line."""
    variables: dict[str, str | None] = {**at(address)}

    def person(*words: str, given: str = "", env: dict[str, str | None] = variables) -> tuple[int, str]:
        done = run(*words, given=given, env=env)
        return done.returncode, done.out + done.err

    assert person("person", "add", "a@x.example", "Ada", "--role", "owner", given="grass on the dunes\n") == (0, "")
    code, says = person("person", "add", "b@x.example", "Bo", given="password1234\n")
    assert (code, "common password" in says, says.count("\n")) == (2, True, 1)
    assert person("person", "list") == (0, "a@x.example\tAda\towner\n")
    assert person("person", "disable", "a@x.example") == (0, "")
    assert person("person", "list") == (0, "a@x.example\tAda\towner\tdisabled\n")
    assert person("person", "disable", "a@x.example", "--undo") == (0, "")
    assert person("person", "password", "a@x.example", given="salt and tall grass") == (0, "")
    code, says = person("person", "password", "c@x.example", given="salt and tall grass")
    assert (code, "There is no account for c@x.example" in says) == (2, True)
    code, made = person("key", "make")
    both = variables | {"SIGN_SHELF_KEY": f"{made.strip()},{KEY.get_secret_value()}"}
    assert person("key", "replace", env=both) == (0, "0 secrets sealed anew.\n")
    for env, says in (
        (
            variables | {"SIGN_SHELF_KEY": None},
            "SIGN_SHELF_KEY is not set. Make one",
        ),
        (variables | {"SIGN_SHELF_KEY": "short"}, "SIGN_SHELF_KEY is no key"),
        (variables | {"SIGN_SHELF_POOL_SIZE": "many"}, "SIGN_SHELF_POOL_SIZE is wrong"),
        (variables | {"SIGN_SHELF_DATABASE": "postgresql://x:y@127.0.0.1:1/z"}, "database does not answer"),
    ):
        code, told = person("person", "list", env=env)
        assert (code, says in told, told.count("\n")) == (2, True, 1), told


def test_three_documents_are_merged_and_conflicts_told(tmp_path: Path) -> None:
    """Menus and sites; what both edited, and two moves that would put entries inside each other, are conflicts."""

    def menu(name: str, outline: str) -> str:
        file = tmp_path / f"{name}.json"
        file.write_bytes(run("outline", "parse", "-", given=outline).stdout)
        return str(file)

    base = menu("base", "A:\nB:\nC -> /c")
    done = run("merge", base, menu("ours", "A:\nB:\nC -> /c\nD -> /d"), menu("theirs", "Z -> /z\nA:\nB:\nC -> /c"))
    merged = json.loads(done.stdout)
    assert (done.returncode, merged.keys(), merged["conflicts"]) == (0, {"items", "conflicts"}, [])
    assert [item["id"] for item in merged["items"]] == ["z", "a", "b", "c", "d"]
    loop = run("merge", base, menu("in-b", "B:\n  A:\nC -> /c"), menu("in-a", "A:\n  B:\nC -> /c"))
    told = json.loads(loop.stdout)["conflicts"]
    assert loop.returncode == 1
    assert {one["id"] for one in told if one["kind"] == "cycle"} == {"a", "b"}
    site = {
        "format": "sign-shelf/site", "version": 1,
        "site": {"key": "s", "name": "S", "base": "https://s.example/"},
        "template": {"key": "t", "devices": {"desktop": [0, None]},
                     "locations": [{"key": "header", "title": "Header", "shape": "bar"}]},
        "menus": {"main": json.loads((tmp_path / "base.json").read_text())},
        "placements": [{"location": "header", "device": "desktop", "menu": "main"}],
    }  # fmt: skip
    files = {}
    for name, placed in (("base", "main"), ("ours", None), ("theirs", "main")):
        named = site["site"] | {"name": f"S {name}"} if name == "theirs" else site["site"]  # type: ignore[operator]
        hung = [{"location": "header", "device": "desktop", "menu": placed}]
        files[name] = tmp_path / f"site-{name}.json"
        files[name].write_text(json.dumps(site | {"site": named, "placements": hung}))
    both = run("merge", *(str(files[name]) for name in ("base", "ours", "theirs")))
    whole = json.loads(both.stdout)
    assert (both.returncode, whole["conflicts"], whole["site"]["site"]["name"]) == (0, [], "S theirs")
    assert whole["site"]["placements"] == [{"location": "header", "device": "desktop", "menu": None}]
    mixed = run("merge", base, base, str(files["base"]))
    assert (mixed.returncode, b"three documents of one kind" in mixed.stderr) == (2, True)


def test_the_list_of_commands_says_of_each_what_it_says_itself() -> None:
    """The list is kept apart, so that it needs none of what the commands are made of."""
    group = get_command(app)
    assert isinstance(group, TyperGroup)
    for name, where in COMMANDS.items():
        found = group.get_command(typer.Context(group), name)
        assert found is not None
        if where.says is not None:
            assert str(found.help).startswith(where.says.removesuffix(".")), name


def test_a_command_that_needs_no_numbers_and_no_database_imports_neither() -> None:
    heavy = {"numpy", "scipy", "sqlalchemy", "psycopg", "fastapi", "uharfbuzz", "lxml"}
    for words in (["merge", "--help"], ["diff", "--help"], ["outline", "--help"], ["resolve", "--help"], ["--help"]):
        said = f"import sys; sys.argv[1:] = {words}\nfrom sign_shelf.cli import app\napp(standalone_mode=False)\n"
        told = "print('imported', *sorted({name.partition('.')[0] for name in sys.modules}))"
        done = subprocess.run([sys.executable, "-c", said + told], capture_output=True, text=True, check=True)
        assert not heavy & set(done.stdout.partition("imported")[2].split()), words

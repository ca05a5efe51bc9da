"""Editing and permission below the HTTP interface: revisions, merges, limits, and who may."""

from dataclasses import replace
from datetime import UTC, datetime
from uuid import uuid4

import pytest
from pydantic import SecretStr
from sqlalchemy import delete
from sqlmodel import col

from sign_shelf.core.errors import EditRefused, NotAllowed, NotFound, Refusal, StaleWrite
from sign_shelf.core.model.documents import content_hash
from sign_shelf.core.model.menu import MenuDocument
from sign_shelf.core.model.tree import Tree, insert, move, remove
from sign_shelf.core.outline import format_outline, parse_outline
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk import connect, edit, hang, put_live
from sign_shelf.desk.edit import merged
from sign_shelf.desk.permission import Person, may, require
from sign_shelf.desk.portfolio import View, board
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store.database import Database
from sign_shelf.store.requests import RequestKey
from sign_shelf.store.tables import SiteKeyRow
from tests.live_sites import live_site

NOW = datetime(2026, 11, 24, 12, 0, tzinfo=UTC)


async def header(database: Database) -> MenuDocument:
    return (await live_site(database, "brackwater")).menus["header"]


async def save(
    database: Database, person: Person, document: MenuDocument, expected: str, view: View = None
) -> edit.Saved:
    return await edit.save_menu(
        database, person, "brackwater", "header", view=view, expected=expected, document=document, now=NOW
    )


def line(words: str) -> Tree:
    return parse_outline(f"{words} -> /x").items


def test_a_role_at_one_site_counts_there_in_place_of_the_one_everywhere() -> None:
    person = Person(id=uuid4(), name="Somebody", email="x@x.example", role="none", at_sites={"kestrel": "editor"})
    assert may(person, "edit", "kestrel")
    assert not may(person, "look")
    assert not may(person, "look", "vesper")
    with pytest.raises(NotAllowed, match="You may not look here"):
        require(person, "look", "sites/vesper", "vesper")
    kept_out = replace(person, role="owner", at_sites={"kestrel": "none"})
    assert may(kept_out, "people")
    assert not may(kept_out, "look", "kestrel")


async def test_saving_on_an_old_revision_comes_back_with_both_edits(
    database: Database, brackwater: StandIn, ines: Person, tom: Person
) -> None:
    base = await header(database)
    theirs = base.with_items(move(base.items, "book", parent=None, at=0))
    ours = base.with_items(insert(base.items, line("Quiet lounge")[0], parent="on-board", at=0))
    first = await save(database, tom, theirs, content_hash(base))
    assert first.change is not None
    with pytest.raises(StaleWrite) as caught:
        await save(database, ines, ours, content_hash(base), first.change.id)
    merge = caught.value.merge
    assert (merge["by"], merge["did"]) == (["Tom Arkwright"], ["Put Book to the front"])
    assert (merge["on"], merge["conflicts"]) == (first.hash, [])
    settled = MenuDocument.model_validate(merge["document"])
    assert [item.id for item in settled.items][:2] == ["book", "timetables"]
    assert "  Quiet lounge -> /x" in format_outline(settled)
    assert (await save(database, ines, settled, first.hash, first.change.id)).new


async def test_a_save_on_a_revision_of_another_menu_is_refused(
    database: Database, brackwater: StandIn, ines: Person
) -> None:
    base = await header(database)
    with pytest.raises(NotFound, match="never had"):
        await save(database, ines, base.with_items(base.items[1:]), content_hash(base.with_items(())))


async def test_a_removal_against_an_edit_is_told_in_words(database: Database, brackwater: StandIn) -> None:
    base = await header(database)
    removed = base.with_items(remove(base.items, "fares-passes"))
    moved = base.with_items(move(base.items, "groups", parent="on-board", at=0))
    told = merged(base, removed, moved, {})
    assert [(one["title"], one["kind"], one["ours"], one["theirs"]) for one in told["conflicts"]] == [
        ("Groups", "edit-remove", "removed", "kept")
    ]
    kept = merged(base, removed, moved, {"groups": "theirs"})
    gone = merged(base, removed, moved, {"groups": "ours"})
    assert "groups" in str(kept["document"])
    assert "'groups'" not in str(gone["document"])


async def test_two_moves_are_told_by_the_names_of_their_parents(database: Database, brackwater: StandIn) -> None:
    base = await header(database)
    ours = base.with_items(move(base.items, "groups", parent="on-board", at=0))
    theirs = base.with_items(move(base.items, "groups", parent=None, at=0))
    told = merged(base, ours, theirs, {})["conflicts"]
    assert [(one["ours"], one["theirs"]) for one in told] == [("under On board", "at the top")]


async def test_menus_of_the_same_name_have_keys_of_their_own(
    database: Database, brackwater: StandIn, ines: Person
) -> None:
    keys = [
        (
            await edit.create_menu(
                database, ines, "brackwater", name="Summer!", request_key=RequestKey(f"k{n}"), now=NOW
            )
        )["key"]
        for n in range(3)
    ]
    assert keys == ["summer", "summer-2", "summer-3"]


async def test_hanging_names_what_the_place_takes(database: Database, brackwater: StandIn, ines: Person) -> None:
    async def attempt(location: str, device: str, menu: str) -> str:
        with pytest.raises(Refusal) as caught:
            await hang.hang(database, ines, "brackwater", location=location, device=device, menu_key=menu, now=NOW)  # type: ignore[arg-type]
        return str(caught.value)

    assert "has 2 levels, Legal line takes 1. These places would take it: Header bar" in await attempt(
        "legal", "desktop", "footer"
    )
    assert "does not exist on a phone. It exists on tablet, desktop" in await attempt("header", "phone", "legal")
    assert 'no location "moon"' in await attempt("moon", "phone", "legal")
    assert 'no menu "moon"' in await attempt("legal", "phone", "moon")
    made = await edit.create_menu(
        database,
        ines,
        "brackwater",
        name="Opens",
        document=parse_outline("Ask -> !question-form"),
        request_key=RequestKey("o"),
        now=NOW,
    )
    assert "Legal line takes no opener" in await attempt("legal", "phone", made["key"])
    await hang.hang(database, ines, "brackwater", location="legal", device="phone", menu_key="strip", now=NOW)
    async with database.transaction() as session:
        placed = (await board(session, ines, "brackwater")).arrangement.placed()
    assert placed["legal", "phone"] == "strip"
    assert placed["legal", "desktop"] == "legal"


async def test_a_menu_that_became_too_deep_is_not_put_live(
    database: Database, brackwater: StandIn, ines: Person
) -> None:
    """The draft may hold it; the place does not take it, and the refusal says which."""
    deep = parse_outline("A:\n  B:\n    C:\n      D -> /d")
    base = await header(database)
    await save(database, ines, base.with_items(deep.items), content_hash(base))
    with pytest.raises(EditRefused, match="stands on level 4; Header bar shows 3"):
        await put_live.ask(database, ines, "brackwater", request_key=RequestKey("r"), now=NOW)
    async with database.transaction() as session:
        found = await board(session, ines, "brackwater")
    assert found.change is not None
    assert found.release is None


async def test_without_a_signing_key_nothing_goes_live(
    database: Database, brackwater: StandIn, ines: Person, fetcher: Fetcher
) -> None:
    base = await header(database)
    await save(database, ines, base.with_items(base.items[1:]), content_hash(base))
    async with database.transaction() as session:
        site = (await board(session, ines, "brackwater")).site
        await session.exec(delete(SiteKeyRow).where(col(SiteKeyRow.site_id) == site.id))
    with pytest.raises(EditRefused, match="signing key is missing"):
        await put_live.ask(database, ines, "brackwater", request_key=RequestKey("r"), now=NOW)
    for wrong in ("", "whsec_", "open sesame", "whsec_not base64!"):
        with pytest.raises(Refusal, match="no signing key"):
            await connect.keep_secret(database, fetcher, ines, "brackwater", SecretStr(wrong), NOW)
    # Of the right form, and another site's.
    with pytest.raises(Refusal, match="does not know this signing key"):
        await connect.keep_secret(
            database, fetcher, ines, "brackwater", SecretStr("whsec_" + "A" * 32), datetime.now(UTC)
        )
    writes = brackwater.places.writes
    await connect.keep_secret(
        database, fetcher, ines, "brackwater", SecretStr(f" {brackwater.places.secret}\n"), datetime.now(UTC)
    )
    assert brackwater.places.writes == writes, "trying it changes nothing"
    await put_live.ask(database, ines, "brackwater", request_key=RequestKey("s"), now=NOW)

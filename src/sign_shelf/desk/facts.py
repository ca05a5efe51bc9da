"""What is known of visitors: facts, audiences and named rules, of one site or shared by several, kept with the rules that
go along (core/changes/fact_edits.py)."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sign_shelf.core.basics.ids import slug
from sign_shelf.core.changes.arrangement import SetVersion
from sign_shelf.core.changes.fact_edits import (
    Use,
    Wanted,
    refuse_broken,
    refuse_invalid,
    uses_of,
    with_rules_along,
    with_rules_mended,
)
from sign_shelf.core.changes.state import known_facts
from sign_shelf.core.errors import Clash, NotFound
from sign_shelf.core.model.documents import content_hash
from sign_shelf.core.model.facts import FactSet
from sign_shelf.desk.edit import free_key
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import (
    Board,
    View,
    arrangements_of,
    board,
    boards,
    shared_sets,
    site_row,
    visible_sites,
)
from sign_shelf.desk.workplace import Workplace, arrange, put_tree, to_edit
from sign_shelf.store import changes, ledger, menus, requests
from sign_shelf.store import facts as fact_records
from sign_shelf.store.database import Database, Session
from sign_shelf.store.requests import RequestKey
from sign_shelf.store.tables import ChangeRow


def uses_on(found: Board) -> list[Use]:
    """Every rule of the site's menus, with where it is used."""
    return uses_of([(found.document(), found.facts)], Wanted(known=found.arrangement.own()))


async def try_site(session: Session, person: Person, site_key: str, wanted: Wanted, view: View = None) -> list[Use]:
    wanted = with_rules_along(wanted)
    found = await board(session, person, site_key, view)
    _, shared = await _followed(session, found, wanted)
    known = known_facts(found.arrangement.knowing(wanted.known), shared)
    return uses_of([(found.document(), known)], wanted)


async def save_site(
    database: Database,
    person: Person,
    site_key: str,
    wanted: Wanted,
    *,
    view: View = None,
    expected: str,
    now: datetime,
) -> list[Use]:
    """Keeps a site's facts, audiences and rules in the change, and mends the rules of its menus there. `expected` is the
    hash that the editor set out from. Raises Clash where they are others by now, EditRefused while a rule would not be
    valid."""
    where = f"sites/{site_key}/facts"
    require(person, "design", where, site_key)
    wanted = with_rules_along(wanted)
    async with database.transaction() as session:
        at = await to_edit(session, person, await site_row(session, person, site_key), view, now)
        found = await board(session, person, site_key, at.change.id)
        _refuse_stale(site_hash(found), expected, where)
        sets, shared = await _followed(session, found, wanted)
        known = known_facts(found.arrangement.knowing(wanted.known), shared)
        refuse_invalid(known, found.document(), where)
        uses = uses_of([(found.document(), known)], wanted)
        refuse_broken(uses, where)
        await arrange(session, at, found.arrangement.knowing(wanted.known).model_copy(update={"sets": sets}))
        await _mend(session, person, at, found, uses, now)
        ledger.write(session, "facts", f"Changed what is known of the visitors of {at.site.name}", at=now,
                     person_id=person.id, site_id=at.site.id, change=str(at.change.id))  # fmt: skip
        return uses


async def try_shared(session: Session, person: Person, key: str, wanted: Wanted) -> list[Use]:
    wanted = with_rules_along(wanted)
    followers = await _followers(session, person, key, wanted.known)
    return uses_of([(found.document(), known) for found, known in followers], wanted)


async def begin_shared(
    database: Database, person: Person, wanted: Wanted, *, request_key: RequestKey, now: datetime
) -> dict[str, Any]:
    """A new shared set, which no site follows yet. The same request key makes it once."""
    require(person, "design", "fact-sets")
    async with database.transaction() as session:
        await fact_records.alone(session)
        known = await fact_records.newest_sets(session)

        async def act() -> dict[str, Any]:
            made = free_key(slug(wanted.known.title, otherwise="facts"), known)
            await fact_records.keep_fact_set(session, made, 1, wanted.known)
            _tell(session, person, made, f"Began the shared facts {wanted.known.title}", now)
            return {"key": made}

        return await requests.once(session, person.id, request_key, act, at=now)


async def save_shared(
    database: Database, person: Person, key: str, wanted: Wanted, *, expected: str, now: datetime
) -> None:
    """Keeps the next version of a shared set, and takes the sites that follow it to that version: in one change, with the
    rules of their menus mended, which goes live as every change does. Where one of them is in a change of the person's
    already, that is where it moves."""
    where = f"fact-sets/{key}"
    require(person, "design", where)
    wanted = with_rules_along(wanted)
    async with database.transaction() as session:
        await fact_records.alone(session)
        known = await fact_records.newest_sets(session)
        if key not in known:
            raise NotFound(f'There is no shared set "{key}".', where="fact-sets")
        before, was = known[key]
        _refuse_stale(content_hash(was), expected, where)
        followers = await _followers(session, person, key, wanted.known)
        for found, facts in followers:
            refuse_invalid(facts, found.document(), where)
        uses = uses_of([(found.document(), facts) for found, facts in followers], wanted)
        refuse_broken(uses, where)
        await fact_records.keep_fact_set(session, key, before + 1, wanted.known)
        change: ChangeRow | None = None
        for found, _ in followers:
            if found.change is None and change is None:
                change = await changes.begin(
                    session, title=f"{wanted.known.title}, version {before + 1}", why="", author_id=person.id, at=now,
                    parts=[found.site.id],
                )  # fmt: skip
            if found.change is None and change is not None:
                await changes.work_in(session, person.id, found.site.id, change.id)
            inside = found.change or change
            assert inside is not None
            at = await to_edit(session, person, found.site, inside.id, now)
            sets = tuple(
                SetVersion(key=key, version=before + 1) if one.key == key else one for one in found.arrangement.sets
            )
            await arrange(session, at, found.arrangement.model_copy(update={"sets": sets}))
            await _mend(session, person, at, found, uses, now)
        _tell(session, person, key, f"Changed the shared facts {wanted.known.title}", now)


def _tell(session: Session, person: Person, key: str, says: str, now: datetime) -> None:
    ledger.write(session, "facts", says, at=now, person_id=person.id, site_id=None, fact_set=key)


def site_hash(found: Board) -> str:
    """What a site's own facts, and the sets that it follows, are known by."""
    return " ".join([content_hash(found.arrangement.own()), *(one.key for one in found.arrangement.sets)])


def _refuse_stale(has: str, expected: str, where: str) -> None:
    if has != expected:
        raise Clash(
            "Somebody changed these facts meanwhile.", where=where,
            remedy="Open them again beside what you have here, and make your changes there.",
        )  # fmt: skip


async def _followed(session: Session, found: Board, wanted: Wanted) -> tuple[tuple[SetVersion, ...], list[FactSet]]:
    """The sets that the site is to follow: those that it follows already as they are there, others in their newest
    version."""
    newest = await fact_records.newest_sets(session)
    has = {one.key: one for one in found.arrangement.sets}
    sets = []
    for key in wanted.sets or ():
        if key not in newest:
            raise NotFound(f'There is no shared set "{key}".', where="fact_sets")
        sets.append(has.get(key) or SetVersion(key=key, version=newest[key][0]))
    return tuple(sets), list(await shared_sets(session, sets))


async def _followers(session: Session, person: Person, key: str, changed: FactSet) -> list[tuple[Board, FactSet]]:
    """The sites that follow the set, as the person sees them, each with what would be known there."""
    arranged = await arrangements_of(session, person, await visible_sites(session, person))
    following = [row for row, one in arranged if any(followed.key == key for followed in one.sets)]
    found = await boards(session, person, following)
    return [
        (
            one,
            known_facts(
                one.arrangement,
                [changed if followed.key == key else shared
                 for followed, shared in zip(one.arrangement.sets, one.shared, strict=True)],
            ),
        )
        for one in found
    ]  # fmt: skip


async def _mend(
    session: Session, person: Person, at: Workplace, found: Board, uses: Sequence[Use], now: datetime
) -> None:
    """New revisions of the menus whose rules are written otherwise from now on."""
    for key, menu in found.menus.items():
        document = with_rules_mended(menu.document, uses)
        if document is not menu.document:
            hash = await menus.keep_tree(session, document)
            await put_tree(session, at, key, hash, now=now)
            ledger.write(session, "edit", f"{document.name}: mended its rules", at=now, person_id=person.id,
                         site_id=found.site.id, menu=key, hash=hash, change=str(at.change.id))  # fmt: skip

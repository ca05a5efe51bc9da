"""What is known of visitors: facts, audiences and named rules, of one site or shared by several.

A fact or value that gets another name, or goes, takes every rule that uses it along: nothing is kept while a rule of any
site would no longer be valid.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any

from sign_shelf.core.basics.ids import slug
from sign_shelf.core.changes.arrangement import SetVersion
from sign_shelf.core.errors import Clash, EditRefused, NotFound
from sign_shelf.core.model.documents import content_hash, read
from sign_shelf.core.model.facts import FactSet, FactType, built_in
from sign_shelf.core.model.menu import AnyItem, Labelled, MenuDocument, children, walk
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.rules import RuleProblem, RuleRefused, read_rule
from sign_shelf.core.rules.mend import mended, without
from sign_shelf.desk.edit import free_key
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import Board, View, board, boards, shared_sets, site_row, visible_sites
from sign_shelf.desk.workplace import Workplace, arrange, put_tree, to_edit
from sign_shelf.store import changes, ledger, menus, requests
from sign_shelf.store import facts as fact_records
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import ChangeRow


@dataclass(frozen=True, kw_only=True)
class Wanted:
    """What is to be known from now on. `mends` are rules by hand: the text before, the text from now on."""

    known: FactSet
    sets: Sequence[str] | None = None
    """The shared sets that the site follows; None where a shared set itself is meant."""
    renamed: Mapping[str, str] = field(default_factory=dict)
    renamed_values: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    mends: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, kw_only=True)
class Place:
    site: str
    menu: str
    item: str
    label: str


@dataclass(frozen=True, kw_only=True)
class Use:
    """A rule as it is written somewhere, how it would be written, and what is then wrong with it. `suggested` is offered
    where it could not be brought along by itself."""

    before: str
    after: str
    problem: RuleProblem | None
    was_valid: bool
    suggested: str | None
    places: tuple[Place, ...]


def uses_on(found: Board) -> list[Use]:
    """Every rule of the site's menus, with where it is used."""
    return _uses([(found, found.facts)], Wanted(known=found.arrangement.own()))


async def try_site(session: Session, person: Person, site_key: str, wanted: Wanted, view: View = None) -> list[Use]:
    wanted = _with_rules_along(wanted)
    found = await board(session, person, site_key, view)
    _, shared = await _followed(session, found, wanted)
    return _uses([(found, _over(wanted.known, shared))], wanted)


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
    wanted = _with_rules_along(wanted)
    async with database.transaction() as session:
        at = await to_edit(session, person, await site_row(session, person, site_key), view, now)
        found = await board(session, person, site_key, at.change.id)
        _refuse_stale(site_hash(found), expected, where)
        sets, shared = await _followed(session, found, wanted)
        known = _over(wanted.known, shared)
        _refuse_invalid(known, found.document(), where)
        uses = _uses([(found, known)], wanted)
        _refuse_broken(uses, where)
        await arrange(session, at, found.arrangement.knowing(wanted.known).model_copy(update={"sets": sets}))
        await _mend(session, person, at, found, uses, now)
        ledger.write(session, "facts", f"Changed what is known of the visitors of {at.site.name}", at=now,
                     person_id=person.id, site_id=at.site.id, change=str(at.change.id))  # fmt: skip
        return uses


async def try_shared(session: Session, person: Person, key: str, wanted: Wanted) -> list[Use]:
    wanted = _with_rules_along(wanted)
    return _uses(await _followers(session, person, key, wanted.known), wanted)


async def begin_shared(
    database: Database, person: Person, wanted: Wanted, *, request_key: str, now: datetime
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

        asked = {"fact set": wanted.known.to_json()}
        return await requests.once(session, person.id, request_key, asked, act, at=now)


async def save_shared(
    database: Database, person: Person, key: str, wanted: Wanted, *, expected: str, now: datetime
) -> None:
    """Keeps the next version of a shared set, and takes the sites that follow it to that version: in one change, with the
    rules of their menus mended, which goes live as every change does. Where one of them is in a change of the person's
    already, that is where it moves."""
    where = f"fact-sets/{key}"
    require(person, "design", where)
    wanted = _with_rules_along(wanted)
    async with database.transaction() as session:
        await fact_records.alone(session)
        known = await fact_records.newest_sets(session)
        if key not in known:
            raise NotFound(f'There is no shared set "{key}".', where="fact-sets")
        before, was = known[key]
        _refuse_stale(content_hash(was), expected, where)
        followers = await _followers(session, person, key, wanted.known)
        for found, facts in followers:
            _refuse_invalid(facts, found.document(), where)
        uses = _uses(followers, wanted)
        _refuse_broken(uses, where)
        await fact_records.keep_fact_set(session, key, before + 1, wanted.known)
        change: ChangeRow | None = None
        for found, _ in followers:
            if found.change is None and change is None:
                change = await changes.begin(
                    session, title=f"{wanted.known.title}, version {before + 1}", why="", author_id=person.id, at=now,
                    parts=[(found.site.id, found.site.live_state)],
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


def _with_rules_along(wanted: Wanted) -> Wanted:
    """Named rules have the new names as well."""
    rules = {name: _brought_along(text, wanted) for name, text in wanted.known.rules.items()}
    return replace(wanted, known=wanted.known.model_copy(update={"rules": rules}))


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


def _over(own: FactSet, shared: Sequence[FactSet]) -> FactSet:
    known = FactSet()
    for one in shared:
        known = one.over(known)
    return own.over(known)


async def _followers(session: Session, person: Person, key: str, changed: FactSet) -> list[tuple[Board, FactSet]]:
    """The sites that follow the set, as the person sees them, each with what would be known there."""
    found = await boards(session, person, await visible_sites(session, person))
    following = [one for one in found if any(followed.key == key for followed in one.arrangement.sets)]
    return [
        (
            one,
            _over(
                one.arrangement.own(),
                [changed if followed.key == key else shared
                 for followed, shared in zip(one.arrangement.sets, one.shared, strict=True)],
            ),
        )
        for one in following
    ]  # fmt: skip


def _uses(affected: Sequence[tuple[Board, FactSet]], wanted: Wanted) -> list[Use]:
    """Rules by their text: the same text on two sites is one use."""
    places: dict[str, list[Place]] = {}
    problems: dict[str, RuleProblem] = {}
    broken: set[str] = set()
    after: dict[str, str] = {}
    before: dict[str, FactSet] = {}
    for found, known in affected:
        declared = built_in(found.document().site.languages) | known.facts
        for key, item in _guarded(found):
            assert item.when is not None
            label = next(iter(item.label.values()), item.id) if isinstance(item, Labelled) else item.kind
            place = Place(site=found.site.key, menu=key, item=item.id, label=label)
            places.setdefault(item.when, []).append(place)
            before.setdefault(item.when, found.facts)
            after[item.when] = _brought_along(item.when, wanted)
            wrong = _problem(after[item.when], declared, known.rules)
            if wrong is not None:
                problems[item.when] = wrong
            if _problem(item.when, found.document().all_facts(), found.facts.rules) is not None:
                broken.add(item.when)
    return [
        Use(
            before=text,
            after=after[text],
            problem=problems.get(text),
            was_valid=text not in broken,
            suggested=_suggested(after[text], before[text], wanted.known) if text in problems else None,
            places=tuple(where),
        )
        for text, where in sorted(places.items())
    ]


def _problem(text: str, facts: Mapping[str, FactType], named: Mapping[str, str]) -> RuleProblem | None:
    try:
        read_rule(text, facts, named)
    except RuleRefused as refused:
        return refused.problems[0]
    return None


def _brought_along(text: str, wanted: Wanted) -> str:
    if text in wanted.mends:
        return wanted.mends[text]
    try:
        return mended(text, wanted.renamed, wanted.renamed_values)
    except RuleRefused:
        return text


def _suggested(text: str, before: FactSet, after: FactSet) -> str | None:
    gone = {
        name: None for name in (*before.facts, *before.rules) if name not in after.facts and name not in after.rules
    }
    values = {
        name: frozenset(fact.values) - frozenset(after.facts[name].values)
        for name, fact in before.facts.items()
        if name in after.facts and fact.values
    }
    try:
        return without(text, gone, values)
    except RuleRefused:
        return None


def _guarded(found: Board) -> Iterator[tuple[str, AnyItem]]:
    for key, menu in found.menus.items():
        yield from ((key, item) for _, item in walk(menu.document.items) if item.when)


def _refuse_broken(uses: Sequence[Use], where: str) -> None:
    broken = [use for use in uses if use.problem and use.was_valid]
    if broken:
        first = broken[0]
        assert first.problem is not None
        raise EditRefused(
            f"The rule {first.after} would no longer be valid: {first.problem.says}", where=where,
            remedy=f"Mend it first; it is used by {first.places[0].label} and {len(first.places) - 1} more."
            if len(first.places) > 1 else f"Mend it first; it is used by {first.places[0].label}.",
        )  # fmt: skip


def _refuse_invalid(known: FactSet, document: SiteDocument, where: str) -> None:
    """Raises InvalidDocument or EditRefused where the audiences or the named rules do not go with the facts."""
    facts = built_in(document.site.languages) | known.facts
    whole = {"format": "sign-shelf/site", "version": 1, "site": document.site, "template": document.template}
    read(SiteDocument, {**whole, **known.model_dump(exclude={"title"})}, what="facts")
    for name, text in known.rules.items():
        try:
            read_rule(text, facts, known.rules)
        except RuleRefused as refused:
            raise EditRefused(
                f"The rule {name} is not valid: {refused.says}", where=f"{where}/rules/{name}", remedy=refused.remedy
            ) from None


async def _mend(
    session: Session, person: Person, at: Workplace, found: Board, uses: Sequence[Use], now: datetime
) -> None:
    """New revisions of the menus whose rules are written otherwise from now on."""
    changed = {use.before: use.after for use in uses if use.before != use.after}
    for key, menu in found.menus.items():
        if any(item.when in changed for _, item in walk(menu.document.items)):
            document = menu.document.with_items(_with_rules(menu.document, changed))
            hash = await menus.keep_tree(session, document)
            await put_tree(session, at, key, hash, author_id=person.id, now=now)
            ledger.write(session, "edit", f"{document.name}: mended its rules", at=now, person_id=person.id,
                         site_id=found.site.id, menu=key, hash=hash, change=str(at.change.id))  # fmt: skip


def _with_rules(document: MenuDocument, changed: Mapping[str, str]) -> tuple[AnyItem, ...]:
    def mend(item: AnyItem) -> AnyItem:
        below = tuple(mend(one) for one in children(item))
        update: dict[str, object] = {"items": below} if below else {}
        if item.when in changed:
            update["when"] = changed[item.when or ""]
        return item.model_copy(update=update) if update else item

    return tuple(mend(item) for item in document.items)

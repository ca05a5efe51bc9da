"""What is known of visitors, and the rules that are made of it."""

import asyncio
from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field, JsonValue

from sign_shelf.api.guards import Db, Expected, In, Now, Once, Someone
from sign_shelf.api.lens import Seen, whole_site
from sign_shelf.api.models import Answer
from sign_shelf.core.changes.fact_edits import RulePlace, Use, Wanted
from sign_shelf.core.changes.state import known_facts
from sign_shelf.core.model.documents import content_hash, read
from sign_shelf.core.model.facts import FactSet, FactType, built_in, says_type
from sign_shelf.core.rules import RuleProblem, RuleRefused, ops_of
from sign_shelf.core.rules.parts import AnyPart
from sign_shelf.core.visitors.rule_told import SeenBy, rule_told
from sign_shelf.desk import facts as desk
from sign_shelf.desk.portfolio import arrangements_of, board, visible_sites
from sign_shelf.store import facts as fact_records

router = APIRouter(prefix="/api", tags=["facts"])


class FactChoice(Answer):
    """A fact as rules may use it."""

    name: str
    type: str
    values: list[str]
    ops: list[str]
    says: str
    from_: Literal["built in", "shared", "own", "rule"]


class RuleUse(Answer):
    before: str
    after: str
    problem: str | None
    suggested: str | None
    places: list[RulePlace]


class SharedSet(Answer):
    key: str
    known: FactSet
    hash: str
    """What a write of it sets out from (If-Match)."""
    followers: list[str]


class FactsOut(Answer):
    own: FactSet
    hash: str
    """What a write of the site's own facts sets out from (If-Match)."""
    sets: list[str]
    shared: list[SharedSet]
    known: list[FactChoice]
    audiences: dict[str, dict[str, JsonValue]]
    rules: dict[str, str]
    uses: list[RuleUse]


class FactsBody(BaseModel):
    known: dict[str, JsonValue]
    sets: list[str] | None = Field(default=None, max_length=20)
    renamed: dict[str, str] = {}
    renamed_values: dict[str, dict[str, str]] = {}
    mends: dict[str, str] = {}

    def wanted(self) -> Wanted:
        return Wanted(
            known=read(FactSet, self.known, what="facts"),
            sets=self.sets,
            renamed=self.renamed,
            renamed_values=self.renamed_values,
            mends=self.mends,
        )


class KeyOut(Answer):
    key: str


class RuleBody(BaseModel):
    """`above` are the rules of what the item stands below."""

    rule: str = Field(max_length=200_000)
    above: list[str] = Field(default=[], max_length=30)


class MarkOut(Answer):
    column: int
    length: int
    says: str
    suggestion: str | None
    replacement: str | None


class RuleOut(Answer):
    """`never` and what follows are about the rule together with those above it."""

    text: str
    normal: str | None
    says: str | None
    part: AnyPart | None
    problems: list[MarkOut]
    seen_by: tuple[SeenBy, ...]
    never: bool | Literal["not decided"]
    always: bool | Literal["not decided"]
    nothing_new: bool
    """Whether whoever meets the rules above meets this one as well."""
    example: dict[str, JsonValue] | None


def _uses(uses: list[Use]) -> list[RuleUse]:
    return [
        RuleUse(
            before=one.before,
            after=one.after,
            problem=one.problem.says + (f"; {one.problem.suggestion}" if one.problem.suggestion else "")
            if one.problem else None,
            suggested=one.suggested,
            places=list(one.places),
        )
        for one in uses
    ]  # fmt: skip


def _choice(name: str, fact: FactType, origin: Literal["built in", "shared", "own"]) -> FactChoice:
    return FactChoice(
        name=name, type=fact.type, values=list(fact.values), ops=list(ops_of(fact)), says=says_type(fact), from_=origin
    )


@router.get("/audiences")
async def audiences(database: Db, person: Someone) -> list[str]:
    """The names of all sites' audiences, each once."""
    async with database.transaction() as session:
        arranged = await arrangements_of(session, person, await visible_sites(session, person))
        shared = await fact_records.fact_sets(session, {version for _, one in arranged for version in one.sets})
    known = (known_facts(one, (shared[version] for version in one.sets)) for _, one in arranged)
    return list(dict.fromkeys(name for one in known for name in one.audiences))


@router.get("/sites/{site}/facts")
async def facts(site: str, database: Db, person: Someone, view: In) -> FactsOut:
    """A site's own facts, audiences and named rules, the shared sets, and every rule with where it is used."""
    async with database.transaction() as session:
        found = await board(session, person, site, view)
        shared = await fact_records.newest_sets(session)
        everywhere = await arrangements_of(session, person, await visible_sites(session, person))
    uses = await asyncio.to_thread(desk.uses_on, found)
    own = found.arrangement.own()
    base = built_in(found.document().site.languages)
    known = [
        _choice(name, fact, "own" if name in own.facts else "shared" if name in found.facts.facts else "built in")
        for name, fact in (base | found.facts.facts).items()
    ]
    named = [
        FactChoice(name=name, type="rule", values=[], ops=["holds"], says=text, from_="rule")
        for name, text in found.facts.rules.items()
    ]
    whole = found.facts.to_json()
    return FactsOut(
        own=own,
        hash=desk.site_hash(found),
        sets=[one.key for one in found.arrangement.sets],
        shared=[
            SharedSet(
                key=key,
                known=one,
                hash=content_hash(one),
                followers=[row.name for row, each in everywhere if any(has.key == key for has in each.sets)],
            )
            for key, (_, one) in shared.items()
        ],
        known=[*known, *named],
        audiences=whole.get("audiences", {}),
        rules=dict(found.facts.rules),
        uses=_uses(uses),
    )


@router.post("/sites/{site}/facts/try")
async def try_facts(site: str, body: FactsBody, database: Db, person: Someone, view: In) -> list[RuleUse]:
    """What would become of the rules of the site's menus. Nothing is changed."""
    async with database.transaction() as session:
        return _uses(await desk.try_site(session, person, site, body.wanted(), view))


@router.put("/sites/{site}/facts")
async def save_facts(
    site: str, body: FactsBody, database: Db, person: Someone, view: In, expected: Expected, now: Now
) -> list[RuleUse]:
    """Keeps what is known of the site's visitors, and mends the rules of its menus in its draft."""
    return _uses(await desk.save_site(database, person, site, body.wanted(), view=view, expected=expected, now=now))


@router.post("/fact-sets", status_code=201)
async def new_set(body: FactsBody, database: Db, person: Someone, key: Once, now: Now) -> KeyOut:
    """A new shared set. The same key makes it once."""
    made = await desk.begin_shared(database, person, body.wanted(), request_key=key, now=now)
    return KeyOut.model_validate(made)


@router.post("/fact-sets/{key}/try")
async def try_set(key: str, body: FactsBody, database: Db, person: Someone) -> list[RuleUse]:
    """What would become of the rules of every site that follows the set."""
    async with database.transaction() as session:
        return _uses(await desk.try_shared(session, person, key, body.wanted()))


@router.put("/fact-sets/{key}", status_code=204)
async def save_set(key: str, body: FactsBody, database: Db, person: Someone, expected: Expected, now: Now) -> None:
    """Keeps the set, and mends the rules of the sites that follow it in their drafts."""
    await desk.save_shared(database, person, key, body.wanted(), expected=expected, now=now)


@router.post("/sites/{site}/rules/read")
async def read_one(site: str, body: RuleBody, database: Db, person: Someone, view: In, now: Now, seen: Seen) -> RuleOut:
    """A rule read: its parts and its words, what is wrong with it, whom of the audiences it lets see, and what is true of
    it whoever comes."""
    prepared = await whole_site(database, person, site, view, seen.when(now))
    document = prepared.site
    try:
        told = await asyncio.to_thread(lambda: rule_told(prepared, body.rule, body.above, seen.of(document, now)))
    except RuleRefused as refused:
        return RuleOut(
            text=body.rule, normal=None, says=None, part=None, problems=[_mark(one) for one in refused.problems],
            seen_by=[], never=False, always=False, nothing_new=False, example=None,
        )  # fmt: skip
    example = {name: list(one) if isinstance(one, tuple) else one for name, one in (told.example or {}).items()}
    return RuleOut(
        text=body.rule,
        normal=told.normal,
        says=told.says,
        part=told.part,
        problems=[],
        seen_by=told.seen_by,
        never=told.never,
        always=told.always,
        nothing_new=told.nothing_new,
        example=example if told.example is not None else None,
    )


def _mark(problem: RuleProblem) -> MarkOut:
    return MarkOut(
        column=problem.at + 1,
        length=problem.length,
        says=problem.says,
        suggestion=problem.suggestion,
        replacement=problem.replacement,
    )

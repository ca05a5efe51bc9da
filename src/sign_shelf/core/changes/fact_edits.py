"""What becomes of the rules of menus where facts, audiences or named rules change.

A fact or value that gets another name, or goes, takes every rule that uses it along: nothing is kept while a rule of any
site would no longer be valid.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

from sign_shelf.core.errors import EditRefused
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.facts import FactSet, FactType, built_in
from sign_shelf.core.model.menu import AnyItem, MenuDocument, children, walk
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.outline.called import title
from sign_shelf.core.rules import RuleProblem, RuleRefused, read_rule
from sign_shelf.core.rules.mend import mended, without


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
class RulePlace:
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
    places: tuple[RulePlace, ...]


def with_rules_along(wanted: Wanted) -> Wanted:
    """Named rules have the new names as well."""
    rules = {name: _brought_along(text, wanted) for name, text in wanted.known.rules.items()}
    return replace(wanted, known=wanted.known.model_copy(update={"rules": rules}))


def uses_of(affected: Iterable[tuple[SiteDocument, FactSet]], wanted: Wanted) -> list[Use]:
    """The rules of the sites' menus, each site with what is to be known there, by their text: the same text on two sites is
    one use."""
    places: dict[str, list[RulePlace]] = {}
    problems: dict[str, RuleProblem] = {}
    broken: set[str] = set()
    after: dict[str, str] = {}
    before: dict[str, FactSet] = {}
    for site, known in affected:
        declared = built_in(site.site.languages) | known.facts
        has = site.known()
        for key, item in _guarded(site):
            assert item.when is not None
            place = RulePlace(site=site.site.key, menu=key, item=item.id, label=title(item, site.site.languages[0]))
            places.setdefault(item.when, []).append(place)
            before.setdefault(item.when, has)
            after[item.when] = _brought_along(item.when, wanted)
            wrong = _problem(after[item.when], declared, known.rules)
            if wrong is not None:
                problems[item.when] = wrong
            if _problem(item.when, site.all_facts(), site.rules) is not None:
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


def _guarded(site: SiteDocument) -> Iterator[tuple[str, AnyItem]]:
    for key, menu in site.menus.items():
        yield from ((key, item) for _, item in walk(menu.items) if item.when)


def refuse_broken(uses: Sequence[Use], where: str) -> None:
    """Raises EditRefused where a rule was valid and would not be."""
    broken = [use for use in uses if use.problem and use.was_valid]
    if broken:
        first = broken[0]
        assert first.problem is not None
        raise EditRefused(
            f"The rule {first.after} would no longer be valid: {first.problem.says}", where=where,
            remedy=f"Mend it first; it is used by {first.places[0].label} and {len(first.places) - 1} more."
            if len(first.places) > 1 else f"Mend it first; it is used by {first.places[0].label}.",
        )  # fmt: skip


def refuse_invalid(known: FactSet, document: SiteDocument, where: str) -> None:
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


def with_rules_mended(document: MenuDocument, uses: Iterable[Use]) -> MenuDocument:
    """The menu with its rules as they are to be written; the same where none is written otherwise."""
    changed = {use.before: use.after for use in uses if use.before != use.after}
    if not any(item.when in changed for _, item in walk(document.items)):
        return document

    def mend(item: AnyItem) -> AnyItem:
        below = tuple(mend(one) for one in children(item))
        update: dict[str, object] = {"items": below} if below else {}
        if item.when in changed:
            update["when"] = changed[item.when or ""]
        return item.model_copy(update=update) if update else item

    return document.with_items(tuple(mend(item) for item in document.items))

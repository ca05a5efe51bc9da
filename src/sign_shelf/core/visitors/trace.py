"""Why a visitor sees an entry, or does not: every step of resolving it, in order, with how it came out."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from sign_shelf.core.basics.clock import said_moment
from sign_shelf.core.basics.languages import language_name
from sign_shelf.core.model.menu import AnyItem, Heading, Include, Link, Opener, PageTarget, PendingTarget, children
from sign_shelf.core.model.tree import Tree
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.resolve.visit import Visit
from sign_shelf.core.rules import format_rule, why
from sign_shelf.core.visitors.who_sees import walk_resolved


@dataclass(frozen=True, slots=True)
class TraceStep:
    """Of the item itself, or of one that it stands below. `holds` None: not looked at any more."""

    item: str
    label: str
    step: Literal["placement", "window", "devices", "language", "rule", "page", "place"]
    holds: bool | None
    says: str


def trace(prepared: Prepared, location_key: str, lens: Lens, item_id: str) -> list[TraceStep]:
    """The steps down to the item, ending with the first that fails, or with the place that shows it. Empty for an item
    that the location's menu does not have. Raises ResolveRefused for an unknown location."""
    source = prepared.source(location_key, lens.device)
    where = {"own": "hangs here", "inherited": f"is inherited from {source.device}", "stand-in": f"stands in from {source.location}",
             "none": "nothing hangs here"}[source.placement]  # fmt: skip
    first = TraceStep("", "", "placement", source.menu is not None, f"{source.menu or 'no menu'}: {where}")
    if source.menu is None:
        return [first]
    chain = _chain(prepared, prepared.site.menus[source.menu].items, source.menu, "", item_id)
    if chain is None:
        return []
    visit = prepared.visit(lens)
    steps = [first]
    for shown_id, item in chain:
        for step in _steps(prepared, lens, visit, shown_id, item):
            steps.append(step)
            if step.holds is False:
                return steps
    steps.append(_place(prepared, location_key, lens, item_id))
    return steps


def _chain(prepared: Prepared, items: Tree, root: str, prefix: str, item_id: str) -> list[tuple[str, AnyItem]] | None:
    """The item, after those that it stands below."""
    for item in items:
        shown = prefix + item.id
        if shown == item_id:
            return [(shown, item)]
        below: Tree = children(item)
        deeper = prefix
        if isinstance(item, Include):
            below, deeper = prepared.includes.items(item.menu, root), f"{shown}/"
        found = _chain(prepared, below, root, deeper, item_id)
        if found is not None:
            return [(shown, item), *found]
    return None


def _steps(prepared: Prepared, lens: Lens, visit: Visit, shown: str, item: AnyItem) -> Iterator[TraceStep]:
    clock = prepared.clock
    name = _label(prepared, lens, item)
    if item.from_ or item.until:
        opens = item.from_ is None or clock.instant(item.from_) <= visit.now
        closes = item.until is None or visit.now < clock.instant(item.until)
        window = " ".join(
            f"{word} {said_moment(at)}" for word, at in (("from", item.from_), ("until", item.until)) if at
        )
        yield TraceStep(shown, name, "window", opens and closes, f"{window}; it is {said_moment(lens.at)}")
    if item.devices:
        yield TraceStep(shown, name, "devices", lens.device in item.devices, f"only on {', '.join(item.devices)}; this is a {lens.device}")  # fmt: skip
    if isinstance(item, Heading | Opener) or (isinstance(item, Link) and item.label):
        chain = dict.fromkeys([lens.language, lens.language.split("-")[0], *prepared.site.site.languages])
        tag = next((one for one in chain if one in item.label), None)
        says = (
            f"called “{item.label[tag]}” in {language_name(tag)}"
            if tag
            else f"has no label in {', '.join(map(language_name, chain))}"
        )
        if tag != lens.language:
            yield TraceStep(shown, name, "language", tag is not None, says)
    if item.when:
        rule = prepared.rules.of(item.when)
        refusal = visit.refusal(rule)
        reasons = why(rule.rule, visit.facts) if rule.rule is not None else ()
        held = "; ".join(f"{format_rule(one.test)} is {'true' if one.value else 'false'}" for one in reasons)
        yield TraceStep(shown, name, "rule", refusal is None, refusal or f"{item.when}: {held or 'always'}")
    if isinstance(item, Link) and isinstance(item.target, PendingTarget):
        yield TraceStep(shown, name, "page", False, "leads nowhere yet")
    if isinstance(item, Link) and isinstance(item.target, PageTarget):
        page = prepared.addresses.pages.get(item.target.page)
        state = page.state if page else "not in the inventory"
        ends = f"{page.ends}T00:00" if page is not None and page.ends else None
        there = state == "published" and (ends is None or visit.now < clock.instant(ends))
        until = f"; it is there until {said_moment(ends)}" if ends else ""
        yield TraceStep(shown, name, "page", there, f"@{item.target.page} is {state}{until}")


def _label(prepared: Prepared, lens: Lens, item: AnyItem) -> str:
    label = getattr(item, "label", None)
    if label:
        return str(label.get(lens.language) or next(iter(label.values())))
    target = getattr(item, "target", None)
    ref = getattr(target, "page", None)
    return (prepared.addresses.title(ref, lens.language) or f"@{ref}") if ref else item.kind


def _place(prepared: Prepared, location_key: str, lens: Lens, item_id: str) -> TraceStep:
    template = prepared.site.template
    location = template.location(location_key)
    assert location is not None
    fold = location.folds_into(lens.device, template.width_of(lens.device))
    shown_in = location if fold is None else template.location(fold.into)
    assert shown_in is not None
    got = prepared.resolve(shown_in.key, lens)
    if any(item.id == item_id or item.id.startswith(f"{item_id}:") for item in walk_resolved(got.items)):
        moved = f", folded in from {location.title}" if fold is not None else ""
        return TraceStep(item_id, "", "place", True, f"shown in {shown_in.title}{moved}")
    out = next((one.detail for one in got.hidden if one.id == item_id), None)
    absent = f"{location.title} does not exist on a {lens.device}" if lens.device not in location.devices else ""
    return TraceStep(item_id, "", "place", False, out or absent or f"{shown_in.title} does not show it")

"""Who can see an entry, and who can get to a page: rules that cannot be read or that nobody meets, drop-downs that open
empty, pages that a device lacks, that no menu has, or that stand too far from home."""

from collections.abc import Iterable, Iterator

from sign_shelf.core.checks.check import Check, Code, MenuCheck, SiteCheck, reads
from sign_shelf.core.checks.finding import Finding
from sign_shelf.core.checks.view import NOON, Line, SiteView
from sign_shelf.core.model.facts import COMPUTED
from sign_shelf.core.model.href import facts_in
from sign_shelf.core.model.menu import Device, Link, UrlTarget
from sign_shelf.core.model.tree import targeted_pages
from sign_shelf.core.rules import ALWAYS, Rule, all_of, fact_tests
from sign_shelf.core.rules.analyse import analyse
from sign_shelf.core.visitors.reach import Reached, home_of, reach
from sign_shelf.core.visitors.who_sees import Warned, who_sees

INVALID = Code(
    "rule-invalid", "stop", "the rule cannot be read against the site's facts", "the entry shows to nobody", "mending the rule"
)  # fmt: skip
NEVER = Code(
    "never-seen", "warn", "nobody can meet the rule, by itself or together with those of what it stands below",
    "the entry is kept for nobody", "mending one of the rules",
)  # fmt: skip
ALWAYS_TRUE = Code(
    "rule-always", "note", "whoever supplies its facts meets the rule", "it looks like a condition and is none", "taking it away"
)  # fmt: skip
NOT_SUPPLIED = Code(
    "fact-not-supplied", "warn",
    "the rule, or a pattern in the address, asks for a fact that the site says it does not know of its visitors",
    "whoever the entry is for does not get it", "taking the rule away, or having the site say it",
)  # fmt: skip


def _rules(view: SiteView, menu: str) -> Iterator[Finding]:
    rules = view.prepared.rules
    asked: list[tuple[Line, Rule, Rule]] = []
    together: dict[Line | None, Rule] = {None: ALWAYS}
    for line in view.lines(menu):
        above = together[line.above]
        together[line] = above
        if not line.item.when:
            continue
        read = rules.of(line.item.when)
        if read.rule is None:
            says = f"{view.called(line.item)} is hidden from everybody: {read.wrong}"
            yield INVALID.found(says, line=line, fix="Mend the rule.")
        else:
            together[line] = all_of(part for part in (above, read.rule) if part != ALWAYS)
            asked.append((line, read.rule, all_of([above, read.rule])))
    yield from _not_supplied(view, menu, {line: rule for line, rule, _ in asked})
    # Each rule once, however many entries have it.
    told = list(dict.fromkeys(rule for _, *both in asked for rule in both))
    found = dict(zip(told, analyse(told, view.site.all_facts()), strict=True))
    for line, rule, both in asked:
        one, with_those = found[rule], found[both]
        name = view.called(line.item)
        if one.never is True:
            says = f"nobody can ever meet the rule of {name}"
            yield NEVER.found(says, line=line, fix="Mend the rule, or remove the entry.")
        elif with_those.never is True:
            says = f"nobody who sees what {name} stands below can meet its rule"
            yield NEVER.found(says, line=line, fix="Mend one of the rules.")
        elif one.always is True and rule != ALWAYS and both != ALWAYS:
            says = f"whoever supplies its facts meets the rule of {name}: it says nothing"
            yield ALWAYS_TRUE.found(says, line=line, fix="Take the rule away.")


def _not_supplied(view: SiteView, menu: str, rules: dict[Line, Rule]) -> Iterator[Finding]:
    """What a rule or an address asks of visitors, and the site says that it does not know of them."""
    known = view.site.site.can.facts
    if known is None:
        return
    for line in view.lines(menu):
        item = line.item
        pattern = item.target.url if isinstance(item, Link) and isinstance(item.target, UrlTarget) else ""
        tested = {test.fact for test in fact_tests(rules[line])} if line in rules else set()
        missing = sorted((tested | set(facts_in(pattern))) - COMPUTED - set(known))
        if missing:
            says = f"{view.called(item)} asks for {', '.join(missing)}, which this site does not say"
            fix = "Take the rule away, or have the site say it of its visitors."
            yield NOT_SUPPLIED.found(says, line=line, fix=fix, cause=f"fact {', '.join(missing)}")


OPENS_EMPTY = Code(
    "opens-empty", "warn", "an entry opens and shows nothing to some audience on some device", "they are led into an empty room",
    "a rule for the entry itself, or something below it for them",
)  # fmt: skip
TOGETHER = Code(
    "sign-in-and-out", "warn", "somebody gets a way to sign in and one to sign out at once", "one of them is wrong",
    "rules that are each other's opposite",
)  # fmt: skip
ONLY_ONE = Code(
    "only-one", "note", "only one audience on one device sees the entry", "a rule or a device may say more than was meant",
    "looking at its rule and its devices",
)  # fmt: skip
_SEEN: dict[str, Code] = {"opens-empty": OPENS_EMPTY, "together": TOGETHER, "only-one": ONLY_ONE}


def _audiences(view: SiteView) -> Iterator[Finding]:
    at = view.today + NOON
    for location in view.site.template.locations:
        sources = [view.prepared.source(location.key, device).menu for device in location.devices]
        if location.shape == "section" or not any(sources):
            continue
        matrix = who_sees(view.prepared, location.key, at=at, languages=[view.language], devices=location.devices)
        rows = {row.item: row for row in matrix.rows}
        for one in matrix.warnings:
            code = _SEEN.get(one.kind)
            if code is not None:
                yield _told(view, code, one, rows[one.item].menu, location.key)


def _told(view: SiteView, code: Code, one: Warned, menu: str, location: str) -> Finding:
    own = one.item.rpartition("/")[2]
    line = next((line for line in view.lines(menu) if line.item.id == own), None)
    return code.found(one.says, line=line, menu=menu, location=location, fix=f"{code.mend[0].upper()}{code.mend[1:]}.")


PARITY = Code(
    "device-lacks", "warn", "pages that menus lead to on one device are in none on another", "whoever is on that device does not get there",
    "entries for them in what hangs there",
)  # fmt: skip
ORPHAN = Code(
    "page-orphan", "note", "published pages are in no menu on any device", "visitors find them only by searching",
    "an entry, or saying that none is meant",
)  # fmt: skip
FAR = Code(
    "page-far", "note", "pages are more choices away from the home page than the site's policy says (four where it says nothing)",
    "visitors give up before", "an entry nearer to the top",
)  # fmt: skip
SCRIPT = Code(
    "script-only", "warn", "pages are only in menus that a script writes", "search engines and readers without scripts do not find them",
    "an entry in a place that is in the page's HTML",
)  # fmt: skip
FARTHEST = 4
"""Choices from the home page, where the site's policy says nothing."""


def _reach(view: SiteView) -> Iterator[Finding]:
    """Told by the part of the site that pages are in, so that a forgotten corner is one finding."""
    if home_of(view.site.pages) is None or not any(view.hung[key] for key in view.menus):
        return
    on: dict[Device, list[Reached]] = {
        device: reach(view.prepared, view.lens(device)) for device in view.site.template.devices
    }
    got: dict[Device, frozenset[str]] = {
        device: frozenset(one.ref for one in reached if one.steps is not None) for device, reached in on.items()
    }
    everywhere = frozenset[str]().union(*got.values())
    for device, mine in got.items():
        others = [other for other in got if other != device]
        for part, refs in _parts(view, (page for page in everywhere - mine)):
            by = max(others, key=lambda other: len(got[other] & set(refs)))
            says = f"A {device} lacks {_some(view, refs)}, which a {by} has"
            fix = "Add them to what hangs there."
            yield PARITY.found(says, device=device, fix=fix, cause=f"pages {part} on a {device}")
        most = view.site.site.policy.steps or FARTHEST
        far = [one.ref for one in on[device] if one.steps is not None and one.steps > most]
        for part, refs in _parts(view, far):
            says = f"On a {device}, {_some(view, refs)}: more than {most} choices from the home page"
            yield FAR.found(
                says, device=device, fix="Add an entry nearer to the top.", cause=f"pages {part} on a {device}"
            )
    # Who is led to a part of a page is on the page.
    led_to = everywhere.union(*(targeted_pages(view.site.menus[key].items) for key in view.menus if view.places(key)))
    lost = (page.ref for page in view.published if page.ref not in led_to and not page.noindex)
    for part, refs in _parts(view, lost):
        yield ORPHAN.found(f"{_some(view, refs)}: in no menu", fix="Add an entry.", cause=f"pages {part}")
    yield from _unread(view, on)


def _unread(view: SiteView, on: dict[Device, list[Reached]]) -> Iterator[Finding]:
    read = {location.key for location in view.site.template.locations if location.readable}
    plain: set[str] = set()
    written: set[str] = set()
    for key in view.menus:
        for location, device in view.hung[key]:
            for item in _walked(view, location.key, device):
                (plain if location.key in read else written).add(item)
    for part, refs in _parts(view, written - plain):
        says = f"{_some(view, refs)}: only in menus that a script writes"
        fix = "Add them to a place that is in the page's HTML."
        yield SCRIPT.found(says, fix=fix, cause=f"pages {part}")


def _walked(view: SiteView, location: str, device: Device) -> Iterator[str]:
    stack = list(view.prepared.resolve(location, view.lens(device)).items)
    while stack:
        item = stack.pop()
        if item.page is not None:
            yield item.page
        stack.extend(item.items)


def _parts(view: SiteView, refs: Iterable[str]) -> Iterator[tuple[str, list[str]]]:
    """Pages by the first step of their paths, those of the top together, in the inventory's order."""
    wanted = set(refs)
    found: dict[str, list[str]] = {}
    for page in view.site.pages:
        if page.ref in wanted:
            steps = page.path.strip("/").split("/")
            found.setdefault(f"under /{steps[0]}" if len(steps) > 1 else "at the top", []).append(page.ref)
    yield from found.items()


def _some(view: SiteView, refs: list[str]) -> str:
    """The pages in words: one by its title, more by their number and what they begin with."""
    names = [view.addresses.title(ref, view.language) or ref for ref in refs[:3]]
    if len(refs) <= 3:
        return ", ".join(names)
    return f"{len(refs)} pages ({', '.join(names[:2])} …)"


CHECKS: tuple[Check, ...] = (
    MenuCheck("visibility", reads("tree", "arrangement"), (INVALID, NEVER, ALWAYS_TRUE, NOT_SUPPLIED), _rules),
    SiteCheck(
        "visibility", reads("trees", "arrangement", "inventory", "clock"), (OPENS_EMPTY, TOGETHER, ONLY_ONE), _audiences
    ),
    SiteCheck("visibility", reads("trees", "arrangement", "inventory", "clock"), (PARITY, ORPHAN, FAR, SCRIPT), _reach),
)

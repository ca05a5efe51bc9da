"""Menus prepared for a device and a language, so that one visitor after another is answered quickly.

Most of a menu is the same for every visitor on a device in a language. That part is resolved once; what depends on the
moment or on the visitor (windows, rules, patterns with facts) is kept as steps and settled for each.
"""

from bisect import bisect_right
from collections.abc import Callable
from dataclasses import dataclass
from operator import itemgetter

from sign_shelf.core.basics.address import joined
from sign_shelf.core.basics.clock import clock_of, said_day, said_moment
from sign_shelf.core.basics.languages import language_name
from sign_shelf.core.model.facts import Visitor
from sign_shelf.core.model.href import Addresses, facts_in, made_address
from sign_shelf.core.model.includes import Includes
from sign_shelf.core.model.menu import (
    PLAIN,
    AnyItem,
    Device,
    Divider,
    EmailTarget,
    Heading,
    Include,
    Link,
    LinkTarget,
    Listing,
    Look,
    Opener,
    PageTarget,
    PendingTarget,
    PhoneTarget,
    UrlTarget,
    children,
)
from sign_shelf.core.model.site import Page, SiteDocument
from sign_shelf.core.model.tree import Tree, targeted_pages
from sign_shelf.core.outline.called import title
from sign_shelf.core.resolve.limits import depth_of, kinds_of
from sign_shelf.core.resolve.listing import listed_pages, that_answer
from sign_shelf.core.resolve.resolved import Because, Hidden, Resolved
from sign_shelf.core.resolve.tidy import tidy_dividers
from sign_shelf.core.resolve.visit import SiteRule, SiteRules, Visit
from sign_shelf.core.rules import ALWAYS

_new: Callable[[type[Resolved], tuple[object, ...]], Resolved] = tuple.__new__
"""An entry of all twelve fields in order: in a third of the time."""
_fields = itemgetter("id", "label", "target", "look", "new_tab", "rel", "items", "from_", "until", "when", "devices")
_NO_KINDS: frozenset[str] = frozenset()
_LINK = frozenset({"link"})
_NAMED = (Link, Heading, Opener)
_NEVER = "~"
"""Later than every instant, which begin with digits."""
Settled = tuple[tuple[Resolved, ...], tuple[Hidden, ...]]


@dataclass(slots=True, eq=False)
class Step:
    """An item that the visitor or the moment decides on."""

    item: AnyItem
    id: str
    opens: str
    closes: str
    """Instants of its window; every instant lies between those that stand for none."""
    reason: tuple[Because, str] | None
    """Why it is hidden from everybody, once its window is open."""
    rule: SiteRule | None
    page_reason: tuple[Because, str] | None
    """Why it is hidden from everybody whom its rule lets see it, from the instant `page_ends` on."""
    page_ends: str
    pattern: str | None
    shown: Resolved | None
    """What it shows, with what stands below it if that is settled; None for what stands in its place, such as an
    include's items."""
    below: "Level"


@dataclass(slots=True, eq=False)
class Dated:
    """What a listing of pages that end comes to: the first of `come_to` until the first instant of `ends`, and so on."""

    ends: tuple[str, ...]
    come_to: tuple[Settled, ...]

    def at(self, now: str) -> Settled:
        return self.come_to[bisect_right(self.ends, now)]


@dataclass(slots=True, eq=False)
class Level:
    """Siblings: settled for everybody, or a sequence of settled runs and of what the visitor or the moment decides on."""

    settled: Settled | None
    parts: tuple["Settled | Step | Dated", ...] = ()
    depth: int = 0
    """At most how many levels deep it is, and which kinds it may have, whoever looks."""
    kinds: frozenset[str] = frozenset()

    def visit(self, visit: Visit) -> Settled:
        if self.settled is not None:
            return self.settled
        items: list[Resolved] = []
        hidden: list[Hidden] = []
        for part in self.parts:
            if isinstance(part, Step):
                _visit_step(part, visit, items, hidden)
            else:
                shown, out = part.at(visit.now) if isinstance(part, Dated) else part
                items += shown
                hidden += out
        if "divider" in self.kinds:
            items = tidy_dividers(items, hidden)
        return tuple(items), tuple(hidden)


def _visit_step(step: Step, visit: Visit, items: list[Resolved], hidden: list[Hidden]) -> None:
    reason = step.reason
    if not step.opens <= visit.now < step.closes:
        reason = _window(step, visit.now)
    elif reason is None:
        refusal = visit.refusal(step.rule) if step.rule is not None else None
        if refusal is not None:
            reason = "rule", refusal
        elif step.page_reason is not None and visit.now >= step.page_ends:
            reason = step.page_reason
        elif step.pattern is not None:
            reason = _no_address(step.pattern, visit.facts)
    if reason:
        hidden += hide(step.item, step.id, *reason)
        return
    below, hidden_below = step.below.settled or step.below.visit(visit)
    if hidden_below:
        hidden += hidden_below
    shown = step.shown
    if shown is None:
        items += below
    elif shown.kind == "heading" and not below:
        hidden.append(Hidden(step.id, "empty", "nothing below it is visible"))
    else:
        href = made_address(step.pattern, visit.facts) if step.pattern else shown.href
        look = shown.look if shown.look.badge is None else _worn(shown.look, visit.at)
        same = below is shown.items and href is shown.href and look is shown.look
        items.append(shown if same else _with(shown, href, below, look))


def _window(step: Step, now: str) -> tuple[Because, str]:
    item = step.item
    before = now < step.opens
    return "window", f"starts {said_moment(item.from_ or '')}" if before else f"ended {said_moment(item.until or '')}"


def _no_address(pattern: str, facts: Visitor) -> tuple[Because, str] | None:
    """Why the pattern comes to nothing for this visitor."""
    missing = next((name for name in facts_in(pattern) if name not in facts), None)
    if missing is not None:
        return "rule", f"needs {missing}, which this visitor does not supply"
    if made_address(pattern, facts) is None:
        return "rule", f"with this visitor's {', '.join(facts_in(pattern))} its address would lead elsewhere"
    return None


def hide(item: AnyItem, shown_id: str, because: Because, detail: str) -> list[Hidden]:
    """The item with its reason, and all below it because of it."""
    found = [Hidden(shown_id, because, detail)]
    says = f"because {title(item)} is hidden"
    prefix = shown_id[: len(shown_id) - len(item.id)]
    stack = list(reversed(children(item)))
    while stack:
        below = stack.pop()
        found.append(Hidden(prefix + below.id, "parent", says))
        stack += reversed(children(below))
    return found


def _worn(look: Look, at: str) -> Look:
    """Without a badge whose last day is over."""
    if look.badge is None or look.badge.until is None or at[:10] <= look.badge.until:
        return look
    return look.model_copy(update={"badge": None})


def _with(shown: Resolved, href: str | None, below: tuple[Resolved, ...], look: Look) -> Resolved:
    """As `_replace` gives it, which takes twice as long."""
    name, kind, label, _, overlay, new_tab, rel, _, current, _, page, listed = shown
    return _new(Resolved, (name, kind, label, href, overlay, new_tab, rel, look, current, below, page, listed))


_NONE: Settled = ((), ())
_NOTHING = Level(_NONE)


def _settled(items: tuple[Resolved, ...], hidden: tuple[Hidden, ...]) -> Level:
    return Level((items, hidden), (), depth_of(items), kinds_of(items))


@dataclass(slots=True, eq=False)
class _Run:
    """Siblings as they are read: what is the same for everybody gathers until a step stands between."""

    parts: list[Settled | Step]
    shown: list[Resolved]
    hidden: list[Hidden]
    depth: int
    kinds: frozenset[str]

    def deepen(self, own: frozenset[str], below: Level) -> None:
        """With an entry of its own kind and what stands below it; with what stands in an item's place, of none."""
        if below.depth + len(own) > self.depth:
            self.depth = below.depth + len(own)
        # Mostly one and the same: nothing needs to be joined.
        kinds = own if below.kinds is own or not below.kinds else below.kinds | own
        self.kinds = kinds if self.kinds is kinds or not self.kinds else self.kinds | kinds

    def add(self, step: Step) -> None:
        if self.shown or self.hidden:
            self.parts.append((tuple(self.shown), tuple(self.hidden)))
            self.shown.clear()
            self.hidden.clear()
        self.parts.append(step)

    def level(self) -> Level:
        shown, hidden = self.shown, self.hidden
        if self.parts:
            if shown or hidden:
                self.parts.append((tuple(shown), tuple(hidden)))
            return Level(None, tuple(self.parts), self.depth, self.kinds)
        if "divider" in self.kinds:
            shown = tidy_dividers(shown, hidden)
        return Level((tuple(shown), tuple(hidden)), (), self.depth, self.kinds)


class Compiler:
    """Turns menus into levels for one device and language."""

    def __init__(
        self,
        site: SiteDocument,
        addresses: Addresses,
        rules: SiteRules,
        includes: Includes,
        device: Device,
        language: str,
        loose: Tree,
    ) -> None:
        self.site = site
        self.includes = includes
        self.device = device
        self.language = language
        self.loose = loose
        self.addresses = addresses
        self.pages = addresses.pages
        self.languages = tuple(dict.fromkeys([language, language.split("-")[0], *site.site.languages]))
        # Whose titles there are: a language that the site does not speak has no order here.
        self._spoken = language if language in site.site.languages else site.site.languages[0]
        self.rules = rules
        self.clock = clock_of(site.site.zone)
        self._hand_placed: dict[str, frozenset[str]] = {}

    def level(self, items: Tree, inside: tuple[str, ...], prefix: str = "") -> Level:
        language, links = self.language, False
        run = _Run([], [], [], 0, _NO_KINDS)
        shown = run.shown
        for item in items:
            # The usual link: one sees at once that neither device, language, rule, page nor a badge's last day decide on
            # it. Before the first visitor after a change is answered, every item is asked: here in the loop, with all its
            # fields fetched at once, in two thirds of the time that a method and one field after another take.
            if type(item) is Link:
                name, label, target, look, new_tab, rel, below_it, opens, closes, when, devices = _fields(item.__dict__)
                words = label.get(language)
                if words is not None and when is None and devices is None and (look is PLAIN or look.badge is None):
                    href: str | None
                    page: str | None = None
                    if type(target) is UrlTarget:
                        href = target.url
                        if "{" in href:
                            href = None
                    else:
                        href, page = self._published(target)
                    if href is not None:
                        links = True
                        entry = _new(Resolved, (
                            prefix + name, "link", words, href, None, new_tab, rel, look, "none", (), page, False,
                        ))  # fmt: skip
                        if not below_it and opens is None and closes is None:
                            shown.append(entry)
                        else:
                            self._usual(item, entry, below_it, opens, closes, inside, prefix, run)
                        continue
            self._item(item, inside, prefix, run)
        if links:
            run.depth, run.kinds = run.depth or 1, run.kinds | _LINK if run.kinds else _LINK
        return run.level()

    def _usual(
        self, item: Link, entry: Resolved, items: Tree, opens: str | None, closes: str | None, inside: tuple[str, ...],
        prefix: str, run: "_Run",
    ) -> None:  # fmt: skip
        """A link that nothing but its window decides on, with what stands below it."""
        below = _NOTHING
        if items:
            below = self.level(items, inside, prefix)
            run.deepen(_LINK, below)
            if below.settled is not None and below.settled[0]:
                entry = _with(entry, entry.href, below.settled[0], entry.look)
        if opens is None and closes is None and below.settled is not None:
            run.shown.append(entry)
            run.hidden += below.settled[1]
        else:
            instant = self.clock.instant
            starts, ends = instant(opens) if opens else "", instant(closes) if closes else _NEVER
            run.add(Step(item, entry[0], starts, ends, None, None, None, "", None, entry, below))

    def _published(self, target: LinkTarget) -> tuple[str | None, str | None]:
        """The address and the reference of a page that everybody gets; none of other targets."""
        if (
            type(target) is not PageTarget
            or not (found := self.pages.get(target.page))
            or found.state != "published"
            or found.ends
        ):
            return None, None
        return self.addresses.href(target), target.page if target.part is None else None

    def _item(self, item: AnyItem, inside: tuple[str, ...], prefix: str, run: "_Run") -> None:
        """Puts into the run what is the same for everybody; a step where it is not."""
        item_id = prefix + item.id
        timed = item.from_ is not None or item.until is not None
        below = _NOTHING
        entry = None
        label = "" if isinstance(item, Divider | Include) else self._label(item)
        reason = self._reason(item, label)
        page_reason, page_ends = self._target_reason(item.target) if isinstance(item, Link) else (None, "")
        rule = self.rules.of(item.when) if item.when else None
        if rule is None or rule.rule == ALWAYS:
            rule = None
            if not page_ends:
                reason, page_reason = reason or page_reason, None
        if reason and not timed:
            run.hidden += hide(item, item_id, *reason)
            return
        pattern = _pattern(item.target) if isinstance(item, Link) else None
        if not reason and (page_ends or not page_reason):
            if isinstance(item, Include):
                below = self._include(item, inside, prefix)
            elif isinstance(item, Listing):
                below = self._listing(item, inside, item_id)
            else:
                entry = self._entry(item, item_id, label)
                if items := children(item):
                    below = self.level(items, inside, prefix)
        run.deepen(_NO_KINDS if entry is None else frozenset({entry.kind}), below)
        found, out = below.settled or _NONE
        if entry is not None and found:
            entry = _with(entry, entry.href, found, entry.look)
        badge = entry.look.badge if entry is not None else None
        ends = badge is not None and badge.until is not None
        if timed or ends or rule is not None or pattern is not None or page_ends or below.settled is None:
            opens = self.clock.instant(item.from_) if item.from_ else ""
            closes = self.clock.instant(item.until) if item.until else _NEVER
            run.add(Step(item, item_id, opens, closes, reason, rule, page_reason, page_ends, pattern, entry, below))
            return
        run.hidden += out
        if entry is None:
            run.shown += found
        elif entry.kind == "heading" and not found:
            run.hidden.append(Hidden(item_id, "empty", "nothing below it is visible"))
        else:
            run.shown.append(entry)

    def _reason(self, item: AnyItem, label: str) -> tuple[Because, str] | None:
        """Why everybody on this device, in this language, does without it."""
        if item.devices and self.device not in item.devices:
            return "device", f"only on {', '.join(item.devices)}"
        if not label and isinstance(item, _NAMED):
            return "language", f"no label in {language_name(self.language)}"
        return None

    def _target_reason(self, target: LinkTarget) -> tuple[tuple[Because, str] | None, str]:
        """Why nobody gets what leads there, and the instant from which on; the empty one where it is always so."""
        if isinstance(target, PageTarget):
            page = self.pages.get(target.page)
            if page is None:
                return ("page", f"there is no page @{target.page}"), ""
            if page.state != "published":
                return ("page", f"the page is {page.state}"), ""
            if page.ends:
                return ("page", f"its page ended on {said_day(page.ends)}"), self.clock.instant(f"{page.ends}T00:00")
        detail = isinstance(target, EmailTarget | PhoneTarget) and self.addresses.href(target) is None
        return (("page", "leads nowhere yet") if isinstance(target, PendingTarget) or detail else None), ""

    def _label(self, item: Link | Heading | Opener | Listing) -> str:
        for language in self.languages:
            if language in item.label:
                return item.label[language]
        if isinstance(item, Link) and isinstance(item.target, PageTarget) and not item.label:
            page = self.pages.get(item.target.page)
            return self._page_title(page) if page else f"@{item.target.page}"
        return ""

    def _page_title(self, page: Page) -> str:
        return next((page.title[tag] for tag in self.languages if tag in page.title), page.path)

    def _entry(self, item: Link | Heading | Opener | Divider, item_id: str, label: str) -> Resolved:
        # By position: by name it takes twice as long.
        if isinstance(item, Link):
            target = item.target
            page = target.page if isinstance(target, PageTarget) and target.part is None else None
            href = self.addresses.href(target)
            return Resolved(item_id, "link", label, href, None, item.new_tab, item.rel, item.look, "none", (), page)
        if isinstance(item, Opener):
            return Resolved(item_id, "opener", label, overlay=item.target.overlay, look=item.look)
        if isinstance(item, Heading):
            return Resolved(item_id, "heading", label, look=item.look)
        return Resolved(item_id, "divider")

    def _include(self, item: Include, inside: tuple[str, ...], prefix: str) -> Level:
        refusal = self.includes.refusal(item.menu, inside[0] if inside else self.loose)
        if refusal:
            return _settled((), (Hidden(prefix + item.id, "empty", refusal),))
        return self.level(self.site.menus[item.menu].items, (*inside, item.menu), f"{prefix}{item.id}/")

    def _by_hand(self, inside: tuple[str, ...]) -> frozenset[str]:
        """The pages that links of the menu being read lead to, whoever may see those links."""
        key = inside[-1] if inside else ""
        if key not in self._hand_placed:
            items = self.site.menus[key].items if key else self.loose
            self._hand_placed[key] = frozenset(targeted_pages(items))
        return self._hand_placed[key]

    def _listing(self, item: Listing, inside: tuple[str, ...], item_id: str) -> Level:
        by_hand = self._by_hand(inside) if item.list.rest else frozenset()
        ending = {page.ends for page in that_answer(self.pages, item.list, by_hand) if page.ends is not None}
        if not ending:
            return _settled(*self._listed(item, item_id, by_hand, ""))
        days = sorted(ending)
        come_to = tuple(self._listed(item, item_id, by_hand, day) for day in ("", *days))
        depth = max(depth_of(items) for items, _ in come_to)
        kinds = frozenset[str]().union(*(kinds_of(items) for items, _ in come_to))
        over = tuple(self.clock.instant(f"{day}T00:00") for day in days)
        return Level(None, (Dated(over, come_to),), depth, kinds)

    def _listed(self, item: Listing, item_id: str, by_hand: frozenset[str], day: str) -> Settled:
        """What it comes to from that day on, until the next page ends."""
        entries = tuple(
            Resolved(
                f"{item_id}:{page.ref}",
                "link",
                self._page_title(page),
                href=joined(self.site.site.base, page.path),
                page=page.ref,
                listed=True,
            )
            for page in listed_pages(
                self.pages, item.list, by_hand=by_hand, title=self._page_title, language=self._spoken, day=day
            )
        )
        if not entries:
            return (), (Hidden(item_id, "empty", "no page answers its list"),)
        label = self._label(item)
        whole = Resolved(item_id, "heading", label, look=item.look, items=entries, listed=True)
        return ((whole,) if label else entries), ()


def _pattern(target: LinkTarget) -> str | None:
    return target.url if isinstance(target, UrlTarget) and "{" in target.url else None

"""Where links lead: nowhere yet, to pages that are not there, to parts and overlays that are gone, to hosts that are not the
site's any more, to the same page twice."""

from collections.abc import Iterator
from typing import Literal

from sign_shelf.core.basics.address import host_of
from sign_shelf.core.basics.clock import said_day
from sign_shelf.core.checks.check import Check, Code, MenuCheck, reads
from sign_shelf.core.checks.finding import Finding, Severity
from sign_shelf.core.checks.view import Line, SiteView
from sign_shelf.core.model.href import facts_in
from sign_shelf.core.model.menu import Include, Link, Opener, PageTarget, PendingTarget, UrlTarget
from sign_shelf.core.model.rel import leads_outside

PENDING = Code("pending", "note", "a link leads nowhere yet", "it shows to nobody until it does", "choosing a page")
OVERDUE = Code(
    "pending-overdue", "stop", "the same, and its due day has come", "somebody waits for it", "choosing a page"
)
EMPTY = Code("address-empty", "stop", "the address is `#` alone", "nothing happens on a click", "choosing a page")


def _waiting(view: SiteView, menu: str) -> Iterator[Finding]:
    for line in view.lines(menu):
        match line.item:
            case Link(target=PendingTarget(pending=pending)):
                late = pending.due is not None and pending.due <= view.today
                when = f", due {said_day(pending.due)}" if pending.due else ""
                owner = f", {pending.owner}" if pending.owner else ""
                says = f"{view.called(line.item)} leads nowhere yet{when}{owner}"
                yield (OVERDUE if late else PENDING).found(says, line=line, fix="Choose a page.")
            case Link(target=UrlTarget(url="#")):
                yield EMPTY.found(f"{view.called(line.item)} has the address # alone", line=line, fix="Choose a page.")


_SHOWS_NOT = "the entry shows to nobody"
UNKNOWN = Code("page-unknown", "stop", "the page is not in the inventory", _SHOWS_NOT, "choosing a page")
NOT_PUBLISHED = {
    state: Code(f"page-{state}", "stop", f"the page is {says}", _SHOWS_NOT, "choosing a page, or publishing it")
    for state, says in (("hidden", "hidden"), ("draft", "a draft"), ("gone", "gone from the site"))
}
PART = Code("part-gone", "warn", "the part is not on the page", "visitors land at its top", "choosing another part")
OVERLAY = Code("overlay-gone", "stop", "no page has the overlay", "nothing opens", "choosing another overlay")
OVERLAY_SOME = Code(
    "overlay-partial", "warn", "some of the pages that show the entry lack the overlay", "on those pages nothing opens",
    "putting the overlay on every page, or leading to a page instead",
)  # fmt: skip


def _pages(view: SiteView, menu: str) -> Iterator[Finding]:
    on_each_page = any(place.shape != "section" for place in view.places(menu))
    for line in view.lines(menu):
        match line.item:
            case Link(target=PageTarget(page=ref, part=part)):
                page = view.pages.get(ref)
                name, cause = view.called(line.item), f"page {ref}"
                if page is None:
                    says = f"{name} leads to @{ref}, which is no page of the site"
                    yield UNKNOWN.found(says, line=line, fix="Choose a page.", cause=cause)
                elif page.state != "published":
                    says = f"{name} leads to {page.path}, which is {page.state}"
                    yield NOT_PUBLISHED[page.state].found(says, line=line, fix="Choose a page.", cause=cause)
                elif part is not None and part not in page.parts:
                    says = f"{name} leads to the part #{part}, which is not on {page.path}"
                    yield PART.found(says, line=line, fix="Choose another part.", cause=f"{cause}#{part}")
            case Opener(target=target):
                name, cause = view.called(line.item), f"overlay {target.overlay}"
                there, everywhere = view.overlays.get(target.overlay, 0), len(view.published)
                if not there and not any(target.overlay in page.overlays for page in view.site.pages):
                    says = f"{name} opens {target.overlay}, which is on no page of the site"
                    yield OVERLAY.found(says, line=line, fix="Choose another overlay.", cause=cause)
                elif on_each_page and there < everywhere:
                    says = (
                        f"{name} opens {target.overlay}, which {everywhere - there} of {everywhere} pages do not have"
                    )
                    yield OVERLAY_SOME.found(says, line=line, fix="Have it on every page.", cause=cause)


INCLUDE = Code(
    "include-empty", "stop", "an included menu is not there, leads back to itself, or comes to over 20 000 entries",
    "nothing shows in its place", "including another, or copying the items",
)  # fmt: skip


def _includes(view: SiteView, menu: str) -> Iterator[Finding]:
    includes = view.prepared.includes
    for line in view.lines(menu):
        if not isinstance(line.item, Include):
            continue
        key = line.item.menu
        refusal = includes.refusal(key, menu)
        if refusal:
            loop = " → ".join(includes.loop(key) or ())
            says = f"Includes {key}, which shows nothing here: {refusal}{f', {loop}' if loop else ''}"
            fix = "Include another menu, or copy the items."
            yield INCLUDE.found(says, line=line, fix=fix, cause=f"menu {key}")


_OLD_HOSTS: tuple[tuple[Literal["staging", "demo", "old", "client"], Severity, str, str, str], ...] = (
    ("staging", "stop", "a staging host of the site", "for trying things", "visitors meet unfinished work, or a sign-in"),
    ("demo", "stop", "a demo host of the site", "for showing", "visitors leave the site for a copy of it"),
    ("old", "warn", "a host that the site used to have", "no longer in use", "it answers for as long as somebody pays for it"),
    ("client", "stop", "another client's host", "another client's", "visitors end up with somebody else, whose menu this was"),
)  # fmt: skip
OLD_HOST = {
    kind: Code(
        f"host-{kind}", severity, f"the address is on {what}", matters, "the same address on the site's own host"
    )
    for kind, severity, what, _, matters in _OLD_HOSTS
}
_OLD_HOST_IS = {kind: says for kind, _, _, says, _ in _OLD_HOSTS}
PLAIN_HTTP = Code(
    "http-plain", "warn", "an address says `http` where `https` answers", "the visit can be read and changed on its way",
    "the same address with `https`",
)  # fmt: skip
TAB = Code(
    "outside-tab", "note", "an outside link opens otherwise than the site's policy says", "links behave by chance",
    "the tab that the policy names",
)  # fmt: skip
OPENER = Code(
    "opener-left", "warn", "an outside link in a new tab is given a hold on the tab that it came from (`opener`)",
    "the other site may lead the visitor's page elsewhere", "taking `opener` away, or writing `noopener`",
)  # fmt: skip


def _addresses(view: SiteView, menu: str) -> Iterator[Finding]:
    site = view.site.site
    kinds = {other.host.lower(): other.kind for other in site.hosts}
    own = host_of(site.base)
    for line in view.lines(menu):
        if not isinstance(line.item, Link) or not isinstance(line.item.target, UrlTarget):
            continue
        link, url = line.item, line.item.target.url
        host = host_of(url)
        if not host:
            continue
        name = view.called(link)
        kind = kinds.get(host)
        if kind is not None and kind != "alias" and host != own:
            whose = "which is" if kind == "client" else "a host of the site that is"
            says = f"{name} leads to {host}, {whose} {_OLD_HOST_IS[kind]}"
            fix = f"Lead it to the same address on {own}."
            yield OLD_HOST[kind].found(says, line=line, fix=fix, cause=f"host {host}")
        if url.lower().startswith("http://") and _answers_https(view, url, host):
            says = f"{name} leads to {url}, which answers with https as well"
            yield PLAIN_HTTP.found(says, line=line, fix="Write https.", cause=f"address {url}")
        if leads_outside(url, site):
            wanted = site.policy.outside_links
            if wanted is not None and (wanted == "new_tab") != link.new_tab:
                says = f"{name} leads outside and opens in {'a new' if link.new_tab else 'the same'} tab"
                yield TAB.found(says, line=line, fix=f"The site's policy is {wanted.replace('_', ' ')}.")
            if link.new_tab and "opener" in link.rel:
                says = f"{name} lets {host} reach back to the tab that it came from"
                yield OPENER.found(says, line=line, fix="Take opener away.")


def _answers_https(view: SiteView, url: str, host: str) -> bool:
    """The site's own host by its base address, another by where the address was seen to lead."""
    if host == host_of(view.site.site.base):
        return view.site.site.base.startswith("https://")
    found = view.links.get(url)
    return (
        found is not None and found.verdict in {"redirect", "chain"} and found.hops[-1].address.startswith("https://")
    )


TWICE = Code(
    "target-twice", "note", "two entries of a menu lead the same visitors to the same", "one of them is in the way",
    "removing one, or leading it elsewhere",
)  # fmt: skip
PARENT = Code(
    "target-parent", "note", "an entry leads where the one that it stands below leads", "a choice that is none",
    "removing it, or leading it elsewhere",
)  # fmt: skip


def _same(view: SiteView, menu: str) -> Iterator[Finding]:
    alike: dict[tuple[object, ...], list[Line]] = {}
    for line in view.lines(menu):
        goal = view.destination(line.item)
        if goal is None:
            continue
        above = line.above.item if line.above is not None else None
        if above is not None and view.destination(above) == goal:
            says = f"{view.called(line.item)} leads where {view.called(above)} leads, below which it stands"
            yield PARENT.found(says, line=line, fix="Remove it, or lead it elsewhere.")
            continue
        # What others see, or at another time, is no second way for anybody.
        item = line.item
        alike.setdefault((goal, item.when, item.devices, item.from_, item.until), []).append(line)
    for lines in alike.values():
        # By their ids, so that it is the same finding in whatever order they stand.
        first, *others = sorted(lines, key=lambda line: line.item.id)
        for line in others:
            says = f"{view.called(line.item)} leads where {first.number} {view.called(first.item)} leads"
            yield TWICE.found(says, line=line, fix="Remove one, or lead it elsewhere.")


PATTERN = Code(
    "pattern-lacks", "warn", "an audience sees an entry whose address asks for a fact that the audience has not",
    "the entry shows to none of them", "a rule that lets only those see it who have the fact",
)  # fmt: skip


def _patterns(view: SiteView, menu: str) -> Iterator[Finding]:
    for line in view.lines(menu):
        if not isinstance(line.item, Link) or not isinstance(line.item.target, UrlTarget):
            continue
        asked = facts_in(line.item.target.url)
        if not asked:
            continue
        rule = view.prepared.rules.of(line.item.when) if line.item.when else None
        for audience, facts in view.site.audiences.items():
            visit = view.prepared.visit(view.lens("desktop", facts=facts))
            lacking = [fact for fact in asked if fact not in visit.facts]
            if lacking and (rule is None or visit.refusal(rule) is None):
                says = f"{view.called(line.item)} asks for {', '.join(lacking)}, which {audience} does not have"
                fix = "Give it a rule that only those meet who have it."
                yield PATTERN.found(says, line=line, audience=audience, fix=fix)


CHECKS: tuple[Check, ...] = (
    MenuCheck("targets", reads("tree", "inventory", "clock"), (PENDING, OVERDUE, EMPTY), _waiting),
    MenuCheck(
        "targets", reads("tree", "inventory", "arrangement"),
        (UNKNOWN, *NOT_PUBLISHED.values(), PART, OVERLAY, OVERLAY_SOME), _pages,
    ),
    MenuCheck("targets", reads("tree", "trees"), (INCLUDE,), _includes),
    MenuCheck(
        "targets", reads("tree", "arrangement", "inventory", "links"), (*OLD_HOST.values(), PLAIN_HTTP, TAB, OPENER), _addresses
    ),
    MenuCheck("targets", reads("tree", "inventory"), (TWICE, PARENT), _same),
    MenuCheck("targets", reads("tree", "arrangement", "inventory", "clock"), (PATTERN,), _patterns),
)  # fmt: skip

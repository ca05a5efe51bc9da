"""Whether menus fit the places where they hang: levels, kinds, room, what must be there; and whether they hang together."""

from collections.abc import Iterator

from sign_shelf.core.checks.check import Check, Code, MenuCheck, SiteCheck, reads
from sign_shelf.core.checks.finding import Finding
from sign_shelf.core.checks.misplaced import misplaced
from sign_shelf.core.checks.view import SiteView
from sign_shelf.core.compare.flat import same_fields
from sign_shelf.core.errors import FitRefused
from sign_shelf.core.fit import SIDE_BY_SIDE, fit, request_of
from sign_shelf.core.model.menu import Heading
from sign_shelf.core.visitors.who_sees import walk_resolved

HEADING = Code(
    "heading-empty", "warn", "a heading has nothing below it", "it shows to nobody", "entries below it, or removing it"
)
DEEP = Code(
    "too-deep", "stop", "an entry is deeper than a place where the menu hangs shows", "it shows to nobody there", "a level up"
)  # fmt: skip
KIND = Code(
    "kind-refused", "stop", "a place where the menu hangs takes no such kind", "it cannot be put live there", "another kind"
)  # fmt: skip


def _places(view: SiteView, menu: str) -> Iterator[Finding]:
    places = view.places(menu)
    for line in view.lines(menu):
        item = line.item
        if isinstance(item, Heading) and not item.items:
            says = f"{view.called(item)} is a heading with nothing below it"
            yield HEADING.found(says, line=line, fix="Put entries below it, or remove it.")
        for place in places:
            if line.depth == place.depth + 1:
                says = f"{view.called(item)} stands on level {line.depth}; {place.title} shows {place.depth}"
                yield DEEP.found(says, line=line, location=place.key, fix="Move it a level up.")
            if item.kind not in place.kinds:
                says = f"{view.called(item)} is a {item.kind}, which {place.title} does not take"
                fix = f"{place.title} takes {', '.join(place.kinds)}."
                yield KIND.found(says, line=line, location=place.key, fix=fix)


NOTHING = Code(
    "menu-empty",
    "note",
    "a menu has no entries and hangs somewhere",
    "the place stays empty",
    "entries, or taking it down",
)
NOWHERE = Code(
    "menu-nowhere",
    "note",
    "a menu hangs nowhere and no other includes it",
    "nobody gets it",
    "hanging it, or putting it away",
)
TWIN = Code(
    "menu-twin",
    "note",
    "two menus have the same entries",
    "each mend has to be made twice",
    "hanging one of them in both places",
)


def _menus(view: SiteView) -> Iterator[Finding]:
    first: dict[object, str] = {}
    for key in view.menus:
        menu = view.site.menus[key]
        hangs = bool(view.hung[key])
        if not menu.items:
            if hangs:
                yield NOTHING.found(f"{menu.name} has no entries", menu=key, fix="Write some, or take it down.")
            continue
        if not hangs and key not in view.included:
            yield NOWHERE.found(f"{menu.name} hangs nowhere", menu=key, fix="Hang it, or put it away.")
        other = first.setdefault(_outline(view, key), key)
        if other != key and all(
            same_fields(one.item, its.item) for one, its in zip(view.lines(key), view.lines(other), strict=True)
        ):
            says = f"{menu.name} has the same entries as {view.site.menus[other].name}"
            yield TWIN.found(says, menu=key, fix="Hang one of them in both places.", cause=f"menu {other}")


def _outline(view: SiteView, key: str) -> tuple[object, ...]:
    """What is quickly told apart of a menu's entries."""
    return tuple((line.depth, line.item.kind, view.destination(line.item)) for line in view.lines(key))


BARE = Code(
    "place-empty",
    "warn",
    "nothing hangs in a place on a device, and nobody said so",
    "visitors get nothing there",
    "hanging a menu there, or saying that none is meant",
)
COVERED = Code(
    "covered",
    "warn",
    "a menu hangs in a place that a header covers once the page scrolls",
    "visitors do not get at it",
    "another place, or a header that does not stay",
)


def _locations(view: SiteView) -> Iterator[Finding]:
    said = {(one.location, one.device) for one in view.site.placements}
    for location in view.site.template.locations:
        if location.shape == "section":
            continue
        devices = [
            device for device in location.devices
            if (location.key, device) not in said and view.prepared.source(location.key, device).menu is None
            and location.folds_into(device, view.site.template.width_of(device)) is None
        ]  # fmt: skip
        for device in devices:
            says = f"Nothing hangs in {location.title} on a {device}"
            fix = "Hang a menu there, or say that none is meant."
            yield BARE.found(says, location=location.key, device=device, fix=fix)
        for key in location.fixed.covers if location.fixed else ():
            below = view.site.template.location(key)
            if below is not None and any(view.prepared.source(key, device).menu for device in below.devices):
                says = f"{location.title} lies over {below.title} once the page scrolls"
                yield COVERED.found(says, location=key, fix="Hang it elsewhere, or let the header scroll away.")


REQUIRED = Code(
    "required-missing",
    "stop",
    "what the site's policy requires in a place is not there",
    "it is required: by law, or by the client",
    "an entry that leads there",
)


def _required(view: SiteView) -> Iterator[Finding]:
    for key, refs in view.site.site.policy.required.items():
        location = view.site.template.location(key)
        if location is None:
            continue
        for device in location.devices:
            shown = walk_resolved(view.prepared.resolve(key, view.lens(device)).items)
            there = {item.page for item in shown}
            if location.folds_into(device, view.site.template.width_of(device)) is not None:
                continue
            for ref in refs:
                if ref not in there:
                    says = f"{location.title} must lead to {_page(view, ref)}, and does not on a {device}"
                    fix = "Add an entry that leads there."
                    yield REQUIRED.found(says, location=key, device=device, fix=fix, cause=f"page {ref}")


def _page(view: SiteView, ref: str) -> str:
    return view.addresses.title(ref, view.language) or f"@{ref}"


WIDE = Code(
    "too-wide",
    "warn",
    "the entries of a place do not stand in one row at its device's usual width",
    "the bar wraps, or becomes a drawer",
    "shorter labels, icons, or fewer entries ([fit](fit.md))",
)
MANY = Code(
    "top-many",
    "note",
    "more than nine entries stand side by side",
    "nobody finds the one they want",
    "headings, or another place for some",
)
MOST_AT_TOP = 9


def _room(view: SiteView) -> Iterator[Finding]:
    for location in view.site.template.locations:
        if location.shape not in SIDE_BY_SIDE:
            continue
        for device in location.devices:
            width = view.site.template.width_of(device)
            menu = view.prepared.source(location.key, device).menu
            if menu is None or location.folds_into(device, width) is not None:
                continue
            for language in view.site.site.languages:
                shown = view.prepared.resolve(location.key, view.lens(device, language)).items
                if language == view.language and len(shown) > MOST_AT_TOP:
                    says = f"{len(shown)} entries stand side by side in {location.title} on a {device}"
                    fix = "Put some below others, or elsewhere."
                    yield MANY.found(says, menu=menu, location=location.key, device=device, fix=fix)
                if not shown or view.fonts is None:
                    continue
                try:
                    measured = fit(view.fonts, request_of(shown, location, language=language, device=device))
                except FitRefused:
                    continue  # What cannot be measured is told where it is measured.
                if measured.fits_from is None or measured.fits_from > width:
                    needs = f"needs {measured.fits_from} px" if measured.fits_from else "fits at no width"
                    says = f"{location.title} on a {device} of {width} px does not fit: it {needs}"
                    fix = "Shorten a label, or put some entries below others."
                    yield WIDE.found(says, menu=menu, location=location.key, device=device, language=language, fix=fix)


STRAY = Code(
    "wrong-parent", "warn", "address, words and neighbours all speak for another parent, in a menu that otherwise follows them",
    "visitors look for it elsewhere", "moving it there, or waiving the finding",
)  # fmt: skip


def _strays(view: SiteView, menu: str) -> Iterator[Finding]:
    for one in misplaced(view.lines(menu), view.pages, view.called):
        says = f"{view.called(one.line.item)} stands below {view.called(one.stands.item)}; {one.because}"
        yield STRAY.found(says, line=one.line, fix=f"Move it below {one.better.number} {view.called(one.better.item)}.")


CHECKS: tuple[Check, ...] = (
    MenuCheck("structure", reads("tree", "trees", "arrangement", "inventory"), (HEADING, DEEP, KIND), _places),
    MenuCheck("structure", reads("tree", "inventory"), (STRAY,), _strays),
    SiteCheck("structure", reads("trees", "arrangement"), (NOTHING, NOWHERE, TWIN), _menus),
    SiteCheck("structure", reads("arrangement"), (BARE, COVERED), _locations),
    SiteCheck("structure", reads("trees", "arrangement", "inventory", "clock"), (REQUIRED,), _required),
    SiteCheck("structure", reads("trees", "arrangement", "inventory", "clock"), (WIDE, MANY), _room),
)

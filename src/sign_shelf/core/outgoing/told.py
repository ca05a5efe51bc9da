"""Menu by menu: what is edited, where and for whom that shows, and which findings stand against it."""

from collections.abc import Iterator
from dataclasses import dataclass

from sign_shelf.core.changes.steps import Slot, slots_to_send
from sign_shelf.core.checks import Checked, Finding, Severity, SiteView
from sign_shelf.core.compare import Edit, diff_documents
from sign_shelf.core.model.includes import all_included
from sign_shelf.core.model.menu import DEVICES, Device, menu_document
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.resolve import Lens, Prepared, find_placement
from sign_shelf.core.visitors.who_sees import audiences_of


@dataclass(frozen=True, kw_only=True)
class Reached:
    """A place that shows another menu, or one that was edited."""

    location: str
    title: str
    devices: tuple[Device, ...]
    """Those on which any audience gets something else than before, widest first."""


@dataclass(frozen=True, kw_only=True)
class MenuGoes:
    """`places` and `audiences` are those that get something else than before: none where it hangs nowhere, or changes
    nothing that anybody sees."""

    menu: str
    name: str
    new: bool
    edits: tuple[Edit, ...]
    hangs: bool
    places: tuple[Reached, ...]
    audiences: tuple[str, ...]
    everybody: bool
    """Whether these are all that the site has."""
    findings: tuple[Finding, ...]
    """What it has to be stopped for, or at least told of; not what is live with it already."""


def goes_out(before: Prepared, after: Prepared, *, at: str) -> tuple[MenuGoes, ...]:
    """Of the menus that are edited, or shown in another place, by their order on the shelf. `at` is a reading of the site's
    clock."""
    against = _Against(before, after, at[:10])
    return tuple(_goes(before, after, key, slots, at, against) for key, slots in _concerned(before.site, after.site))


def stops(before: SiteDocument, after: SiteDocument, *, today: str) -> list[Finding]:
    """The findings that keep it from going out, by the site's policy."""
    severities = _STOPS[after.site.policy.stops]
    if not severities:
        return []
    against = _Against(Prepared(before), Prepared(after), today)
    found = {one.fingerprint(): one for key, _ in _concerned(before, after) for one in against.of(key)}
    return [one for one in found.values() if one.severity in severities]


_STOPS: dict[str, frozenset[Severity]] = {
    "stop": frozenset({"stop"}), "warn": frozenset({"stop", "warn"}), "nothing": frozenset(),
}  # fmt: skip


def _concerned(was: SiteDocument, now: SiteDocument) -> Iterator[tuple[str, list[Slot]]]:
    """With the places that show them, themselves or within another menu."""
    slots = slots_to_send(was, now)
    shown = [(slot, all_included(now.menus[slot.menu].items, now.menus) if slot.menu else {}) for slot in slots]
    for key, menu in now.menus.items():
        edited = was.menus.get(key) != menu
        shows = [slot for slot, within in shown if slot.menu == key or (edited and key in within)]
        if edited or any(slot.menu == key and _hung(was, slot) != key for slot in shows):
            yield key, shows


def _hung(was: SiteDocument, slot: Slot) -> str | None:
    known = was.template.location(slot.location) is not None
    return find_placement(was, slot.location, slot.device).menu if known else None


def _goes(before: Prepared, after: Prepared, key: str, slots: list[Slot], at: str, against: "_Against") -> MenuGoes:
    was, now = before.site, after.site
    earlier, menu = was.menus.get(key), now.menus[key]
    language = now.site.languages[0]
    edits = diff_documents(earlier or menu_document(menu.name), menu, language=language)
    places, concerned = [], set()
    for location in dict.fromkeys(slot.location for slot in slots):
        shows = now.template.location(location)
        devices = []
        for device in DEVICES[::-1]:
            gets = set(_others(before, after, location, device, at))
            concerned |= gets
            if gets:
                devices.append(device)
        if devices and shows is not None:
            places.append(Reached(location=location, title=shows.title, devices=tuple(devices)))
    known = audiences_of(after)
    return MenuGoes(
        menu=key,
        name=menu.name,
        new=earlier is None,
        edits=tuple(edits),
        hangs=bool(slots),
        places=tuple(places),
        audiences=tuple(one for one in known if one in concerned),
        everybody=concerned == set(known),
        findings=tuple(against.of(key)),
    )


def _others(before: Prepared, after: Prepared, location: str, device: Device, at: str) -> Iterator[str]:
    """The audiences that get something else there than before, in any language."""
    for audience, facts in audiences_of(after).items():
        for language in after.site.site.languages:
            lens = Lens(device=device, language=language, at=at, facts=facts)
            if _gets(before, location, lens) != _gets(after, location, lens):
                yield audience
                break


def _gets(site: Prepared, location: str, lens: Lens) -> object:
    return site.resolve(location, lens).items if site.site.template.location(location) is not None else ()


class _Against:
    """What the checks find that they do not find in what is live."""

    def __init__(self, before: Prepared, after: Prepared, today: str) -> None:
        was = Checked.of(SiteView(before, today))
        self._now = was.again(SiteView(after, today))
        self._stands = {one.fingerprint() for one in was.findings()}

    def of(self, menu: str) -> list[Finding]:
        """What is to be stopped for, or told of, in the menu and in the places where it hangs."""
        found = (one for one in self._now.of_menu(menu) if one.severity != "note")
        return [one for one in found if one.fingerprint() not in self._stands]

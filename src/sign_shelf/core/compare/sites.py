"""What differs between two states of a site beside its menus' items: its template, what hangs where, its looks."""

from collections.abc import Iterator
from dataclasses import dataclass

from pydantic import JsonValue

from sign_shelf.core.look import PlaceLook
from sign_shelf.core.model.menu import DEVICES, Device
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.model.template import Location


@dataclass(frozen=True)
class TemplateEdit:
    says: str
    key = "template"


@dataclass(frozen=True)
class PlaceEdit:
    location: str
    device: Device
    says: str

    @property
    def key(self) -> str:
        return f"place {self.location} {self.device}"


@dataclass(frozen=True)
class LookEdit:
    location: str
    says: str

    @property
    def key(self) -> str:
        return f"look {self.location}"


SiteEdit = TemplateEdit | PlaceEdit | LookEdit


def site_edits(before: SiteDocument, after: SiteDocument) -> tuple[SiteEdit, ...]:
    """Plain edits that lead from one state to the other. A move to another template brings the looks of its places with
    it, and the places that the other one lacks go; both are told by the move."""
    was, now = before.template, after.template
    moved = (was.key, was.version) != (now.key, now.version)
    edits: list[SiteEdit] = []
    if moved:
        edits.append(TemplateEdit(f"Moved to the template {now.title or now.key}, version {now.version}"))
    for location in now.locations:
        earlier = was.location(location.key)
        if earlier is not None:
            edits += _places(before, after, location)
            if not moved and earlier.look != location.look:
                edits.append(LookEdit(location.key, _look_says(location.title, earlier.look, location.look)))
    return tuple(edits)


def own_look(usual: PlaceLook, wanted: PlaceLook) -> dict[str, JsonValue]:
    """The keys that a site sets otherwise than its template, for `PlaceLook.adjusted`."""
    plain = usual.model_dump(mode="json")
    return {key: value for key, value in wanted.model_dump(mode="json").items() if value != plain[key]}


_ABSENT = object()


def _places(before: SiteDocument, after: SiteDocument, location: Location) -> Iterator[PlaceEdit]:
    was = {(one.location, one.device): one.menu for one in before.placements}
    now = {(one.location, one.device): one.menu for one in after.placements}
    for device in DEVICES[::-1]:
        slot = (location.key, device)
        earlier, later = was.get(slot, _ABSENT), now.get(slot, _ABSENT)
        if earlier == later:
            continue
        where = f"{location.title} for {device}"
        if later is _ABSENT:
            says = f"Took down {_name(before, was[slot])} from {where}"
        elif later is None:
            says = f"Left {where} empty, on purpose"
        elif earlier is _ABSENT or earlier is None:
            says = f"Hung {_name(after, now[slot])} in {where}"
        else:
            says = f"Hung {_name(after, now[slot])} in {where}, instead of {_name(before, was[slot])}"
        yield PlaceEdit(location.key, device, says)


def _name(site: SiteDocument, menu: str | None) -> str:
    return site.menus[menu].name if menu is not None else "what was none on purpose"


def _look_says(title: str, was: PlaceLook, now: PlaceLook) -> str:
    before, after = was.model_dump(mode="json"), now.model_dump(mode="json")
    told = [f"{key.replace('_', ' ')} {_value(after[key])}" for key in after if after[key] != before[key]]
    rest = f" and {len(told) - 4} more" if len(told) > 4 else ""
    return f"Changed the look of {title}: {', '.join(told[:4])}{rest}"


def _value(value: JsonValue) -> str:
    if isinstance(value, dict):
        return " ".join(f"{key} {_value(one)}" for key, one in value.items())
    return "as usual" if value is None else f"{value:g}" if isinstance(value, float) else str(value)

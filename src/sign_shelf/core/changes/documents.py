"""Three-way merge of whole site documents, as they stand in files: particulars, template and pages count as well."""

from collections.abc import Mapping
from dataclasses import dataclass

from pydantic import JsonValue

from sign_shelf.core.changes.arrangement import known_fields, look_fields, place_fields
from sign_shelf.core.changes.fields import FieldName, merge_fields
from sign_shelf.core.changes.merging import TEMPLATE, Conflicts, StateConflict, may_hang, merge_menus, on_template
from sign_shelf.core.compare.sites import own_look
from sign_shelf.core.look import PLAIN_LOOK
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.model.template import Template


@dataclass(frozen=True, kw_only=True)
class MergedSite:
    site: SiteDocument
    conflicts: tuple[StateConflict, ...]


def merge_sites(base: SiteDocument, ours: SiteDocument, theirs: SiteDocument) -> MergedSite:
    """Both sides' edits. Raises InvalidDocument where what came together does not hold together, such as an audience of
    one side with a value that the other side took from its fact."""
    conflicts = Conflicts()
    was, mine, other = (_fields(one) for one in (base, ours, theirs))
    fields = merge_fields(was, mine, other, {}, conflicts.note)
    template = read(Template, fields[TEMPLATE])
    fields = on_template(fields, was, mine, other, template, {}, conflicts.note)
    used: set[str | None] = {str(value) for name, value in fields.items() if name[0] == "place" and value is not None}
    used |= may_hang(was, mine, other, {})
    menus = merge_menus(base.menus, ours.menus, theirs.menus, used, {}, conflicts.note)
    fields = {name: value for name, value in fields.items() if name[0] != "archived" or name[1] in menus}
    site = read(
        SiteDocument,
        _whole(fields, template) | {"menus": {key: menu.to_json() for key, menu in menus.items()}},
        what="merged site",
    )
    return MergedSite(site=site, conflicts=conflicts.told())


def _fields(site: SiteDocument) -> dict[FieldName, JsonValue]:
    looks = {one.key: own_look(PLAIN_LOOK, one.look) for one in site.template.locations}
    return {
        TEMPLATE: _plain(site.template).to_json(),
        **{("site", name): value for name, value in site.site.to_json().items()},
        **look_fields(looks),
        **place_fields(site.placements),
        **known_fields(site.known()),
        **{("archived", key): True for key in site.archived},
        **{("page", page.ref): page.to_json() for page in site.pages},
    }


def _plain(template: Template) -> Template:
    """Without its looks, which are fields of their own."""
    located = tuple(one.model_copy(update={"look": PLAIN_LOOK}) for one in template.locations)
    return template.model_copy(update={"locations": located})


_PARTS = {"fact": "facts", "audience": "audiences", "rule": "rules", "site": "site"}


def _whole(fields: Mapping[FieldName, JsonValue], template: Template) -> dict[str, JsonValue]:
    parts: dict[str, dict[str, JsonValue]] = {part: {} for part in _PARTS.values()}
    looks: dict[str, dict[str, JsonValue]] = {}
    placements: list[JsonValue] = []
    pages: list[JsonValue] = []
    archived: list[JsonValue] = []
    for name, value in fields.items():
        match name:
            case ("look", location, key):
                looks.setdefault(location, {})[key] = value
            case ("place", location, device):
                placements.append({"location": location, "device": device, "menu": value})
            case ("page", _):
                pages.append(value)
            case ("archived", key):
                archived.append(key)
            case (kind, key):
                parts[_PARTS[kind]][key] = value
            case _:
                pass
    return {
        "format": "sign-shelf/site",
        "version": 1,
        "template": template.adjusted(looks).to_json(),
        "placements": placements,
        "pages": pages,
        "archived": archived,
        **parts,
    }

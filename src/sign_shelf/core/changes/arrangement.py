"""The arrangement: all of a site, beside its menus, that people decide and that a visitor's menu depends on."""

from collections.abc import Mapping
from typing import Self

import rfc8785
from pydantic import Field, JsonValue

from sign_shelf.core.basics.text import ContentName, Key, MenuRef, RuleText, Words
from sign_shelf.core.changes.fields import FieldName
from sign_shelf.core.model.documents import named_by_content, read
from sign_shelf.core.model.facts import FactName, FactSet, FactType, FactValue
from sign_shelf.core.model.menu import Model
from sign_shelf.core.model.site import Placement


class TemplateVersion(Model):
    key: Key
    version: int = Field(ge=1)


class SetVersion(Model):
    """A shared set of facts as it was in one version, so that a state never changes under one's feet."""

    key: Key
    version: int = Field(ge=1)


class Follows(Model):
    """A shared menu as the site follows it: the names of its tree, and of what that was once filled for the site. What the site has
    otherwise in its menu are its adjustments."""

    version: ContentName
    filled: ContentName


class Arrangement(Model):
    """Immutable, and named by its content (`arrangement_name`)."""

    template: TemplateVersion
    looks: dict[Key, dict[str, JsonValue]] = {}
    """What the site has otherwise than its template, by location."""
    placements: tuple[Placement, ...] = ()
    facts: dict[FactName, FactType] = {}
    audiences: dict[Words, dict[FactName, FactValue]] = {}
    rules: dict[FactName, RuleText] = {}
    sets: tuple[SetVersion, ...] = ()
    """Shared sets that the site follows; later ones count over earlier ones, its own over all."""
    archived: tuple[MenuRef, ...] = ()
    """Menus that are kept and put away: they hang nowhere, and are offered nowhere."""
    follows: dict[MenuRef, Follows] = {}
    """Which of the site's menus follow a shared one, by their key: `shared:legal` follows the shared menu `legal`."""

    def own(self) -> FactSet:
        return FactSet(facts=self.facts, audiences=self.audiences, rules=self.rules)

    def knowing(self, own: FactSet) -> Self:
        return self.model_copy(update={"facts": own.facts, "audiences": own.audiences, "rules": own.rules})

    def placed(self) -> dict[tuple[str, str], str | None]:
        return {(one.location, one.device): one.menu for one in self.placements}

    def hanging(self, placed: Mapping[tuple[str, str], str | None]) -> Self:
        """With these placements and no others."""
        placements = tuple(
            Placement(location=location, device=device, menu=menu) for (location, device), menu in placed.items()
        )
        return self.model_copy(update={"placements": placements})


def arrangement_name(arrangement: Arrangement) -> str:
    """The content's name. The order of facts, audiences and rules is content: people put them so."""
    whole = arrangement.to_json()
    orders: dict[str, JsonValue] = {part: list[JsonValue](getattr(arrangement, part)) for part in _NAMED.values()}
    placements = sorted(rfc8785.dumps(one.to_json()).decode() for one in arrangement.placements)
    return named_by_content(whole | {"order": orders, "placements": list[JsonValue](placements)})


_NAMED = {"fact": "facts", "audience": "audiences", "rule": "rules"}


def fields_of(arrangement: Arrangement) -> dict[FieldName, JsonValue]:
    """A placement, a key of a look, a fact, an audience, a rule, a set that is followed: each is one field."""
    whole = arrangement.model_dump(mode="json")
    return {
        ("template",): whole["template"],
        **{("set", one.key): one.version for one in arrangement.sets},
        **look_fields(arrangement.looks),
        **place_fields(arrangement.placements),
        **{("archived", key): True for key in arrangement.archived},
        **{("follows", key): one.to_json() for key, one in arrangement.follows.items()},
        **known_fields(arrangement.own()),
    }


def arrangement_of(fields: Mapping[FieldName, JsonValue]) -> Arrangement:
    """The inverse of `fields_of`."""
    looks: dict[str, dict[str, JsonValue]] = {}
    whole: dict[str, object] = {"looks": looks, **{part: {} for part in _NAMED.values()}}
    placements, sets, archived, follows = [], [], [], {}
    for name, value in fields.items():
        match name:
            case ("template",):
                whole["template"] = value
            case ("set", key):
                sets.append({"key": key, "version": value})
            case ("archived", key):
                archived.append(key)
            case ("follows", key):
                follows[key] = value
            case ("look", location, key):
                looks.setdefault(location, {})[key] = value
            case ("place", location, device):
                placements.append({"location": location, "device": device, "menu": value})
            case (kind, key):
                part = whole[_NAMED[kind]]
                assert isinstance(part, dict)
                part[key] = value
    whole |= {"placements": placements, "sets": sets, "archived": archived, "follows": follows}
    return read(Arrangement, whole, what="arrangement")


def look_fields(looks: Mapping[str, Mapping[str, JsonValue]]) -> dict[FieldName, JsonValue]:
    return {("look", location, key): value for location, look in looks.items() for key, value in look.items()}


def place_fields(placements: tuple[Placement, ...]) -> dict[FieldName, JsonValue]:
    return {("place", one.location, one.device): one.menu for one in placements}


def known_fields(known: FactSet) -> dict[FieldName, JsonValue]:
    whole = known.to_json()
    return {
        (kind, name): value
        for kind, part in _NAMED.items()
        for name, value in (whole.get(part) or {}).items()  # type: ignore[union-attr]
    }

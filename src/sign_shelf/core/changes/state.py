"""A state: what a site shows, whole and immutable, named by its content."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from pydantic import JsonValue

from sign_shelf.core.basics.text import ContentName, MenuRef
from sign_shelf.core.changes.arrangement import Arrangement, arrangement_name
from sign_shelf.core.model.documents import content_hash, named_by_content
from sign_shelf.core.model.facts import FactSet
from sign_shelf.core.model.menu import MenuDocument, Model
from sign_shelf.core.model.site import Page, Particulars, SiteDocument
from sign_shelf.core.model.template import Template


class State(Model):
    """The names of an arrangement and, per menu key, of a tree. A whole site is a state plus its inventory."""

    arrangement: ContentName
    menus: dict[MenuRef, ContentName] = {}


def state_name(state: State) -> str:
    return content_hash(state)


@dataclass(frozen=True, kw_only=True)
class Contents:
    """What a state's names stand for."""

    arrangement: Arrangement
    menus: Mapping[str, MenuDocument]


def same_contents(one: Contents, other: Contents) -> bool:
    """Whether they have the same name."""
    return one.menus == other.menus and (
        one.arrangement == other.arrangement or arrangement_name(one.arrangement) == arrangement_name(other.arrangement)
    )


def known_facts(arrangement: Arrangement, shared: Iterable[FactSet]) -> FactSet:
    """The site's own facts over those of the shared sets that it follows, in their order."""
    known = FactSet()
    for one in shared:
        known = one.over(known)
    return arrangement.own().over(known)


def site_of(
    site: Particulars, contents: Contents, template: Template, shared: Iterable[FactSet], pages: Iterable[Page] = ()
) -> SiteDocument:
    """The whole site: a state, with the site's particulars and what was seen of its pages. `template` is without the
    site's own looks."""
    arrangement = contents.arrangement
    known = known_facts(arrangement, shared)
    return SiteDocument.model_construct(
        format="sign-shelf/site",
        version=1,
        site=site,
        template=template.adjusted(arrangement.looks),
        facts=known.facts,
        audiences=known.audiences,
        rules=known.rules,
        menus=dict(contents.menus),
        placements=arrangement.placements,
        pages=tuple(pages),
        changes=(),
        archived=arrangement.archived,
    )


@dataclass(frozen=True, kw_only=True)
class Part:
    """What a change does to one site: the state that it set out from, and the state that it wants, by their names."""

    site: str
    base: str
    head: str


def change_name(parts: Iterable[Part], moment: str | None = None) -> str:
    """The content name that an approval is given to: over the change's parts, by site; and over its moment, where that is
    approved as well."""
    told: list[JsonValue] = [[one.site, one.base, one.head] for one in sorted(parts, key=lambda one: one.site)]
    return named_by_content(told if moment is None else [*told, moment])

"""The site document (`sign-shelf/site`): one site, whole. See docs/site-document.md."""

from typing import Annotated, Literal, Self
from zoneinfo import ZoneInfo

from pydantic import AfterValidator, Field, model_validator

from sign_shelf.core.basics.text import (
    Address,
    Day,
    Key,
    Label,
    Language,
    MenuRef,
    PageRef,
    Part,
    RuleText,
    Selector,
    Token,
    Words,
)
from sign_shelf.core.errors import InvalidDocument
from sign_shelf.core.model.facts import COMPUTED, FactName, FactSet, FactType, FactValue, built_in, read_visitor
from sign_shelf.core.model.menu import Device, MenuDocument, Model
from sign_shelf.core.model.template import Template

PageState = Literal["published", "hidden", "draft", "gone"]


def _zone(name: str) -> str:
    try:
        ZoneInfo(name)
    except (ValueError, OSError, LookupError) as exc:
        raise ValueError(f'"{name}" is no IANA time zone; write one like Europe/London') from exc
    return name


Zone = Annotated[str, AfterValidator(_zone)]


class OtherHost(Model):
    host: Token
    kind: Literal["staging", "demo", "old", "alias", "client"]


class PagesKept(Model):
    """How the site's pages are kept known."""

    every: Literal["hour", "day", "week", "never"] = "day"
    into: MenuRef | None = None
    """The menu in whose draft new pages of the top level are put; never live by themselves."""


class Policy(Model):
    outside_links: Literal["new_tab", "same_tab"] | None = None
    required: dict[Key, tuple[PageRef, ...]] = {}
    approvals: int = Field(default=1, ge=0, le=10)
    """Of how many people who wrote none of it a change that is reviewed needs."""
    review_first: bool = False
    """Whether nothing goes live that was not approved."""
    moment_too: bool = False
    """Whether the moment at which a change goes live is approved with it: one that is moved is approved again."""
    stops: Literal["stop", "warn", "nothing"] = "stop"
    """From which severity on findings keep a change from going live."""
    label_length: int | None = Field(default=None, ge=4, le=200)
    """Characters that a label may have, whatever its place would take."""
    steps: int | None = Field(default=None, ge=1, le=20)
    """Choices from the home page within which every page should be."""


Ability = Literal["buttons", "badges", "icons", "pictures", "overlays", "new-tab", "folding"]
"""What of an entry's dress a site may show, or leave out."""


class Abilities(Model):
    """What a site says of itself that it can do (docs/site-protocol.md). Of what is None it says nothing."""

    facts: tuple[FactName, ...] | None = None
    """Which facts of its visitors it knows, beside those that every request supplies."""
    shows: tuple[Ability, ...] | None = None
    places: dict[Key, tuple[Device, ...]] | None = None
    """Its places with the devices that have them."""
    vouched: bool = False
    """Whether its pages can be read as any of its visitors, with facts that are signed with its key (docs/delivery.md)."""
    ping: Address | None = None
    """Where it is told that something else is live."""


class Particulars(Model):
    """A site's own particulars, without its menus and pages."""

    key: Key
    name: Words
    base: Address
    zone: Zone = "UTC"
    client: Words | None = None
    """Whose site it is, where an agency has several of one client's."""
    hosts: tuple[OtherHost, ...] = ()
    languages: tuple[Language, ...] = Field(default=("en",), min_length=1)
    policy: Policy = Policy()
    pages: PagesKept = PagesKept()
    can: Abilities = Abilities()
    places: dict[Key, Key] = {}
    """What the site calls locations of its template, where it is another name."""
    seen_at: dict[Key, Selector] = {}
    """Where locations of its template stand on the site's pages; the others are known by their likeness."""
    details: dict[FactName, Words] = {}
    """What shared menus that the site follows fill in for `{site.…}`: its phone number, for instance."""
    roles: dict[PageRef, PageRef] = {}
    """Which of its pages is the one that shared menus call so, where that is not seen: its `privacy` page."""

    def called(self, location: str) -> str:
        """The site's own name for the location."""
        return self.places.get(location, location)

    def location_of(self, called: str) -> str:
        """The location that the site calls so."""
        return next((location for location, name in self.places.items() if name == called), called)

    @model_validator(mode="after")
    def _base_is_absolute(self) -> Self:
        if not self.base.startswith(("http://", "https://")):
            raise ValueError("base must begin with http:// or https://")
        return self


class Page(Model):
    ref: PageRef
    path: Address
    title: Label = {}
    type: Token = "page"
    language: Language | None = None
    state: PageState = "published"
    under: PageRef | None = None
    noindex: bool = False
    """It asks search engines to leave it out."""
    date: str | None = None
    ends: Day | None = None
    """The day from which on it will not be there any more, where that is planned."""
    parts: tuple[Part, ...] = ()
    overlays: tuple[Token, ...] = ()


class Placement(Model):
    """Which menu hangs in a location for a device; `menu` None is "none on purpose"."""

    location: Key
    device: Device
    menu: MenuRef | None


class SiteDocument(Model):
    format: Literal["sign-shelf/site"]
    version: Literal[1]
    site: Particulars
    template: Template
    facts: dict[FactName, FactType] = {}
    audiences: dict[Words, dict[FactName, FactValue]] = {}
    rules: dict[FactName, RuleText] = {}
    """Rules that have a name, and may stand in others by it."""
    menus: dict[MenuRef, MenuDocument] = {}
    placements: tuple[Placement, ...] = ()
    pages: tuple[Page, ...] = ()
    changes: tuple[dict[str, object], ...] = ()
    archived: tuple[MenuRef, ...] = ()
    """Menus that are kept and put away."""

    @model_validator(mode="after")
    def _hangs_together(self) -> Self:
        seen: set[tuple[str, str]] = set()
        for placement in self.placements:
            where = f"placement {placement.location}/{placement.device}"
            if self.template.location(placement.location) is None:
                raise ValueError(f"{where}: the template has no such location")
            if placement.menu is not None and placement.menu not in self.menus:
                raise ValueError(f'{where}: there is no menu "{placement.menu}"')
            if (placement.location, placement.device) in seen:
                raise ValueError(f"{where}: is given twice")
            seen.add((placement.location, placement.device))
        for menu in self.archived:
            if menu not in self.menus:
                raise ValueError(f'archived: there is no menu "{menu}"')
        self._facts_are_known()
        refs: set[str] = set()
        for page in self.pages:
            if page.ref in refs:
                raise ValueError(f'two pages have the reference "{page.ref}"')
            refs.add(page.ref)
        return self

    def _facts_are_known(self) -> None:
        for name in (*self.facts, *self.rules):
            if name in COMPUTED:
                raise ValueError(f'facts: "{name}" is built in')
        for name in self.rules:
            if name in self.facts:
                raise ValueError(f'"{name}" is the name of a fact and of a rule')
        for name, values in self.audiences.items():
            try:
                read_visitor(values, self.all_facts(), what=f"audiences.{name}")
            except InvalidDocument as refused:
                raise ValueError(f"{refused.problems[0].where}: {refused.problems[0].says}") from refused

    def known(self) -> FactSet:
        """What the site knows of its visitors beside what every site does."""
        return FactSet(facts=self.facts, audiences=self.audiences, rules=self.rules)

    def all_facts(self) -> dict[str, FactType]:
        """Those that every site has, and this site's own."""
        return built_in(self.site.languages) | self.facts

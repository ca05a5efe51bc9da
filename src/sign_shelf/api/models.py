"""What the HTTP interface answers and takes. Documents of the core go out as they are."""

from collections.abc import Sequence
from datetime import datetime
from itertools import zip_longest
from typing import Any, Literal
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field, SecretStr

from sign_shelf.api.documents import Listed, Menu
from sign_shelf.core.changes.life import Life
from sign_shelf.core.checks import Finding
from sign_shelf.core.compare import Edit
from sign_shelf.core.compare.both import Choice
from sign_shelf.core.compare.merge import ConflictKind
from sign_shelf.core.errors import Problem
from sign_shelf.core.look import PlaceLook
from sign_shelf.core.model.menu import Device
from sign_shelf.core.model.site import Abilities
from sign_shelf.core.model.template import ItemKind, Shape
from sign_shelf.core.outgoing import MenuGoes, Reached
from sign_shelf.core.resolve.resolved import Because


class Answer(BaseModel):
    model_config = ConfigDict(frozen=True)


ReleaseState = Literal["waiting", "sending", "putting back", "by hand", "live", "failed"]


class ChangeName(Answer):
    """A change, as it is named wherever one looks in it."""

    id: UUID
    title: str
    state: Life


class PersonOut(Answer):
    id: UUID
    name: str
    email: str
    role: str
    may_edit: bool
    may_edit_at: dict[str, bool]
    """At single sites, by their keys, where the person has a role of their own."""
    may_keys: bool
    may_people: bool


class SignInBody(BaseModel):
    email: str = Field(max_length=320)
    password: SecretStr = Field(max_length=1_000)
    code: str = Field(default="", max_length=40)
    """What the authenticator shows, where the account has one."""


class Bar(Answer):
    """One entry of a miniature: how long its label is, and what it is."""

    id: str
    chars: int
    kind: Literal["plain", "button", "pending", "divider", "heading"]
    hidden: bool
    """Whether the lens's visitor does not get it."""
    items: list["Bar"]


class Sign(Answer):
    """One location on a site's board, as the lens's device gets it."""

    location: str
    title: str
    shape: Shape
    device: Device
    leaning: bool
    """Whether the place exists on another device only, and leans on its neighbour."""
    placement: Literal["own", "inherited", "stand-in", "none"]
    menu: str | None
    menu_name: str | None
    count: int
    hidden: int
    """How many of them the lens's visitor does not get."""
    depth: int
    pending: int
    changed: bool
    bars: list[Bar]


class ReleaseOut(Answer):
    id: UUID
    site: str
    state: ReleaseState
    says: str
    asked_at: datetime
    finished_at: datetime | None
    done: int
    of: int
    live_page: str


class SiteLine(Answer):
    """Who a site is, and where it stands."""

    key: str
    name: str
    zone: str
    connection: Literal["endpoint", "repository", "fetch", "observe"]
    template: str
    change: ChangeName | None
    """In which one looks; None: as it is live."""
    release_state: ReleaseState | None
    live_at: datetime | None
    seen_at: datetime | None
    archived_at: datetime | None
    """Since when it is put away."""


class ShelfLine(SiteLine):
    others: int
    """Changes of the site that are under way, beside the one in which one looks."""
    menus: int
    entries: int
    pending: int
    changed: int
    """Menus that differ from what is live."""
    loose: int
    """Menus that hang nowhere."""
    drifted: int
    """Places that show something else than was verified there."""
    client: str | None
    """Whose site it is."""
    teams: list[str]
    """Those that look after it."""


class SiteSigns(Answer):
    key: str
    signs: list[Sign]


class Cell(Answer):
    location: str
    device: Device
    placement: Literal["own", "inherited", "stand-in", "none", "folded", "absent", "section"]
    menu: str | None
    from_device: Device | None
    from_location: str | None
    folds_into: str | None


class LocationOut(Answer):
    key: str
    title: str
    called: str
    """By the site itself."""
    shape: Shape
    depth: int
    kinds: list[ItemKind]
    devices: list[Device]
    readable: bool
    fixed: bool
    look: PlaceLook


class MenuLine(Answer):
    key: str
    name: str
    count: int
    depth: int
    pending: int
    changed: bool
    hangs: int
    archived: bool
    bars: list[Bar]


class Widths(Answer):
    """Viewport widths in CSS pixels; `high` None has no end."""

    low: int
    high: int | None


class UsualOutside(Answer):
    """What the site's policy has for links to other hosts than its own."""

    own_hosts: list[str]
    new_tab: bool
    rel: list[str]


class KeyLine(Answer):
    """A key that counts now; what it is, is never told again."""

    kind: Literal["signing", "delivery", "facts"]
    made_at: datetime
    until: datetime | None
    """None for the newest; else when it stops counting."""


class SitePage(SiteLine):
    can: Abilities
    base: str
    template_key: str
    template_version: int
    keys: list[KeyLine]
    languages: list[str]
    pages: int
    usual_outside: UsualOutside | None
    device_widths: dict[Device, Widths]
    locations: list[LocationOut]
    cells: list[Cell]
    menus: list[MenuLine]
    release: ReleaseOut | None


class Place(Answer):
    """Where a menu hangs, with the limits of the place."""

    location: str
    title: str
    shape: Shape
    device: Device
    depth: int
    kinds: list[ItemKind]
    placement: Literal["own", "inherited", "stand-in"]


class EditOut(Answer):
    """One edit between two trees: `key` names it when it is to be taken back."""

    key: str
    op: Literal["add", "remove", "move", "reorder", "relabel", "retarget", "set"]
    id: str | None
    says: str
    confidence: float | None
    by: str | None = None
    """Whose it is, where that is known."""

    @classmethod
    def of(cls, edit: Edit, by: str | None = None) -> "EditOut":
        return cls(key=edit.key, op=edit.op, id=edit.id, says=edit.says, confidence=edit.confidence, by=by)


class Edits(Answer):
    """The first of them, in document order, removals last; `count` is how many there are."""

    count: int
    first: list[EditOut]

    @classmethod
    def of(cls, edits: Sequence[Edit], by: Sequence[str | None] = ()) -> "Edits":
        first = zip_longest(edits[:MOST_EDITS], by[:MOST_EDITS])
        return cls(count=len(edits), first=[EditOut.of(edit, name) for edit, name in first])


MOST_EDITS = 200


class MenuGoesOut(Answer):
    """A menu that goes out with a release. `places` and `audiences` are those that get something else than before."""

    menu: str
    name: str
    new: bool
    hangs: bool
    edits: Edits
    places: tuple[Reached, ...]
    audiences: tuple[str, ...]
    everybody: bool
    findings: tuple[Finding, ...]
    """Those that are not live with it already, the gravest first; one of severity "stop" stops the release."""

    @classmethod
    def of(cls, one: MenuGoes, by: Sequence[str | None]) -> "MenuGoesOut":
        return cls(
            menu=one.menu, name=one.name, new=one.new, hangs=one.hangs, edits=Edits.of(one.edits, by),
            places=one.places, audiences=one.audiences, everybody=one.everybody, findings=one.findings[:50],
        )  # fmt: skip


class GoingOutPage(Answer):
    """What would go live if it were put live now. `target` names the state: a release that is asked for with it puts this
    live and nothing else."""

    change: ChangeName
    target: str
    menus: list[MenuGoesOut]
    site: tuple[str, ...]
    """What it does to the site beside its menus."""


class BenchPage(Answer):
    site: SitePage
    key: str
    document: Menu
    hash: str
    saved_at: datetime
    live_hash: str | None
    live_since: datetime | None
    """Since when what is live of the menu is; None where it never was."""
    places: list[Place]
    changes: Edits
    """What the draft changes against what is live."""
    follows: bool
    """Whether it follows the shared menu of its key; what it has otherwise are adjustments."""


class SavedOut(Answer):
    hash: str
    saved_at: datetime
    new: bool
    change: ChangeName | None
    """Where it was saved."""
    changes: Edits


class SettleBody(BaseModel):
    base: str
    ours: Menu
    choices: dict[str, Choice] = {}


class MenuConflictOut(Answer):
    """What both sides did to one item, each in words. It is settled by its `key`, or with all of its item's by `id`."""

    key: str
    id: str
    title: str
    kind: ConflictKind
    field: str | None
    ours: str
    theirs: str


class WorkedOut(Answer):
    """Both sides' edits as one document, on top of what the menu has now."""

    document: Menu
    conflicts: list[MenuConflictOut]
    on: str


class CreateMenuBody(BaseModel):
    name: str
    outline: str | None = None
    document: Menu | None = None
    """The menu to begin with, where it is no outline."""


class CreatedMenu(Answer):
    key: str
    hash: str


class ArchivedBody(BaseModel):
    archived: bool


class HangBody(BaseModel):
    menu: str | None
    """None: none on purpose."""


class SecretBody(BaseModel):
    secret: SecretStr = Field(max_length=1_000)


class HiddenOut(Answer):
    id: str
    because: Because
    detail: str


class ResolvedPage(Answer):
    """`strip` is the place drawn as HTML, for an isolated frame with strip.css; links in it lead nowhere."""

    strip: str
    drawn: int
    """How many of the `entries` the strip draws: the first ones."""
    entries: int
    hidden: list[HiddenOut]
    placement: Literal["own", "inherited", "stand-in", "none"]
    device: Device | None


class TableColumn(Answer):
    """A column of a table that came in. `role`: path, level, kind, label, `label:nl`, target, settings, menu, told, or empty
    where it is left out; several labels are the levels of the menu."""

    head: str
    samples: list[str]
    role: str


class IncomingTable(Answer):
    columns: list[TableColumn]
    headed: bool
    sure: bool
    """Whether its first line says what every column is."""


class TitledPage(Answer):
    ref: str
    title: str
    path: str


class TitleMatchOut(Answer):
    """An entry without an address that is called like these pages; `sure` where it is one page, of exactly that title."""

    item: str
    pages: list[TitledPage]
    sure: bool


class IncomingTitles(Answer):
    asked: int
    """How many entries have words and no address."""
    matches: list[TitleMatchOut]


class IncomingMenuOut(Answer):
    """A menu that would come in, and what of its source was not understood."""

    title: str
    where: str | None
    document: Menu
    count: int
    depth: int
    notes: list[Problem]
    already: list[str]
    """Ids of links that lead where a link of the menu named by `into` leads already."""
    table: IncomingTable | None
    titles: IncomingTitles | None


class CopyBody(BaseModel):
    """Items that were cut or copied from a menu."""

    site: str
    menu: str
    document: Menu


class LiveBody(BaseModel):
    path: str = "/"


class HistoryEntry(Answer):
    revision: int
    hash: str
    before: str | None
    since: datetime
    at: datetime
    by: str | None
    saves: int
    edits: Edits
    live_at: datetime | None


class HistoryPage(Answer):
    entries: list[HistoryEntry]
    next: int | None


class TakeBackBody(BaseModel):
    before: str | None
    document: Menu
    keys: list[str]


class IconOut(Answer):
    name: str
    words: list[str]
    svg: str


class PageType(Answer):
    type: str
    pages: int


class OverlayOut(Answer):
    key: str
    pages: int


class FactOut(Answer):
    name: str
    type: str


class Vocabulary(Answer):
    """What items of a site can name besides pages."""

    types: list[PageType]
    overlays: list[OverlayOut]
    facts: list[FactOut]
    menus: list[str]


class ListingBody(BaseModel):
    list: Listed
    language: str | None = None


class ListedPage(Answer):
    ref: str
    title: str
    path: str


class ListingOut(Answer):
    count: int
    first: list[ListedPage]


class PageOut(Answer):
    ref: str
    path: str
    title: dict[str, str]
    type: str
    state: Literal["published", "hidden", "draft", "gone"]
    parts: list[str]
    places: list[str]
    """Titles of the menus that lead to it."""


class TakeInBody(BaseModel):
    url: str


class TakeInOut(Answer):
    id: UUID
    url: str
    state: Literal["reading", "ready", "confirmed", "failed"]
    doing: str
    done: int
    of: int | None
    says: str
    site: str | None
    proposal: dict[str, Any] | None


class LedgerOut(Answer):
    id: int
    at: datetime
    person: str | None
    site: str | None
    menu: str | None
    """The key of the menu that it tells of, where it tells of one."""
    change: UUID | None
    why: str
    """What the change is for, in its author's words; empty where nobody said, or where it tells of no change."""
    release: UUID | None
    action: str
    says: str

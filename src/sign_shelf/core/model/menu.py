"""The menu document (`sign-shelf/menu`): a named tree of items. See docs/menu-document.md."""

from collections.abc import Iterator
from typing import Annotated, Any, Literal, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Discriminator, Field, JsonValue, Tag, model_validator

from sign_shelf.core.basics.text import (
    Address,
    Day,
    Email,
    ItemId,
    Label,
    MenuRef,
    Origin,
    PageRef,
    Part,
    Phone,
    RuleText,
    Token,
    WallTime,
    Words,
)
from sign_shelf.core.icons import known_icon

MAX_DEPTH = 24
"""Levels that a document may have. Places allow far fewer; imports may bring more than a place takes."""

MAX_ITEMS = 20_000

TAG = "as:"
"""Begins the tags of unions, so that a path of a problem can leave them out: they are no keys of a document."""

MEDIA_TYPE = "application/vnd.sign-shelf.menu+json"

Device = Literal["phone", "tablet", "desktop"]
DEVICES: tuple[Device, ...] = ("phone", "tablet", "desktop")


class Model(BaseModel):
    """Frozen, strict about unknown keys; keys that hold their default are left out when written."""

    model_config = ConfigDict(frozen=True, extra="forbid", populate_by_name=True, hide_input_in_errors=True)

    def __eq__(self, other: object) -> bool:
        # What is written is held against defaults and what merges is held against what was: most are the very same.
        return self is other or super().__eq__(other)

    def to_json(self) -> dict[str, JsonValue]:
        return self.model_dump(mode="json", by_alias=True, exclude_defaults=True)


class PageTarget(Model):
    page: PageRef
    part: Part | None = None


class UrlTarget(Model):
    url: Address


class PartTarget(Model):
    """A part of whatever page the visitor is on."""

    part: Part


class EmailTarget(Model):
    email: Email


class PhoneTarget(Model):
    phone: Phone


class OverlayTarget(Model):
    overlay: Part


class Pending(Model):
    note: Words | None = None
    owner: Words | None = None
    due: Day | None = None


class PendingTarget(Model):
    """Nothing to lead to yet."""

    pending: Pending


LinkTarget = PageTarget | UrlTarget | PartTarget | EmailTarget | PhoneTarget | PendingTarget


_TARGETS = {key: TAG + key for key in ("page", "url", "part", "email", "phone", "pending")}


def _target_tag(value: object) -> str | None:
    keys = value if isinstance(value, dict) else type(value).model_fields if isinstance(value, Model) else ()
    for key in keys:
        if key in _TARGETS and not (key == "part" and "page" in keys):
            return _TARGETS[key]
    return None


AnyLinkTarget = Annotated[
    Annotated[PageTarget, Tag("as:page")]
    | Annotated[UrlTarget, Tag("as:url")]
    | Annotated[PartTarget, Tag("as:part")]
    | Annotated[EmailTarget, Tag("as:email")]
    | Annotated[PhoneTarget, Tag("as:phone")]
    | Annotated[PendingTarget, Tag("as:pending")],
    Discriminator(
        _target_tag,
        custom_error_type="target_kind",
        custom_error_message="a target is one of page, url, part, email, phone or pending",
    ),
]


IconName = Annotated[Token, AfterValidator(known_icon)]
"""An icon of the shipped set."""


Relations = Annotated[tuple[Token, ...], Field(max_length=20), AfterValidator(lambda rel: tuple(dict.fromkeys(rel)))]
"""Link relations, each once: HTML allows no relation to be named twice."""


class Badge(Model):
    label: Label = Field(min_length=1)
    tone: Literal["plain", "accent", "warn"] = "plain"
    until: Day | None = None


class Look(Model):
    emphasis: Literal["plain", "strong", "button"] = "plain"
    size: Literal["s", "m", "l", "xl"] | None = None
    icon: IconName | None = None
    icon_only: bool = False
    badge: Badge | None = None
    picture: Address | None = None
    hooks: tuple[Token, ...] = Field(default=(), max_length=20)

    @model_validator(mode="after")
    def _hangs_together(self) -> Self:
        if self.size is not None and self.emphasis != "button":
            raise ValueError("size goes with emphasis button")
        if self.icon_only and self.icon is None:
            raise ValueError("icon_only needs an icon")
        return self


PLAIN = Look()


class _Entry(Model):
    """What every item has: identity, and when and where it shows."""

    id: ItemId
    from_: WallTime | None = Field(default=None, alias="from")
    until: WallTime | None = None
    when: RuleText | None = None
    devices: tuple[Device, ...] | None = Field(default=None, min_length=1)
    origin: Origin | None = None

    @model_validator(mode="after")
    def _window_is_forward(self) -> Self:
        # A clock shows some readings twice: two equal ones may still be an hour apart.
        same = self.from_ is not None and self.from_ != self.until and self.from_[:16] == (self.until or "")[:16]
        if self.from_ and self.until and self.until <= self.from_ and not same:
            raise ValueError(f"until ({self.until}) must be later than from ({self.from_})")
        if self.devices is not None and len(set(self.devices)) != len(self.devices):
            raise ValueError("a device is named twice")
        return self


class Link(_Entry):
    kind: Literal["link"]
    label: Label = {}
    target: AnyLinkTarget
    new_tab: bool = False
    rel: Relations = ()
    look: Look = PLAIN
    items: "tuple[Item, ...]" = ()

    @model_validator(mode="after")
    def _says_something(self) -> Self:
        if not self.label and not isinstance(self.target, PageTarget):
            raise ValueError("a link needs a label, unless it leads to a page, whose title then stands in")
        return self


class Heading(_Entry):
    kind: Literal["heading"]
    label: Label = Field(min_length=1)
    look: Look = PLAIN
    items: "tuple[Item, ...]" = ()


class Divider(_Entry):
    kind: Literal["divider"]


class Opener(_Entry):
    kind: Literal["opener"]
    label: Label = Field(min_length=1)
    target: OverlayTarget
    look: Look = PLAIN
    items: "tuple[Item, ...]" = ()


class Query(Model):
    """What a listing fills itself with. `type` absent means every type; `under` a page's reference; `rest` leaves out
    every page that a link of the same menu leads to already."""

    type: Token | None = None
    rest: bool = False
    under: PageRef | None = None
    order: Literal["title", "path", "date", "inventory"] = "inventory"
    limit: int | None = Field(default=None, ge=1, le=1_000)
    except_: tuple[PageRef, ...] = Field(default=(), alias="except", max_length=200)


class Listing(_Entry):
    """With a label its entries hang below it, without one they stand in its place."""

    kind: Literal["listing"]
    label: Label = {}
    list: Query
    look: Look = PLAIN


class Include(_Entry):
    kind: Literal["include"]
    menu: MenuRef


def _kind_tag(value: object) -> str:
    kind = value.get("kind") if isinstance(value, dict) else getattr(value, "kind", None)
    return f"{TAG}{kind}"


Item = Annotated[
    Annotated[Link, Tag("as:link")]
    | Annotated[Heading, Tag("as:heading")]
    | Annotated[Divider, Tag("as:divider")]
    | Annotated[Opener, Tag("as:opener")]
    | Annotated[Listing, Tag("as:listing")]
    | Annotated[Include, Tag("as:include")],
    Discriminator(
        _kind_tag,
        custom_error_type="item_kind",
        custom_error_message="an item needs a kind: link, heading, divider, opener, listing or include",
    ),
]
AnyItem = Link | Heading | Divider | Opener | Listing | Include
Parent = Link | Heading | Opener
HOLDERS = frozenset({"link", "heading", "opener"})
"""The kinds of items that others may stand below: those of `Parent`."""
Labelled = Link | Heading | Opener | Listing

for _model in (Link, Heading, Opener):
    _model.model_rebuild()


_PARENTS = (Link, Heading, Opener)
"""`Parent`, as it is asked for a million times: in a tuple it is found in half the time."""


def children(item: AnyItem) -> tuple[AnyItem, ...]:
    return item.items if isinstance(item, _PARENTS) else ()


def walk(items: tuple[AnyItem, ...]) -> Iterator[tuple[int, AnyItem]]:
    """Every item with its depth (top is 1), parents before children."""
    stack = [(1, item) for item in reversed(items)]
    while stack:
        depth, item = stack.pop()
        yield depth, item
        stack.extend((depth + 1, child) for child in reversed(children(item)))


class MenuDocument(Model):
    format: Literal["sign-shelf/menu"]
    version: Literal[1]
    name: Words
    items: tuple[Item, ...] = Field(default=(), max_length=MAX_ITEMS)

    @model_validator(mode="before")
    @classmethod
    def _few_enough(cls, raw: object) -> object:
        """Counted before anything is read, so that a thousand times too many cost nothing."""
        waiting, found = [raw], -1
        while waiting:
            one = waiting.pop()
            found += 1
            below = one.get("items") if isinstance(one, dict) else None
            if isinstance(below, list):
                if found + len(waiting) + len(below) > MAX_ITEMS:
                    raise ValueError(f"a menu has at most {MAX_ITEMS} items")
                waiting += below
        return raw

    @model_validator(mode="after")
    def _whole_tree(self) -> Self:
        seen: set[str] = set()
        depth, level = 1, self.items
        while level:
            for item in level:
                if item.id in seen:
                    raise ValueError(f'two items have the id "{item.id}"; every item needs its own')
                seen.add(item.id)
            if depth > MAX_DEPTH:
                raise ValueError(f'item "{level[0].id}" is {depth} levels deep; a menu has at most {MAX_DEPTH} levels')
            if len(seen) > MAX_ITEMS:
                raise ValueError(f"a menu has at most {MAX_ITEMS} items")
            depth, level = depth + 1, tuple(below for item in level for below in children(item))
        return self

    def with_items(self, items: tuple[AnyItem, ...]) -> "MenuDocument":
        """This document with another tree. The tree is trusted; tree operations keep ids single."""
        return self.model_copy(update={"items": items})


def menu_document(name: str, items: tuple[AnyItem, ...] = ()) -> MenuDocument:
    return MenuDocument(format="sign-shelf/menu", version=1, name=name, items=items)


def menu_schema() -> dict[str, Any]:
    """The JSON Schema of the menu document, as published by the server and kept in docs/."""
    return MenuDocument.model_json_schema(by_alias=True) | {"title": "Sign Shelf menu document, version 1"}

"""Templates: what a site's design offers for menus."""

from typing import Literal, Self

from pydantic import Field, model_validator

from sign_shelf.core.menu import DEVICES, Device, Model
from sign_shelf.core.text import Key, PageRef, Token, Words

Shape = Literal["bar", "strip", "drawer", "side", "section", "columns", "line", "corner"]
ItemKind = Literal["link", "heading", "divider", "opener", "listing", "include"]
ITEM_KINDS: tuple[ItemKind, ...] = ("link", "heading", "divider", "opener", "listing", "include")


class FoldIn(Model):
    """On these devices this location's items move into another location."""

    into: Key
    on: tuple[Device, ...] = Field(min_length=1)
    where: Literal["before", "after"] = "after"
    heading: Words | None = None


class Location(Model):
    key: Key
    title: Words
    shape: Shape
    depth: int = Field(default=3, ge=1, le=12)
    kinds: tuple[ItemKind, ...] = ITEM_KINDS
    devices: tuple[Device, ...] = Field(default=DEVICES, min_length=1)
    stand_in: Key | None = None
    readable: bool = True
    look: dict[str, str | int | float] = {}
    fold: tuple[FoldIn, ...] = ()
    of: Key | None = None
    start: int = Field(default=1, ge=1)
    levels: int | None = Field(default=None, ge=1)
    pages: tuple[Token | PageRef, ...] = ()


class Template(Model):
    key: Key
    title: Words | None = None
    version: int = Field(default=1, ge=1)
    devices: dict[Device, tuple[int, int | None]]
    locations: tuple[Location, ...]

    @model_validator(mode="after")
    def _hangs_together(self) -> Self:
        keys = [location.key for location in self.locations]
        for key in keys:
            if keys.count(key) > 1:
                raise ValueError(f'two locations have the key "{key}"')
        for location in self.locations:
            named = [location.stand_in, location.of, *(fold.into for fold in location.fold)]
            for other in named:
                if other is not None and other not in keys:
                    raise ValueError(f'location "{location.key}" names "{other}", which the template does not have')
        for device, (low, high) in self.devices.items():
            if low < 0 or (high is not None and high < low):
                raise ValueError(f"device {device}: the widths {low} to {high} are not a range")
        return self

    def location(self, key: str) -> Location | None:
        return next((location for location in self.locations if location.key == key), None)


USUAL_WIDTHS: dict[Device, tuple[int, int | None]] = {"phone": (0, 767), "tablet": (768, 1099), "desktop": (1100, None)}

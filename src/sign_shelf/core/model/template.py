"""Templates: what a site's design offers for menus. See docs/site-document.md."""

from collections.abc import Mapping
from typing import Literal, Self

from pydantic import Field, JsonValue, model_validator

from sign_shelf.core.basics.text import Key, PageRef, Token, Words
from sign_shelf.core.look.model import PLAIN_LOOK, PlaceLook, Px, Scrolled, Width
from sign_shelf.core.model.menu import DEVICES, Device, Model

Shape = Literal["bar", "strip", "drawer", "side", "section", "columns", "line", "corner"]
SHAPES: tuple[Shape, ...] = ("bar", "strip", "drawer", "side", "section", "columns", "line", "corner")
ItemKind = Literal["link", "heading", "divider", "opener", "listing", "include"]
ITEM_KINDS: tuple[ItemKind, ...] = ("link", "heading", "divider", "opener", "listing", "include")
Region = Literal["head", "start", "end", "foot", "over"]


class FoldIn(Model):
    """On these devices, or below a viewport width, this location's items move into another location.

    Of several that move into the same place those with a lower `order` stand nearer to the top.
    """

    into: Key
    on: tuple[Device, ...] = ()
    below: Width | None = None
    where: Literal["before", "after"] = "after"
    order: int = Field(default=0, ge=-100, le=100)
    heading: Words | None = None

    @model_validator(mode="after")
    def _happens_somewhere(self) -> Self:
        if not self.on and self.below is None:
            raise ValueError("a fold-in needs the devices it happens on, or a width below which it does")
        return self


class Stands(Model):
    """Where on the page a location stands.

    `row` counts from the top of its region; locations of one row share it from the start side to the end side in the
    template's order. `width` is that of a column beside the page's text, or of a drawer.
    """

    region: Region
    row: int = Field(default=1, ge=1, le=12)
    height: Px = 48
    width: Width | None = None


class Fixed(Model):
    """A header that stays when the page scrolls. `covers` are locations that it then lies over."""

    scrolled: Scrolled = Scrolled()
    covers: tuple[Key, ...] = ()


_STANDS: dict[Shape, Stands] = {
    "bar": Stands(region="head", row=2, height=64),
    "strip": Stands(region="head", row=1, height=36),
    "corner": Stands(region="head", row=1, height=36),
    "drawer": Stands(region="over", width=320),
    "side": Stands(region="start", width=220),
    "section": Stands(region="start", row=2, width=220),
    "columns": Stands(region="foot", row=1, height=180),
    "line": Stands(region="foot", row=2, height=40),
}


class Location(Model):
    key: Key
    title: Words
    shape: Shape
    depth: int = Field(default=3, ge=1, le=12)
    kinds: tuple[ItemKind, ...] = ITEM_KINDS
    devices: tuple[Device, ...] = Field(default=DEVICES, min_length=1)
    stand_in: Key | None = None
    readable: bool = True
    look: PlaceLook = PLAIN_LOOK
    fold: tuple[FoldIn, ...] = ()
    fixed: Fixed | None = None
    stands: Stands | None = None
    of: Key | None = None
    start: int = Field(default=1, ge=1)
    levels: int | None = Field(default=None, ge=1)
    pages: tuple[Token | PageRef, ...] = ()
    heading: Words | Literal[True] | None = None
    """Of a section: a title of its own, or True for the label of the entry whose section it is."""

    @property
    def place(self) -> Stands:
        """Where it stands; by its shape where the template does not say."""
        return self.stands or _STANDS[self.shape]

    def folds_into(self, device: Device, width: int) -> FoldIn | None:
        """The first fold-in that happens on the device at the viewport width."""
        return next(
            (fold for fold in self.fold if device in fold.on or (fold.below is not None and width < fold.below)), None
        )


class Template(Model):
    key: Key
    title: Words | None = None
    version: int = Field(default=1, ge=1)
    devices: dict[Device, tuple[int, int | None]]
    locations: tuple[Location, ...] = Field(max_length=40)

    @model_validator(mode="after")
    def _hangs_together(self) -> Self:
        keys = [location.key for location in self.locations]
        for key in keys:
            if keys.count(key) > 1:
                raise ValueError(f'two locations have the key "{key}"')
        for location in self.locations:
            covered = location.fixed.covers if location.fixed else ()
            named = [location.stand_in, location.of, *(fold.into for fold in location.fold), *covered]
            for other in named:
                if other is not None and other not in keys:
                    raise ValueError(f'location "{location.key}" names "{other}", which the template does not have')
            if location.key in {location.stand_in, location.of, *(fold.into for fold in location.fold)}:
                raise ValueError(f'location "{location.key}" names itself')
        self._folds_end()
        for device, (low, high) in self.devices.items():
            if low < 0 or (high is not None and high < low):
                raise ValueError(f"device {device}: the widths {low} to {high} are not a range")
        return self

    def _folds_end(self) -> None:
        into = {location.key: {fold.into for fold in location.fold} for location in self.locations}
        for key, targets in into.items():
            for target in targets:
                if into[target]:
                    raise ValueError(
                        f'location "{key}" folds into "{target}", which folds away itself; fold it into where that goes'
                    )

    def location(self, key: str) -> Location | None:
        return next((location for location in self.locations if location.key == key), None)

    def adjusted(self, looks: Mapping[str, Mapping[str, JsonValue]]) -> "Template":
        """With a site's own looks, by location. Those of a location that the template no longer has do nothing."""
        if not looks:
            return self
        located = tuple(
            one.model_copy(update={"look": one.look.adjusted(looks[one.key])}) if one.key in looks else one
            for one in self.locations
        )
        return self.model_copy(update={"locations": located})

    def width_of(self, device: Device) -> int:
        """A viewport width that is usual for the device, within the template's range."""
        low, high = self.devices.get(device, USUAL_WIDTHS[device])
        return min(max(_TYPICAL[device], low), high if high is not None else 10_000)

    def device_at(self, width: int) -> Device:
        """The device whose range has the viewport width; the widest where none has."""
        for device in DEVICES:
            low, high = self.devices.get(device, (1, 0))
            if low <= width and (high is None or width <= high):
                return device
        return "desktop"


USUAL_WIDTHS: dict[Device, tuple[int, int | None]] = {"phone": (0, 767), "tablet": (768, 1099), "desktop": (1100, None)}
_TYPICAL: dict[Device, int] = {"phone": 390, "tablet": 820, "desktop": 1280}

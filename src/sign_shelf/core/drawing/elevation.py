"""A site's page drawn to scale: every location where the template puts it, with the menu that the lens's visitor gets.

The drawing is HTML in the classes of frontend/public/strip.css, as wide as the viewport that it stands for.
"""

from dataclasses import dataclass, replace
from html import escape

from sign_shelf.core.drawing.strip import strip_html
from sign_shelf.core.model.template import Location, Region
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.resolve.resolved import Resolved

_LINES = (94, 88, 97, 72, 0, 91, 96, 83, 89, 40, 0, 95, 78, 92, 64)
"""How long the lines of the page's own text are, in percent; 0 ends a paragraph."""


@dataclass(frozen=True, kw_only=True)
class State:
    """Which moment of a visit is drawn."""

    scrolled: bool = False
    drawer_open: bool = False


@dataclass(frozen=True, slots=True)
class Standing:
    """A location on the drawn page. `covered_by` is the fixed header that lies over it once the page is scrolled."""

    location: str
    title: str
    region: Region
    menu: str | None
    placement: str
    entries: int
    covered_by: str | None


@dataclass(frozen=True, slots=True)
class Elevation:
    width: int
    html: str
    standing: tuple[Standing, ...]


def elevation(prepared: Prepared, lens: Lens, state: State = State()) -> Elevation:
    """The page through the lens. Places that do not exist on the device, or fold away, are not on it."""
    template = prepared.site.template
    width = lens.width if lens.width is not None else template.width_of(lens.device)
    page = _Page(prepared, replace(lens, width=width), width, state)
    for location in template.locations:
        if lens.device in location.devices and not location.folds_into(lens.device, width):
            page.put(location)
    return Elevation(width, page.html(), tuple(page.standing))


class _Page:
    def __init__(self, prepared: Prepared, lens: Lens, width: int, state: State) -> None:
        self.prepared = prepared
        self.lens = lens
        self.width = width
        self.state = state
        self.covered = {
            covered: location.title
            for location in prepared.site.template.locations
            if location.fixed and state.scrolled and lens.device in location.devices
            for covered in location.fixed.covers
        }
        self.rows: dict[tuple[Region, int], list[str]] = {}
        self.standing: list[Standing] = []

    def put(self, location: Location) -> None:
        got = self.prepared.resolve(location.key, self.lens)
        if location.shape == "section" and not got.items:
            return
        stands = location.place
        self.standing.append(
            Standing(
                location.key, location.title, stands.region, got.source.menu, got.source.placement, len(got.items),
                self.covered.get(location.key),
            )
        )  # fmt: skip
        self.rows.setdefault((stands.region, stands.row), []).append(self._box(location, got.items))

    def _box(self, location: Location, items: tuple[Resolved, ...]) -> str:
        stands = location.place
        fixed = location.fixed
        classes = ["stands", f"in-{stands.region}"]
        height: float | None = stands.height if stands.region in {"head", "foot"} else None
        drawn = location
        if fixed and self.state.scrolled:
            classes.append("is-fixed")
            scrolled = fixed.scrolled
            height = scrolled.height if scrolled.height is not None else height
            colours = scrolled.model_dump(include={"text", "ground"}, exclude_none=True)
            drawn = location.model_copy(update={"look": location.look.model_copy(update=colours)})
        if location.key in self.covered:
            classes.append("is-covered")
        style = f"min-height:{height:g}px" if height is not None else ""
        if stands.width is not None and stands.region in {"start", "end", "over"}:
            style = f"width:{stands.width}px"
        told = f"covered by {self.covered[location.key]}" if location.key in self.covered else location.title
        inner = strip_html(
            items, drawn, device=self.lens.device, language=self.lens.language, name=self.prepared.site.site.name,
            base=self.prepared.site.site.base, width=self.width,
        )  # fmt: skip
        if not items:
            inner = f'<p class="nothing">{escape(location.title)}: nothing hangs here</p>'
        return (
            f'<section class="{" ".join(classes)}" style="{style}" data-location="{escape(location.key)}"'
            f' data-title="{escape(told)}">{inner}</section>'
        )

    def html(self) -> str:
        head = self._region("head")
        foot = self._region("foot")
        start = "".join(self._of("start"))
        end = "".join(self._of("end"))
        drawers = "".join(self._of("over"))
        if drawers and not self.state.drawer_open:
            name = escape(self.prepared.site.site.name)
            bar = (
                f'<div class="drawer-bar"><span class="name">{name}</span><span class="drawer-button">Menu</span></div>'
            )
            head = bar + head if "data-location" not in head or self.lens.device == "phone" else head
            drawers = ""
        scrolled = " is-scrolled" if self.state.scrolled else ""
        return (
            f'<div class="elevation on-{self.lens.device}{scrolled}" lang="{escape(self.lens.language)}">'
            f'<div class="page-head">{head}</div>'
            f'<div class="page-middle">{_column("start", start)}<div class="page-text">{self._text()}</div>{_column("end", end)}</div>'
            f'<div class="page-foot">{foot}</div>{_column("over", drawers)}</div>'
        )

    def _of(self, region: Region) -> list[str]:
        return [box for key in sorted(self.rows) if key[0] == region for box in self.rows[key]]

    def _region(self, region: Region) -> str:
        keys = sorted(key for key in self.rows if key[0] == region)
        return "".join(f'<div class="page-row">{"".join(self.rows[key])}</div>' for key in keys)

    def _text(self) -> str:
        """The page's title, and its words as lines: they are not what is looked at here."""
        page = self.prepared.addresses.pages.get(self.lens.page or "")
        title = self.prepared.addresses.title(page.ref, self.lens.language) if page else self.prepared.site.site.name
        lines = "".join(f'<i style="width:{length}%"></i>' if length else "<br>" for length in _LINES)
        return f"<h1>{escape(title or '')}</h1>{lines}"


def _column(name: str, inner: str) -> str:
    return f'<div class="page-{name}">{inner}</div>' if inner else ""

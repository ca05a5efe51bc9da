"""Reading a whole site into a proposal: pages, menus, a template, and where each menu hangs."""

import asyncio
import re
from typing import Literal, get_args

from pydantic import Field

from sign_shelf.core.basics.address import host_of, normal
from sign_shelf.core.basics.ids import ReadableIds, slug
from sign_shelf.core.basics.text import Key, Language, Selector
from sign_shelf.core.errors import SourceRefused
from sign_shelf.core.formats.binding import Binder
from sign_shelf.core.formats.navigation import FoundNavigation, Where
from sign_shelf.core.model.menu import (
    AnyItem,
    Device,
    MenuDocument,
    Model,
    PageTarget,
    menu_document,
)
from sign_shelf.core.model.site import Abilities, Page, Placement, Zone
from sign_shelf.core.model.template import USUAL_WIDTHS, Location, Shape, Template
from sign_shelf.core.model.tree import Tree, depth_of, rebuilt
from sign_shelf.outside.endpoint import Discovery, discover, read_slot
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.outside.reading.inventory import Progress, pages_of, read_inventory
from sign_shelf.outside.reading.page import ReadPage


class ReadMenu(Model):
    key: Key
    where: Where
    title: str
    document: MenuDocument


class ReadSite(Model):
    """What was found, as the person is shown it before anything is kept."""

    url: str
    key: Key
    name: str
    languages: tuple[Language, ...]
    zone: Zone = "UTC"
    pages: tuple[Page, ...]
    menus: tuple[ReadMenu, ...]
    template: Template
    placements: tuple[Placement, ...]
    seen_at: dict[Key, Selector] = {}
    """Where locations stand on the page, as far as that says more than how many others stand before."""
    connection: Literal["endpoint", "fetch", "observe"]
    endpoint: str | None = None
    etags: dict[str, str] = Field(default={})
    can: Abilities = Abilities()
    notes: tuple[str, ...] = ()


async def _silent(doing: str, done: int, of: int | None) -> None:
    """Progress that nobody watches."""


async def read_site(fetcher: Fetcher, url: str, *, progress: Progress = _silent) -> ReadSite:
    """The proposal for the site at `url`. Raises SourceRefused where its home page cannot be read."""
    asked = normal(url if "://" in url else f"https://{url}", "https://invalid.example/")
    if asked is None:
        raise SourceRefused(
            f'"{url}" is no http or https address.', remedy="Write one like https://brackwater.example/"
        )
    await progress("opening the home page", 0, None)
    home = await fetcher.get(asked)
    if home.status != 200:
        raise SourceRefused(f"The home page is answered with {home.status}.", where=asked)
    home_url = normal(home.url, asked) or asked
    discovery = await discover(fetcher, home_url)
    found = await read_inventory(fetcher, home_url, home, progress)
    language = found.home.language or "en"
    pages = await asyncio.to_thread(pages_of, found, home_url, language)
    await progress("reading navigations", len(pages), len(pages))
    name = discovery.name if discovery else site_name(found.home, host_of(home_url))
    usual: dict[str, object] = {
        "url": home_url,
        "key": slug(name, otherwise="site"),
        "name": name,
        "languages": discovery.languages if discovery else (language,),
        "zone": discovery.zone if discovery else "UTC",
        "pages": pages,
        "notes": tuple(found.notes),
    }
    if discovery:
        return await _from_places(fetcher, discovery, usual, pages)
    return await asyncio.to_thread(_from_navigations, found.navigations, usual, pages, home_url, language)


_NOT_A_NAME = re.compile(r"^(home|welcome|start|homepage|index)\b", re.IGNORECASE)


def site_name(home: ReadPage, otherwise: str) -> str:
    """What the site calls itself (`og:site_name`), else the part of its home page's title that is a name."""
    pieces = re.split(r"\s+[-–—|·»]\s+", home.site_name or home.title)
    named = [piece for piece in pieces if piece and not _NOT_A_NAME.match(piece)]
    return (named or [otherwise])[0]


async def _from_places(
    fetcher: Fetcher,
    discovery: Discovery,
    usual: dict[str, object],
    pages: tuple[Page, ...],
) -> ReadSite:
    """The site speaks the site protocol: its own template, and its menus as it keeps them."""
    by_path = {page.path: page.ref for page in pages}
    menus: list[ReadMenu] = []
    placements: list[Placement] = []
    etags: dict[str, str] = {}
    for location in discovery.template.locations:
        for device in location.devices:
            slot = await read_slot(fetcher, discovery.menus, location.key, device)
            if slot is None:
                continue
            etags[f"{location.key}/{device}"] = slot.etag
            moved = {ref: by_path.get(page.path, ref) for ref, page in slot.placed.pages.items()}
            document = slot.placed.menu.with_items(_rebound(slot.placed.menu.items, moved))
            key = slug(f"{location.key}-{device}" if device != "desktop" else location.key)
            where = _STANDS[location.shape]
            menus.append(ReadMenu(key=key, where=where, title=document.name, document=document))
            placements.append(Placement(location=location.key, device=device, menu=key))
            for own, menu in slot.placed.included.items():
                if own not in {one.key for one in menus}:
                    whole = menu.with_items(_rebound(menu.items, moved))
                    menus.append(ReadMenu(key=own, where=where, title=menu.name, document=whole))
    return ReadSite.model_validate(
        usual
        | {
            "menus": menus,
            "template": discovery.template,
            "placements": placements,
            "connection": "fetch" if discovery.asks else "endpoint",
            "endpoint": discovery.menus,
            "etags": etags,
            "can": discovery.can,
        }
    )


def _rebound(items: Tree, moved: dict[str, str]) -> Tree:
    def update(item: AnyItem) -> dict[str, object]:
        target = getattr(item, "target", None)
        if isinstance(target, PageTarget) and moved.get(target.page, target.page) != target.page:
            return {"target": target.model_copy(update={"page": moved[target.page]})}
        return {}

    return tuple(rebuilt(item, update) for item in items)


_STANDS: dict[Shape, Where] = {
    "bar": "header",
    "strip": "header",
    "corner": "header",
    "drawer": "drawer",
    "side": "aside",
    "section": "aside",
    "columns": "footer",
    "line": "footer",
}
_SHAPES: dict[Where, tuple[Shape, str]] = {
    "header": ("bar", "Header bar"),
    "aside": ("side", "Side panel"),
    "footer": ("columns", "Footer columns"),
    "drawer": ("drawer", "Phone drawer"),
    "main": ("side", "Contents"),
    "body": ("side", "Contents"),
}


def _from_navigations(
    navigations: list[FoundNavigation],
    usual: dict[str, object],
    pages: tuple[Page, ...],
    home_url: str,
    language: str,
) -> ReadSite:
    keys = ReadableIds()
    menus: list[ReadMenu] = []
    locations: list[Location] = []
    placements: list[Placement] = []
    seen_at: dict[str, str] = {}
    binder = Binder(pages, home_url, language)
    same: dict[tuple[object, ...], str] = {}
    for one in navigations:
        items = binder.items(one.entries)
        if not items:
            continue
        shape, title = _SHAPES[one.where]
        if shape == "columns" and depth_of(items) == 1:
            shape, title = "line", "Footer line"
        device: Device = "phone" if shape == "drawer" else "desktop"
        # A list of the same words and goals that stands twice on the page is one menu, hung twice.
        content = _content(items)
        name = one.title.capitalize() if one.title else title
        key = same.get(content)
        if key is None:
            key = same[content] = keys.take(one.title or title, otherwise="menu")
            document = menu_document(name, items)
            menus.append(ReadMenu(key=key, where=one.where, title=name, document=document))
        place = keys.take(f"{shape} place", otherwise="place").replace("-place", "")
        devices: tuple[Device, ...] = ("phone",) if shape == "drawer" else get_args(Device)
        locations.append(
            Location(key=place, title=name, shape=shape, depth=max(2, min(12, depth_of(items))), devices=devices)
        )
        placements.append(Placement(location=place, device=device, menu=key))
        # One that counts is another as soon as something else is put before it: then likeness knows better.
        if ":nth-of-type" not in one.selector:
            seen_at[place] = one.selector
    template = Template(
        key=f"{usual['key']}-read"[:64], title="As read from the site", devices=USUAL_WIDTHS, locations=tuple(locations)
    )
    return ReadSite.model_validate(
        usual
        | {
            "menus": menus,
            "template": template,
            "placements": placements,
            "seen_at": seen_at,
            "connection": "observe",
        }
    )


def _content(items: Tree) -> tuple[object, ...]:
    return tuple(
        (getattr(item, "label", None) and tuple(item.label.items()), str(getattr(item, "target", "")),  # type: ignore[union-attr]
         _content(getattr(item, "items", ())))
        for item in items
    )  # fmt: skip

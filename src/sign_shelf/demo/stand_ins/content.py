"""What a stand-in site is made of, read from the files in demo/sites."""

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from sign_shelf.core.basics.ids import slug
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.facts import FactSet
from sign_shelf.core.model.menu import Device, MenuDocument
from sign_shelf.core.model.site import Page, Policy
from sign_shelf.core.model.template import Template
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.protocol.placed import PlacedMenu, placed_menu


@dataclass(frozen=True)
class Content:
    key: str
    name: str
    zone: str
    languages: tuple[str, ...]
    strapline: str
    palette: dict[str, str]
    layout: str
    asks: bool
    """Whether the site asks the shelf for its menus, once it was told where that is."""
    silent: bool
    """Whether it speaks no protocol at all: what hangs there is edited in its back office alone."""
    built: bool
    """Whether it is built anew from its repository whenever somebody pushes there."""
    template: Template
    menus: dict[str, MenuDocument]
    pages: tuple[Page, ...]
    facts: FactSet
    policy: Policy
    texts: dict[str, str]
    """The first paragraph of each page, by its reference."""

    def placed(self) -> dict[tuple[str, Device], PlacedMenu]:
        """What hangs where before anybody changed anything: a menu at its location's widest device."""
        found: dict[tuple[str, Device], PlacedMenu] = {}
        for location in self.template.locations:
            if location.key in self.menus:
                device = location.devices[-1]
                found[location.key, device] = placed_menu(location.key, device, self.menus[location.key], self.pages)
        return found


@cache
def all_contents() -> tuple[Content, ...]:
    folder = files("sign_shelf.demo") / "sites"
    names = sorted(entry.name for entry in folder.iterdir() if entry.name.endswith(".toml"))
    return tuple(_content(tomllib.loads((folder / name).read_text("utf-8"))) for name in names)


@cache
def cafe_contents() -> tuple[Content, ...]:
    """The twelve small sites that follow one shared legal footer."""
    folder = files("sign_shelf.demo") / "sites" / "cinderfield"
    written = (folder / "cafe.toml").read_text("utf-8")
    found = []
    for key, one in _towns().items():
        said = {"KEY": key, "TOWN": one["town"], "LANGUAGES": str(one.get("languages", ["en"]))}
        whole = written
        for mark, words in said.items():
            whole = whole.replace(mark, words)
        found.append(_content(tomllib.loads(whole) | {"built": one.get("built", False)}))
    return tuple(found)


def whole_demo() -> tuple[Content, ...]:
    """With the garden that can only be looked at, and the small sites."""
    garden = files("sign_shelf.demo") / "sites" / "observed" / "ostrel.toml"
    return (*all_contents(), _content(tomllib.loads(garden.read_text("utf-8"))), *cafe_contents())


def cafe_details() -> dict[str, dict[str, str]]:
    """What each of them has filled in there, by its key."""
    return {f"cinderfield-{key}": {"phone": one["phone"]} if "phone" in one else {} for key, one in _towns().items()}


def _towns() -> dict[str, dict[str, Any]]:
    folder = files("sign_shelf.demo") / "sites" / "cinderfield"
    found: dict[str, dict[str, Any]] = tomllib.loads((folder / "towns.toml").read_text("utf-8"))["towns"]
    return found


def _content(raw: dict[str, Any]) -> Content:
    template = raw["template"]
    for widths in template["devices"].values():
        widths += [None] * (2 - len(widths))
    colours = raw["palette"]
    for location in template["locations"]:
        dark = location["shape"] in {"bar", "strip", "drawer", "corner"}
        location["look"] = {
            "ground": colours["ground" if dark else "soft"],
            "text": colours["text" if dark else "ink"],
            "accent": colours["accent"],
            "accent_text": colours["accent_text"],
            **location.get("look", {}),
        }
    language = raw["languages"][0]
    pages, texts = _pages(raw["pages"]["list"], raw["pages"]["overlays"], language)
    return Content(
        key=raw["key"],
        name=raw["name"],
        zone=raw["zone"],
        languages=tuple(raw["languages"]),
        strapline=raw["strapline"],
        palette=raw["palette"],
        layout=raw["layout"],
        asks=raw.get("asks", False),
        silent=raw.get("silent", False),
        built=raw.get("built", False),
        template=read(Template, template, what=f"template of {raw['key']}"),
        menus={key: parse_outline(text, language=language) for key, text in raw["menus"].items()},
        pages=pages,
        facts=read(FactSet, {part: raw.get(part, {}) for part in ("facts", "audiences", "rules")}, what="facts"),
        policy=read(Policy, raw.get("policy", {}), what=f"policy of {raw['key']}"),
        texts=texts,
    )


def _pages(text: str, overlays: list[str], language: str) -> tuple[tuple[Page, ...], dict[str, str]]:
    pages: list[Page] = []
    texts: dict[str, str] = {}
    for line in text.strip().splitlines():
        path, title, kind, words, *parts = (piece.strip() for piece in line.split("|"))
        ref = "home" if path == "/" else slug(path)
        texts[ref] = words
        pages.append(
            Page(
                ref=ref,
                path=path,
                title={language: title},
                type=kind,
                language=language,
                under=_parent(path, pages),
                parts=tuple(parts[0].split(",")) if parts else (),
                overlays=tuple(overlays),
            )
        )
    return tuple(pages), texts


def _parent(path: str, pages: list[Page]) -> str | None:
    above = path.rpartition("/")[0]
    return next((page.ref for page in pages if above and page.path == above), None)

"""A stand-in's pages as HTML: plain, responsive, with the navigations where its template puts them."""

from collections.abc import Callable
from datetime import datetime
from html import escape
from zoneinfo import ZoneInfo

from sign_shelf.core.model.facts import Visitor
from sign_shelf.core.model.menu import DEVICES, Device
from sign_shelf.core.model.site import Page, Particulars, Placement, SiteDocument
from sign_shelf.core.model.template import Location
from sign_shelf.core.protocol.placed import PlacedMenu
from sign_shelf.core.resolve import Lens, resolve
from sign_shelf.core.resolve.resolved import Resolved
from sign_shelf.demo.stand_ins.content import Content


def site_document(content: Content, placed: dict[tuple[str, Device], PlacedMenu], base: str) -> SiteDocument:
    """The site as its own resolver needs it, with what hangs there now and what came with it."""
    facts = {name: fact for one in placed.values() for name, fact in one.facts.items()} | content.facts.facts
    ends = {page.path: page.ends for one in placed.values() for page in one.pages.values() if page.ends}
    rules = content.facts.rules | {name: rule for one in placed.values() for name, rule in one.rules.items()}
    return SiteDocument(
        format="sign-shelf/site",
        version=1,
        site=Particulars(key=content.key, name=content.name, base=base, zone=content.zone, languages=content.languages),
        template=content.template,
        facts=facts,
        rules={name: rule for name, rule in rules.items() if name not in facts},
        menus={key: menu for one in placed.values() for key, menu in one.included.items()}
        | {_own(*slot): one.menu for slot, one in placed.items()},
        placements=tuple(
            Placement(location=location, device=device, menu=_own(location, device)) for location, device in placed
        ),
        pages=tuple(page.model_copy(update={"ends": ends.get(page.path)}) for page in content.pages),
    )


def _own(location: str, device: Device) -> str:
    """A key that no menu of the shelf has."""
    return f"hangs-in-{location}-{device}"[:64]


Given = Callable[[str, Device, str], tuple[Resolved, ...]]
"""What a place gets that is asked for: by location, device and page."""


class PageWriter:
    def __init__(
        self, content: Content, document: SiteDocument, language: str, now: datetime, given: Given | None = None,
        visitor: Visitor | None = None,
    ) -> None:  # fmt: skip
        self.content = content
        self.document = document
        self.language = language
        self.given = given
        self.visitor = visitor or {}
        self.at = now.astimezone(ZoneInfo(content.zone)).strftime("%Y-%m-%dT%H:%M")

    def page(self, page: Page) -> str:
        title = self._title(page)
        places = {location.key: self._place(location, page) for location in self.content.template.locations}
        return _SHELL.format(
            language=escape(self.language),
            title=escape(title if page.ref == "home" else f"{title} – {self.content.name}"),
            type=escape("website" if page.type == "page" else page.type),
            name=escape(self.content.name),
            layout=escape(self.content.layout),
            strapline=escape(self.content.strapline),
            top=places.get("strip", "") + places.get("account", "") + places.get("basket", ""),
            header=places.get("header", ""),
            drawer=places.get("drawer", ""),
            second=places.get("second", "") + places.get("days", ""),
            side=places.get("section", "") + places.get("side", "") + places.get("branches", ""),
            footer=places.get("footer", "") + places.get("legal", ""),
            heading=escape(title),
            words=escape(self.content.texts[page.ref]),
            parts="".join(
                f'<section id="{escape(part)}"><h2>{escape(part.capitalize())}</h2></section>' for part in page.parts
            ),
            below=self._below(page),
            overlays="".join(_OVERLAY.format(key=escape(key)) for key in page.overlays),
        )

    def missing(self) -> str:
        gone = self.content.pages[0].model_copy(
            update={"ref": "home", "title": {self.language: "This page is not here"}}
        )
        return self.page(gone)

    def _title(self, page: Page) -> str:
        return next(iter(page.title.values()))

    def _below(self, page: Page) -> str:
        below = [one for one in self.content.pages if one.under == page.ref]
        cards = "".join(
            f'<li><a href="{escape(one.path)}">{escape(self._title(one))}</a><p>{escape(self.content.texts[one.ref])}</p></li>'
            for one in below
        )
        return f'<ul class="cards">{cards}</ul>' if cards else ""

    def _place(self, location: Location, page: Page) -> str:
        """The location's menu for each device that has it; one copy where all of them get the same."""
        versions: list[tuple[tuple[Resolved, ...], list[Device]]] = []
        for device in DEVICES:
            if device in location.devices:
                lens = Lens(device=device, language=self.language, at=self.at, page=page.ref, facts=self.visitor)
                own = self.given is None
                items = resolve(self.document, location.key, lens).items if own else self._asked(location, device, page)
                same = next((named for found, named in versions if found == items), None)
                if same is None:
                    versions.append((items, [device]))
                else:
                    same.append(device)
        return "".join(self._navigation(location, items, devices) for items, devices in versions if items)

    def _asked(self, location: Location, device: Device, page: Page) -> tuple[Resolved, ...]:
        assert self.given is not None
        return self.given(location.key, device, page.ref)

    def _navigation(self, location: Location, items: tuple[Resolved, ...], devices: list[Device]) -> str:
        only = " ".join(f"on-{device}" for device in devices)
        inner = self._list(items)
        names = f'class="place {location.shape} {only}" data-place="{escape(location.key)}" aria-label="{escape(location.title)}"'
        if location.shape == "drawer":
            return f'<details class="drawer-box {only}"><summary>Menu</summary><nav {names} id="drawer">{inner}</nav></details>'
        return f"<nav {names}>{inner}</nav>"

    def _list(self, items: tuple[Resolved, ...]) -> str:
        return (
            "<ul>"
            + "".join(f"<li>{self._entry(item)}{self._list(item.items) if item.items else ''}</li>" for item in items)
            + "</ul>"
        )

    def _entry(self, item: Resolved) -> str:
        if item.kind == "divider":
            return "<hr>"
        badge = ""
        if item.look.badge:
            words = item.look.badge.label.get(self.language) or next(iter(item.look.badge.label.values()))
            badge = f' <small class="badge {item.look.badge.tone}">{escape(words)}</small>'
        label = escape(item.label)
        if item.kind == "opener":
            return f'<button type="button" data-overlay="{escape(item.overlay or "")}">{label}</button>{badge}'
        if item.href is None:
            return f"<span>{label}</span>{badge}"
        current = (
            ' aria-current="page"' if item.current == "page" else ' class="branch"' if item.current == "branch" else ""
        )
        button = f' data-button="{item.look.size or "m"}"' if item.look.emphasis == "button" else ""
        tab = ' target="_blank"' if item.new_tab else ""
        rel = f' rel="{escape(" ".join(item.rel))}"' if item.rel else ""
        href = escape(item.href.removeprefix(self.document.site.base.rstrip("/")))
        return f'<a href="{href}"{current}{button}{tab}{rel}>{label}</a>{badge}'


_OVERLAY = """<dialog id="{key}"><form method="dialog"><h2>{key}</h2><p>Write to us and we will answer.</p>
<button>Close</button></form></dialog>"""

_SHELL = """<!doctype html>
<html lang="{language}">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>{title}</title>
<meta property="og:type" content="{type}">
<meta property="og:site_name" content="{name}">
<link rel="stylesheet" href="/look.css">
<script src="/overlays.js" defer></script>
</head>
<body class="{layout}">
<header class="top">
{top}
<div class="head"><a class="name" href="/">{name}</a>{header}{drawer}</div>
{second}
</header>
<div class="middle">
{side}
<main>
<h1>{heading}</h1>
<p class="lead">{words}</p>
{parts}{below}
<p class="strapline">{strapline}</p>
</main>
</div>
<footer>{footer}</footer>
{overlays}
</body>
</html>
"""

"""All menus of a site as one table (RFC 4180) and as one page for printing, with the addresses that visitors are led to."""

import csv
from collections.abc import Iterable, Iterator
from html import escape
from io import StringIO

from sign_shelf.core.basics.address import joined
from sign_shelf.core.basics.clock import said_day, said_moment
from sign_shelf.core.basics.languages import language_name
from sign_shelf.core.formats.csv import guarded
from sign_shelf.core.formats.rows import row_of
from sign_shelf.core.model.href import Addresses
from sign_shelf.core.model.menu import (
    AnyItem,
    Divider,
    Include,
    Labelled,
    Link,
    Listing,
    MenuDocument,
    Opener,
    PageTarget,
    PendingTarget,
    UrlTarget,
    children,
    walk,
)
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.model.tree import Tree, numbers
from sign_shelf.core.outline.writing import goal_text


def site_to_csv(site: SiteDocument) -> str:
    """A row an entry, menu after menu. `target` is in the outline's notation, `address` what a browser is led to: empty for
    what has none, a pattern with its facts where it follows from the visitor. `page title` is what a link without words of
    its own says. Read back, the table is the menus."""
    addresses = Addresses.of_site(site)
    first, *others = site.site.languages
    out = StringIO()
    writer = csv.writer(out)
    labels = [f"label:{tag}" for tag in others]
    heads = ["menu", "place", "path", "kind", "label", *labels, "page title", "target", "address", "settings"]
    writer.writerow(heads)
    for key, menu in sorted(site.menus.items()):
        number = numbers(menu.items)
        places = ", ".join(_places(site, key))
        for _, item in walk(menu.items):
            row = row_of(item, first, apart=True)
            words = [guarded(row.label), *(guarded(row.labels.get(tag, "")) for tag in others)]
            title = guarded(_title(item, addresses, first))
            where = [guarded(menu.name), guarded(places), number[item.id], row.kind]
            writer.writerow([*where, *words, title, row.goal, address_of(item, addresses), row.settings])
    return out.getvalue()


def address_of(item: AnyItem, addresses: Addresses) -> str:
    """The whole address, with the site's own before what is within the site."""
    if not isinstance(item, Link):
        return ""
    if isinstance(item.target, UrlTarget) and "{" in item.target.url:
        return item.target.url
    href = addresses.href(item.target) or ""
    return joined(addresses.base, href) if addresses.base and href.startswith(("/", "#")) else href


def _title(item: AnyItem, addresses: Addresses, language: str) -> str:
    """What a link without words of its own is called by: the title of its page."""
    if isinstance(item, Link) and isinstance(item.target, PageTarget) and not item.label:
        return addresses.title(item.target.page, language) or item.target.page
    return ""


def _places(site: SiteDocument, key: str) -> Iterator[str]:
    for place in site.template.locations:
        devices = [one.device for one in site.placements if one.location == place.key and one.menu == key]
        if devices:
            yield f"{place.title} ({', '.join(devices)})"


_STYLE = """
@page { margin: 16mm }
body { font: 11pt/1.45 "Atkinson Hyperlegible Next", system-ui, sans-serif; margin: 2rem auto; max-width: 52rem;
  padding: 0 1rem }
h1 { font-size: 17pt; margin: 0 } h2 { font-size: 13pt; margin: 1.6rem 0 0; break-after: avoid }
p { margin: .1rem 0 .4rem } ul { list-style: none; margin: 0; padding-inline-start: 1.6rem } nav > ul { padding: 0 }
li { break-inside: avoid-page } .n { display: inline-block; min-width: 2.6rem } .a { font-family: monospace;
  font-size: 9.5pt; overflow-wrap: anywhere } .s { font-size: 9.5pt; font-style: italic }
"""


def site_to_print(site: SiteDocument, *, day: str) -> str:
    """A whole HTML document without scripts. `day` is said on it, as whoever prints it writes days."""
    addresses = Addresses.of_site(site)
    language = site.site.languages[0]
    menus = "".join(_menu(site, key, menu, addresses) for key, menu in sorted(site.menus.items()))
    spoken = ", ".join(language_name(tag) for tag in site.site.languages)
    return (
        f'<!doctype html>\n<html lang="en"><head><meta charset="utf-8"><title>{escape(site.site.name)}: menus</title>'
        f"<style>{_STYLE}</style></head>\n<body><h1>{escape(site.site.name)}</h1>\n"
        f"<p>{escape(site.site.base)} · {escape(spoken)} · {escape(day)}</p>\n"
        f'<div lang="{escape(language)}">\n{menus}</div></body></html>\n'
    )


def _menu(site: SiteDocument, key: str, menu: MenuDocument, addresses: Addresses) -> str:
    hangs = "; ".join(_places(site, key)) or "hangs nowhere"
    number = numbers(menu.items)
    inner = _level(menu.items, number, addresses, site.site.languages)
    name = escape(menu.name)
    return f'<h2>{name}</h2><p lang="en">{escape(hangs)}</p><nav aria-label="{name}">{inner}</nav>\n'


def _level(items: Tree, number: dict[str, str], addresses: Addresses, languages: Iterable[str]) -> str:
    if not items:
        return ""
    entries = [
        f"<li>{_entry(item, number[item.id], addresses, tuple(languages))}"
        f"{_level(children(item), number, addresses, languages)}</li>\n"
        for item in items
    ]
    return f"<ul>\n{''.join(entries)}</ul>\n"


def _entry(item: AnyItem, number: str, addresses: Addresses, languages: tuple[str, ...]) -> str:
    """Number, words in each language, what it leads to, and what it says beyond."""
    words = dict(item.label) if isinstance(item, Labelled) else {}
    said = [f'<span lang="{escape(tag)}">{escape(text)}</span>' for tag, text in words.items()]
    title = _title(item, addresses, languages[0])
    pieces = [
        f'<span class="n">{number}</span>',
        " / ".join(said) or f"<b>{escape(title)}</b>" if title or said else "",
    ]
    if leads := _leads(item, addresses):
        pieces.append(f'<span class="a">{escape(leads)}</span>')
    if beyond := "; ".join(_beyond(item, languages[0])):
        pieces.append(f'<span class="s" lang="en">{escape(beyond)}</span>')
    return " ".join(piece for piece in pieces if piece)


def _beyond(item: AnyItem, language: str) -> Iterator[str]:
    """What differs from the usual, in words."""
    if isinstance(item, Link) and isinstance(item.target, PendingTarget):
        pending = item.target.pending
        yield from filter(None, (pending.note, pending.owner, pending.due and f"due {said_day(pending.due)}"))
    if item.from_ or item.until:
        yield " ".join(
            f"{word} {said_moment(at)}" for word, at in (("from", item.from_), ("until", item.until)) if at is not None
        )
    if item.when:
        yield f"only where {item.when}"
    if item.devices:
        yield f"only on {', '.join(item.devices)}"
    if isinstance(item, Labelled):
        if item.look.emphasis == "button":
            yield "a button"
        if item.look.badge:
            label = item.look.badge.label
            yield f"badge {label.get(language) or next(iter(label.values()), '')}"
    if isinstance(item, Link) and item.new_tab:
        yield "opens a new tab"


def _leads(item: AnyItem, addresses: Addresses) -> str:
    match item:
        case Divider():
            return "———"
        case Link(target=PendingTarget()):
            return "nothing yet"
        case Link():
            return address_of(item, addresses) or goal_text(item)
        case Opener() | Listing() | Include():
            return goal_text(item)
        case _:
            return ""

"""What a site is given when it asks for a menu: JSON or ready HTML, and for how long it holds."""

from datetime import datetime, timedelta
from html import escape

import rfc8785
from pydantic import JsonValue

from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.resolve.resolved import Resolved, ResolvedMenu
from sign_shelf.core.visitors.moments import Moments

LONGEST_S = 300
"""How many seconds an answer may be kept at most."""


def holds_until(moments: Moments, moment: datetime) -> datetime:
    """When the answer of now may first be another one; at most LONGEST_S ahead."""
    longest = timedelta(seconds=LONGEST_S)
    return moments.next(moment, longest) or moment + longest


def menu_json(site: SiteDocument, location: str, got: ResolvedMenu, *, device: str, language: str) -> bytes:
    """The resolved menu, canonical (RFC 8785), without what was left out: nobody learns what they may not see."""
    items: list[JsonValue] = [item_json(item) for item in got.items]
    return rfc8785.dumps(
        {
            "format": "sign-shelf/delivered-menu",
            "version": 1,
            "site": site.site.key,
            "location": location,
            "device": device,
            "language": language,
            "items": items,
        }
    )


def item_json(item: Resolved) -> dict[str, JsonValue]:
    """As `sign-shelf resolve` writes it."""
    return {
        "id": item.id,
        "kind": item.kind,
        "label": item.label,
        "href": item.href,
        **({"overlay": item.overlay} if item.overlay else {}),
        "new_tab": item.new_tab,
        "rel": list(item.rel),
        "look": item.look.to_json(),
        "current": item.current,
        "items": [item_json(below) for below in item.items],
    }


def menu_html(title: str, got: ResolvedMenu, *, language: str) -> bytes:
    """A `<nav>` with nested lists, ready to be put into a page (HTML Living Standard)."""
    return f'<nav aria-label="{escape(title)}" lang="{escape(language)}">{_list(got.items)}</nav>\n'.encode()


def _list(items: tuple[Resolved, ...]) -> str:
    return f"<ul>{''.join(map(_entry, items))}</ul>" if items else ""


def _entry(item: Resolved) -> str:
    if item.kind == "divider":
        return "<li><hr></li>"
    label = escape(item.label)
    below = _list(item.items)
    if item.kind == "opener":
        return f'<li><button type="button" data-overlay="{escape(item.overlay or "")}">{label}</button>{below}</li>'
    if item.href is None:
        return f"<li><span>{label}</span>{below}</li>"
    current = {"page": ' aria-current="page"', "branch": ' aria-current="true"', "none": ""}[item.current]
    tab = ' target="_blank"' if item.new_tab else ""
    rel = f' rel="{escape(" ".join(item.rel))}"' if item.rel else ""
    return f'<li><a href="{escape(item.href)}"{current}{tab}{rel}>{label}</a>{below}</li>'

"""What is committed to a site's repository: for each place and device its menu as JSON, as a site takes it, and as HTML, as it shows it to
a visitor of whom nothing is known."""

import json
from collections.abc import Sequence

from sign_shelf.core.model.menu import Device
from sign_shelf.core.protocol.delivery import menu_html
from sign_shelf.core.protocol.placed import PlacedMenu
from sign_shelf.core.resolve import Lens, Prepared

MOST_SENTENCES = 30


def path_of(folder: str, location: str, device: str, kind: str = "json") -> str:
    return f"{folder.strip('/')}/{location}.{device}.{kind}".lstrip("/")


def placed_file(placed: PlacedMenu) -> bytes:
    """A line a value, so that what differs between two commits is read there as well."""
    return (json.dumps(placed.to_json(), ensure_ascii=False, indent=2) + "\n").encode()


def html_file(prepared: Prepared, location: str, device: Device, at: str) -> bytes:
    """As of this moment on the site's clock, in its first language, on its home page."""
    site = prepared.site
    language = site.site.languages[0]
    home = next((page.ref for page in site.pages if page.path == "/"), None)
    got = prepared.resolve(location, Lens(device=device, language=language, at=at, page=home))
    place = site.template.location(location)
    return menu_html(place.title if place is not None else location, got, language=language) + b"\n"


def commit_message(title: str, why: str, does: Sequence[str], change: str) -> str:
    """The change's title, its reason, and what it does to the site in sentences."""
    first = " ".join(title.split())[:120]
    more = [f"- {one}" for one in does[:MOST_SENTENCES]]
    if len(does) > MOST_SENTENCES:
        more.append(f"- and {len(does) - MOST_SENTENCES} more")
    parts = [first, *([why.strip()] if why.strip() else []), *(["\n".join(more)] if more else []), f"Change: {change}"]
    return "\n\n".join(parts)

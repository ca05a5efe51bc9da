"""A menu document in the format that was asked for."""

import json
from dataclasses import dataclass
from typing import Literal, get_args

from sign_shelf.core.formats import jsonld, linkset
from sign_shelf.core.formats.csv import menu_to_csv
from sign_shelf.core.formats.html import menu_to_html
from sign_shelf.core.formats.opml import menu_to_opml
from sign_shelf.core.model import menu
from sign_shelf.core.model.menu import MenuDocument
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.outline import format_outline

Writable = Literal["json", "outline", "html", "opml", "csv", "linkset", "jsonld"]
WRITABLE: tuple[Writable, ...] = get_args(Writable)


@dataclass(frozen=True)
class Written:
    text: str
    media_type: str
    suffix: str


def write_menu(
    document: MenuDocument, to: Writable, *, language: str = "en", site: SiteDocument | None = None
) -> Written:
    """Page targets get their addresses from `site`. The text ends with a newline."""
    match to:
        case "json":
            return Written(_json(document.to_json()), menu.MEDIA_TYPE, "json")
        case "outline":
            return Written(format_outline(document, language=language), "text/plain; charset=utf-8", "txt")
        case "html":
            return Written(menu_to_html(document, language=language, site=site), "text/html; charset=utf-8", "html")
        case "opml":
            return Written(menu_to_opml(document, language=language, site=site), "text/x-opml; charset=utf-8", "opml")
        case "csv":
            return Written(menu_to_csv(document, language=language), "text/csv; charset=utf-8", "csv")
        case "linkset":
            found = linkset.menu_to_linkset(document, language=language, site=site)
            return Written(_json(found), linkset.MEDIA_TYPE, "linkset.json")
        case "jsonld":
            return Written(
                # It is written into pages as the inside of a script, which "</script" would end.
                _json(jsonld.menu_to_jsonld(document, language=language, site=site)).replace("</", "<\\/"),
                jsonld.MEDIA_TYPE,
                "jsonld",
            )


def _json(value: object) -> str:
    return json.dumps(value, ensure_ascii=False, indent=2) + "\n"

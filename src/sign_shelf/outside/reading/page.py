"""What one HTML page says of itself: title, language, type, parts, overlays, and where it leads."""

from dataclasses import dataclass, field

from pydantic import TypeAdapter, ValidationError
from selectolax.lexbor import LexborHTMLParser

from sign_shelf.core.basics.text import Language, Part, Token
from sign_shelf.core.formats.html_tree import attribute, parse, tidy_words, words_of
from sign_shelf.core.formats.navigation import FoundNavigation, find_navigations

_LANGUAGE: TypeAdapter[str] = TypeAdapter(Language)
_PART: TypeAdapter[str] = TypeAdapter(Part)
_TOKEN: TypeAdapter[str] = TypeAdapter(Token)
MAX_PARTS = 200
MAX_LINKS = 2_000
LONGEST_LINK = 2_000


@dataclass(frozen=True)
class ReadPage:
    url: str
    title: str
    site_name: str
    language: str | None
    type: str
    parts: tuple[str, ...]
    overlays: tuple[str, ...]
    links: tuple[str, ...] = field(repr=False)
    """The `href` of every link, as written; the first 2 000, and none longer than that many characters."""


def open_page(url: str, body: bytes, *, navigations: bool = False) -> tuple[ReadPage, list[FoundNavigation]]:
    """What the page says of itself, and its navigations where they are asked for. Raises SourceRefused."""
    tree = parse(body, url)
    return read_page(url, tree), find_navigations(tree) if navigations else []


def fits(kind: TypeAdapter[str], text: str) -> bool:
    try:
        kind.validate_python(text)
    except ValidationError:
        return False
    return True


def read_page(url: str, tree: LexborHTMLParser) -> ReadPage:
    title = tree.css_first("title")
    html = tree.css_first("html")
    language = attribute(html, "lang").split("-")[0].lower() if html else ""
    kind = _meta(tree, "og:type")
    ids = (attribute(node, "id") for node in tree.css("h1[id], h2[id], h3[id], h4[id], section[id], article[id]"))
    overlays = (attribute(node, "id") for node in tree.css("dialog[id], [role=dialog][id]"))
    return ReadPage(
        url=url,
        title=words_of(title) if title else "",
        site_name=tidy_words(_meta(tree, "og:site_name")),
        language=language if fits(_LANGUAGE, language) else None,
        type=kind.lower() if kind and kind != "website" and fits(_TOKEN, kind) else "page",
        parts=tuple(dict.fromkeys(part for part in ids if fits(_PART, part)))[:MAX_PARTS],
        overlays=tuple(dict.fromkeys(key for key in overlays if fits(_PART, key)))[:MAX_PARTS],
        links=_links(tree),
    )


def _links(tree: LexborHTMLParser) -> tuple[str, ...]:
    found = dict.fromkeys(href for node in tree.css("a[href]") if len(href := attribute(node, "href")) <= LONGEST_LINK)
    return tuple(found)[:MAX_LINKS]


def _meta(tree: LexborHTMLParser, name: str) -> str:
    """An Open Graph property (ogp.me) of the page; empty where it has none."""
    return next((attribute(meta, "content") for meta in tree.css(f'meta[property="{name}"]')), "")

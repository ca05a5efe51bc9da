"""What one HTML page says of itself: title, language, type, parts, overlays, and where it leads."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from hashlib import sha256

from pydantic import TypeAdapter, ValidationError
from selectolax.lexbor import LexborHTMLParser

from sign_shelf.core.basics.address import normal
from sign_shelf.core.basics.text import Language, Part, Token
from sign_shelf.core.formats.html_tree import attribute, parse, tidy_words, words_of
from sign_shelf.core.formats.navigation import FoundNavigation, find_navigations
from sign_shelf.core.inventory import SeenPage

_LANGUAGE: TypeAdapter[str] = TypeAdapter(Language)
_PART: TypeAdapter[str] = TypeAdapter(Part)
_TOKEN: TypeAdapter[str] = TypeAdapter(Token)
MAX_PARTS = 200
MAX_LINKS = 2_000
MAX_ALTERNATES = 200
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
    noindex: bool = False
    alternates: Mapping[str, str] = field(default_factory=dict)
    """By language, the address of its version in it (`hreflang`), as an absolute address."""
    content: str = ""
    """Names its text without what stands on every page."""

    def seen(self) -> SeenPage:
        return SeenPage(
            title=self.title, type=self.type, language=self.language, noindex=self.noindex, parts=self.parts,
            overlays=self.overlays, content=self.content, alternates=self.alternates,
        )  # fmt: skip


def open_page(url: str, body: bytes, *, navigations: bool = False) -> tuple[ReadPage, list[FoundNavigation]]:
    """What the page says of itself, and its navigations where they are asked for. Raises SourceRefused."""
    tree = parse(body, url)
    found = find_navigations(tree) if navigations else []
    return read_page(url, tree), found


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
        noindex=any(
            {"noindex", "none"} & {word.strip().lower() for word in attribute(meta, "content").split(",")}
            for meta in tree.css('meta[name="robots" i], meta[name="googlebot" i]')
        ),
        alternates=_alternates(url, tree),
        content=_content(tree),
    )


def _alternates(url: str, tree: LexborHTMLParser) -> dict[str, str]:
    found: dict[str, str] = {}
    for link in tree.css('link[rel~="alternate"][hreflang]')[:MAX_ALTERNATES]:
        language = attribute(link, "hreflang").split("-")[0].lower()
        goal = normal(attribute(link, "href"), url)
        if goal is not None and len(goal) <= LONGEST_LINK and fits(_LANGUAGE, language):
            found.setdefault(language, goal)
    return found


def _content(tree: LexborHTMLParser) -> str:
    """Of its `main`, or of its body; empty where that holds no words. Read last: what stands on every page is taken out."""
    for node in tree.css("nav, header, footer, aside, dialog, script, style, template"):
        node.decompose()
    text = tree.css_first("main, [role=main]") or tree.body
    words = " ".join(text.text(deep=True, separator=" ").split()) if text is not None else ""
    return sha256(words.encode("utf-8", "replace")).hexdigest()[:24] if words else ""


def _links(tree: LexborHTMLParser) -> tuple[str, ...]:
    found = dict.fromkeys(href for node in tree.css("a[href]") if len(href := attribute(node, "href")) <= LONGEST_LINK)
    return tuple(found)[:MAX_LINKS]


def _meta(tree: LexborHTMLParser, name: str) -> str:
    """An Open Graph property (ogp.me) of the page; empty where it has none."""
    return next((attribute(meta, "content") for meta in tree.css(f'meta[property="{name}"]')), "")

"""A menu as OPML 2.0 (opml.org/spec2): `<outline>` elements nested as the entries are.

What OPML has no attribute for stands in a namespace of our own, as its specification allows, in the outline's notation.
"""

import re
from collections.abc import Mapping
from xml.etree.ElementTree import Element, ParseError, SubElement, indent, register_namespace, tostring

from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import DefusedXMLParser

from sign_shelf.core.errors import InvalidDocument, Problem
from sign_shelf.core.formats.binding import Binder
from sign_shelf.core.formats.html_tree import tidy_words
from sign_shelf.core.formats.incoming import IncomingMenu
from sign_shelf.core.formats.rows import Row, items_of, row_of
from sign_shelf.core.model.href import Addresses
from sign_shelf.core.model.menu import MAX_DEPTH, MAX_ITEMS, AnyItem, Link, MenuDocument, children, menu_document
from sign_shelf.core.model.site import SiteDocument

MAX_NESTING = 100
MOST_NOTES = 500
NAMESPACE = "https://sign-shelf.example/ns/opml"
_OURS = f"{{{NAMESPACE}}}"
_KNOWN = {"text", "title", "type", "url", "htmlUrl", "xmlUrl", "isComment", "isBreakpoint", "created", "category"} | {
    "description", "language", "version", f"{_OURS}kind", f"{_OURS}goal", f"{_OURS}settings",
}  # fmt: skip
#: XML 1.0 cannot hold these; labels never do, as documents refuse control characters.
_NOT_XML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]")
register_namespace("shelf", NAMESPACE)


def menu_to_opml(document: MenuDocument, *, language: str = "en", site: SiteDocument | None = None) -> str:
    addresses = Addresses.of_site(site)
    root = Element("opml", {"version": "2.0"})
    SubElement(SubElement(root, "head"), "title").text = _NOT_XML.sub("", document.name)
    body = SubElement(root, "body")

    def write(items: tuple[AnyItem, ...], parent: Element) -> None:
        for item in items:
            row = row_of(item, language, apart=False)
            attributes = {"text": row.label}
            href = addresses.href(item.target) if isinstance(item, Link) else None
            if href is not None:
                attributes |= {"type": "link", "url": href}
            attributes |= {f"{_OURS}kind": row.kind}
            attributes |= {f"{_OURS}goal": row.goal} if row.goal != href and row.goal else {}
            attributes |= {f"{_OURS}settings": row.settings} if row.settings else {}
            write(
                children(item), SubElement(parent, "outline", {k: _NOT_XML.sub("", v) for k, v in attributes.items()})
            )

    write(document.items, body)
    indent(root)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + tostring(root, encoding="unicode") + "\n"


def opml_to_menu(data: bytes, *, binder: Binder, name: str = "Menu") -> IncomingMenu:
    """Raises InvalidDocument for what is no well-formed XML or no OPML, and for entities, too many levels or items."""
    target = _Outlines()
    parser = DefusedXMLParser(target=target, forbid_dtd=False, forbid_entities=True, forbid_external=True)
    try:
        parser.feed(data)
        parser.close()
    except DefusedXmlException as exc:
        says = "declares entities, which are not read: they can be made to grow without end"
        raise InvalidDocument([Problem(where="OPML", says=says)]) from exc
    except ParseError as exc:
        line, column = exc.position
        says = f"is not well-formed XML: {str(exc).partition(':')[0]}"
        raise InvalidDocument([Problem(where=f"line {line}, column {column + 1}", says=says)]) from exc
    except (LookupError, ValueError) as exc:
        raise InvalidDocument([Problem(where="OPML", says=f"cannot be decoded: {exc}")]) from exc
    if not target.is_opml:
        raise InvalidDocument([Problem(where="OPML", says="has no <opml> element at its root")])
    items, more = items_of(target.tops, binder=binder)
    title = tidy_words(target.title) or name
    return IncomingMenu(title, None, menu_document(title, items), (*target.notes, *more))


class _Outlines:
    """Takes the parser's events; nesting is told from them, so that no tree of elements is built."""

    def __init__(self) -> None:
        self.is_opml = False
        self.title = ""
        self.tops: list[Row] = []
        self.notes: list[Problem] = []
        self._depth = 0
        self._in_head = False
        self._rows: list[Row | None] = []
        self._count = 0
        self._in_title = False

    def start(self, tag: str, attributes: Mapping[str, str]) -> None:
        self._depth += 1
        if self._depth > MAX_NESTING:
            says = f"nests its elements more than {MAX_NESTING} deep"
            raise InvalidDocument([Problem(where=self._where(), says=says)])
        if self._depth == 1:
            self.is_opml = tag.casefold() == "opml"
        self._in_head = tag == "head" if self._depth == 2 else self._in_head
        self._in_title = self._depth == 3 and self._in_head and tag == "title"
        if tag != "outline":
            if self._rows:
                self._note(f"<{tag[:40]}> is no outline; left out")
            return
        if len(self._rows) >= MAX_DEPTH:
            says = f"more than {MAX_DEPTH} levels deep, which is as many as a menu has"
            raise InvalidDocument([Problem(where=self._where(), says=says)])
        self._count += 1
        if self._count > MAX_ITEMS:
            raise InvalidDocument([Problem(where=self._where(), says=f"a menu has at most {MAX_ITEMS} items")])
        row = self._row(attributes)
        if row is not None:
            above = next((one for one in reversed(self._rows) if one is not None), None)
            (above.below if above else self.tops).append(row)
        self._rows.append(row)

    def end(self, tag: str) -> None:
        self._depth -= 1
        self._in_title = False
        if tag == "outline":
            self._rows.pop()

    def data(self, words: str) -> None:
        if self._in_title and len(self.title) < 2_000:
            self.title += words

    def close(self) -> None:
        """The document ended."""

    def _note(self, says: str) -> None:
        if len(self.notes) < MOST_NOTES:
            self.notes.append(Problem(where=self._where(), says=says))

    def _where(self) -> str:
        return f"outline {self._count}"

    def _row(self, attributes: Mapping[str, str]) -> Row | None:
        ours = f"{_OURS}kind" in attributes
        # Attribute names are matched without case where a file of the first version writes them otherwise.
        has = {key if key in _KNOWN else key.casefold(): value for key, value in attributes.items()}
        words = has.get("text") or has.get("title") or ""
        if not ours:
            # Foreign text may carry HTML markup (OPML 2.0, "text attribute"); a label is text alone.
            words = tidy_words(re.sub(r"<[^<>]{0,500}>", " ", words)) if "<" in words else tidy_words(words)
        if has.get("isComment") == "true" or has.get("iscomment") == "true":
            self._note(f'is a comment: "{words[:60]}"; left out')
            return None
        address = has.get("url") or has.get("htmlUrl") or has.get("htmlurl") or has.get("xmlUrl") or has.get("xmlurl")
        if has.get("type") == "include":
            self._note("includes another file; read as a link to it")
        strange = sorted(key for key in attributes if key not in _KNOWN and key.casefold() not in _KNOWN_FOLDED)
        if strange:
            self._note(f"{', '.join(key.rpartition('}')[2][:40] for key in strange[:5])} is not understood; left out")
        goal = has.get(f"{_OURS}goal") or address or ""
        if not words and not ours:
            words = re.sub(r"^https?://|/$", "", goal)[:500] or "---"
        kind = has.get(f"{_OURS}kind", "")
        return Row(self._where(), kind, words, {}, goal, has.get(f"{_OURS}settings", ""))


_KNOWN_FOLDED = {name.casefold() for name in _KNOWN}

"""The navigations of a page: landmarks and lists of links, as trees of entries.

Landmarks follow WAI-ARIA and the HTML standard's mapping: `nav` and `role=navigation`, `header`/banner,
`footer`/contentinfo, `aside`/complementary. Where a page has no landmarks, ids and classes that say the same in
plain words are taken as a hint.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Literal

from selectolax.lexbor import LexborHTMLParser, LexborNode

from sign_shelf.core.errors import SourceRefused
from sign_shelf.core.formats.html_tree import attribute, tidy_words, words_of
from sign_shelf.core.model.menu import MAX_DEPTH, MAX_ITEMS

Where = Literal["header", "footer", "aside", "drawer", "main", "body"]

_LISTS = {"ul", "ol", "menu"}
_HEADINGS = {"h1", "h2", "h3", "h4", "h5", "h6", "summary", "dt"}
_SILENT = {"script", "style", "template", "noscript", "svg", "form", "select", "iframe", "input", "textarea"}
_LANDMARKS: dict[str, Where] = {
    "header": "header",
    "banner": "header",
    "footer": "footer",
    "contentinfo": "footer",
    "aside": "aside",
    "complementary": "aside",
    "main": "main",
}
_HINTS: list[tuple[re.Pattern[str], Where]] = [
    (re.compile(r"drawer|offcanvas|mobile"), "drawer"),
    (re.compile(r"footer|colophon|legal|imprint|bottom"), "footer"),
    (re.compile(r"sidebar|aside|toc|localnav"), "aside"),
    (re.compile(r"header|masthead|banner|topbar|navbar|related"), "header"),
]
_MAX_DOM_DEPTH = 120
_MAX_ENTRIES = 5_000
_MAX_MENUS = 24
_MAX_BODY_LISTS = 4
_PROSE = {"p", "dd"}


@dataclass(frozen=True)
class Kept:
    """What our own HTML says beyond HTML: goal and settings in the notation of the outline, the exact label and its
    language, and whether the words are the page's title and no label of the item's own."""

    goal: str = ""
    settings: str = ""
    label: str | None = None
    language: str = ""
    titled: bool = False


@dataclass
class Entry:
    """One entry as found. `href` None is text without an address; `overlay` an element that the entry opens."""

    label: str
    href: str | None = None
    overlay: str | None = None
    divider: bool = False
    new_tab: bool = False
    rel: tuple[str, ...] = ()
    kept: Kept | None = None
    items: list["Entry"] = field(default_factory=list)


@dataclass(frozen=True)
class FoundNavigation:
    where: Where
    selector: str
    title: str
    entries: list[Entry]


def find_navigations(tree: LexborHTMLParser, *, strict: bool = False) -> list[FoundNavigation]:
    """In document order, without those that are empty. At most 24.

    Each is read to its 5 000th entry; `strict` reads on to what a menu may have, and refuses what goes beyond.
    """
    roots = outermost(tree.css("nav, [role=navigation]"))
    taken = {root.mem_id for root in roots}
    regions = tree.css(
        "header, footer, aside, [role=banner], [role=contentinfo], [role=complementary], "
        "#header, #footer, #sidebar, .header, .footer, .sidebar"
    )
    for region in outermost(regions):
        outer = [found for found in _outermost_linking(region.css("ul, ol"), 2) if not _inside(found, taken)]
        # Several lists side by side are one menu, such as the columns of a footer with their headings.
        together = len(outer) > 1 and region.css_first("nav, [role=navigation]") is None
        roots += [region] if together else outer
    if not roots:
        body = _outermost_linking(tree.css("ul, ol, dl, table, p"), 5)
        roots = sorted(body, key=lambda found: -len(found.css("a[href]")))[:_MAX_BODY_LISTS]
    wanted = {root.mem_id for root in roots}
    found = []
    for root in _unique([node for node in tree.css("*") if node.mem_id in wanted])[:_MAX_MENUS]:
        entries = _Reader(strict=strict).block(root)
        if any(_leads(entry) for entry in entries):
            found.append(FoundNavigation(_where(root), selector_of(root), _title(root), entries))
    return found


def _unique(nodes: list[LexborNode]) -> list[LexborNode]:
    return list({node.mem_id: node for node in nodes}.values())


def _ancestors(node: LexborNode) -> Iterator[LexborNode]:
    at = node.parent
    while at is not None:
        yield at
        at = at.parent


def _inside(node: LexborNode, roots: set[int]) -> bool:
    return any(above.mem_id in roots for above in _ancestors(node))


def outermost(nodes: list[LexborNode]) -> list[LexborNode]:
    known = {node.mem_id for node in nodes}
    return [node for node in _unique(nodes) if not _inside(node, known)]


def _outermost_linking(nodes: list[LexborNode], links: int) -> list[LexborNode]:
    """Of these, in document order, the outermost that have so many links. What lies within one is not looked at, so
    that lists within lists cost no more than one."""
    found: list[LexborNode] = []
    taken: set[int] = set()
    for node in _unique(nodes):
        if not _inside(node, taken) and len(node.css("a[href]")) >= links:
            found.append(node)
            taken.add(node.mem_id)
    return found


def _leads(entry: Entry) -> bool:
    return entry.href is not None or entry.overlay is not None or any(_leads(below) for below in entry.items)


def _landmark(node: LexborNode) -> Where | None:
    role = attribute(node, "role")
    return _LANDMARKS.get(role) or (_LANDMARKS.get(node.tag or "") if not role else None)


def _hint(node: LexborNode) -> Where | None:
    names = f"{attribute(node, 'id')} {attribute(node, 'class')}".lower()
    return next((where for pattern, where in _HINTS if names.strip() and pattern.search(names)), None)


def _where(root: LexborNode) -> Where:
    if (own := _hint(root)) == "drawer":
        return own
    above = list(_ancestors(root))
    for node in [root, *above]:
        if found := _landmark(node):
            return found
    for node in [root, *above]:
        if node.tag not in {"body", "html"} and (found := _hint(node)):
            return found
    return "body"


def _title(root: LexborNode) -> str:
    """Its accessible name, or the heading that stands before it in the page's text."""
    if name := tidy_words(attribute(root, "aria-label")):
        return name
    if _landmark(root) or any(_landmark(above) not in {None, "main"} for above in _ancestors(root)):
        return ""
    at: LexborNode | None = root
    while at is not None and at.tag not in {"body", "html"}:
        before = at.prev
        while before is not None:
            if before.tag in {"h1", "h2", "h3", "h4", "h5", "h6"}:
                return words_of(before)[:80]
            before = before.prev
        at = at.parent
    return ""


def selector_of(node: LexborNode) -> str:
    """A CSS selector that finds the node again: from the nearest id, by tag and position."""
    steps: list[str] = []
    at: LexborNode | None = node
    while at is not None and at.tag not in {None, "html", "-undef", "-document"}:
        own_id = attribute(at, "id")
        if re.fullmatch(r"[A-Za-z][\w-]*", own_id):
            steps.append(f"#{own_id}")
            break
        siblings = [one for one in at.parent.iter() if one.tag == at.tag] if at.parent else [at]
        position = next((n for n, one in enumerate(siblings, start=1) if one.mem_id == at.mem_id), 1)
        steps.append(f"{at.tag}:nth-of-type({position})" if len(siblings) > 1 else f"{at.tag}")
        at = at.parent
    return " > ".join(reversed(steps))


def entries_of(root: LexborNode) -> list[Entry]:
    """The entries of a list, or of anything that holds lists and links."""
    return _Reader(strict=True).block(root)


class _Reader:
    """Reads one navigation. Depth and count are limited, so that no page can make it run on."""

    def __init__(self, *, strict: bool) -> None:
        self.strict = strict
        self.left = MAX_ITEMS if strict else _MAX_ENTRIES

    def block(self, node: LexborNode, depth: int = 0, level: int = 1) -> list[Entry]:
        """Entries of anything that is no list: lists below it, links, and headings over what follows them."""
        found: list[Entry] = []
        heading: Entry | None = None
        headings: list[Entry] = []
        if node.tag in _LISTS:
            return self.rows(node, depth, level)
        if depth > _MAX_DOM_DEPTH or level > MAX_DEPTH:
            return found
        for child in node.iter(include_text=False):
            tag = child.tag or ""
            if tag in _SILENT or (tag in _PROSE and _is_prose(child)):
                continue
            if tag in _HEADINGS:
                heading = self._entry(child)
                if heading:
                    found.append(heading)
                    headings.append(heading)
                continue
            below = [self._entry(child)] if tag in {"a", "button", "hr"} else self.block(child, depth + 1, level)
            entries = [entry for entry in below if entry]
            if heading and tag not in {"a", "button", "hr"}:
                heading.items += entries
            else:
                found += entries
        return [entry for entry in found if entry.href or entry.items or not any(entry is one for one in headings)]

    def rows(self, node: LexborNode, depth: int, level: int) -> list[Entry]:
        found: list[Entry] = []
        if depth > _MAX_DOM_DEPTH or level > MAX_DEPTH:
            return found
        for row in node.iter(include_text=False):
            if row.tag == "li":
                found += self._row(row, depth + 1, level)
            elif row.tag not in _SILENT:
                found += self.block(row, depth + 1, level)
        return found

    def _row(self, row: LexborNode, depth: int, level: int) -> list[Entry]:
        own: list[Entry] = []
        below: list[Entry] = []
        loose: list[str] = []
        stack = [(child, 0) for child in reversed(list(row.iter(include_text=True)))]
        while stack:
            child, deep = stack.pop()
            tag = child.tag or ""
            if tag in _LISTS or tag in {"nav", "dl"}:
                below += self.block(child, depth + deep + 1, level + 1)
            elif tag in {"a", "button", "hr"} or _is_ours(child):
                entry = self._entry(child)
                own += [entry] if entry else []
            elif tag == "-text":
                loose.append(child.text(deep=False) or "")
            elif tag not in _SILENT and deep < _MAX_DOM_DEPTH:
                stack += [(inner, deep + 1) for inner in reversed(list(child.iter(include_text=True)))]
        if attribute(row, "role") == "separator" and not own and not below:
            return [Entry("", divider=True)]
        if not own:
            words = tidy_words(" ".join(loose))
            if not words:
                return below
            own = [Entry(words)]
        own[0].items += below
        return own

    def _entry(self, node: LexborNode) -> Entry | None:
        if self.left <= 0 and not self.strict:
            return None
        if self.left <= 0:
            raise SourceRefused(f"The navigation has more than {MAX_ITEMS} entries.", where="the page")
        self.left -= 1
        if node.tag == "hr":
            return Entry("", divider=True, kept=_kept(node))
        link = node if node.tag == "a" else node.css_first("a[href]")
        label = words_of(node) or tidy_words(attribute(node, "aria-label") or attribute(node, "title")) or _alt(node)
        if node.tag == "button":
            opens = attribute(node, "data-overlay") or (
                attribute(node, "aria-controls") if attribute(node, "aria-haspopup") == "dialog" else ""
            )
            return Entry(label, overlay=opens, kept=_kept(node)) if opens and label else None
        if link is not None and "href" in link.attributes:
            rel = tuple(attribute(link, "rel").lower().split())
            new_tab = attribute(link, "target") == "_blank"
            href = attribute(link, "href")
            return Entry(label, href=href, new_tab=new_tab, rel=rel, kept=_kept(link)) if label else None
        kept = _kept(node)
        return Entry(label, kept=kept) if label or (kept and kept.goal) else None


def _kept(node: LexborNode) -> Kept | None:
    has = node.attributes
    kept = Kept(
        goal=has.get("data-goal") or "",
        settings=has.get("data-settings") or "",
        label=has.get("data-label"),
        language=attribute(node, "lang"),
        titled="data-titled" in has,
    )
    return kept if kept != Kept() else None


def _is_ours(node: LexborNode) -> bool:
    """Whether a span is an entry of a menu that was written by us, with what it is in its attributes."""
    return node.tag == "span" and not node.attributes.keys().isdisjoint({"data-goal", "data-settings", "data-label"})


def _is_prose(node: LexborNode) -> bool:
    """Whether links are only words within sentences here."""
    if node.css_first("ul, ol") is not None:
        return False
    linked = sum(len(words_of(link)) for link in node.css("a"))
    return linked * 2 < len(words_of(node))


def _alt(node: LexborNode) -> str:
    image = node.css_first("img[alt]")
    return tidy_words(attribute(image, "alt")) if image else ""

"""A menu document as HTML: one `<nav>` with nested lists (HTML Living Standard).

What HTML has no words for stands in `data-` attributes, in the notation of the outline, so that reading it back loses
nothing.
"""

from html import escape

from sign_shelf.core.formats.binding import NOWHERE, Binder
from sign_shelf.core.formats.html_tree import tidy_words
from sign_shelf.core.model.href import Addresses
from sign_shelf.core.model.menu import (
    AnyItem,
    Divider,
    Heading,
    Include,
    Labelled,
    Link,
    Listing,
    MenuDocument,
    Opener,
    PageTarget,
    children,
)
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.model.tree import Tree
from sign_shelf.core.outline.writing import goal_text, settings_text, target_text


def menu_to_html(document: MenuDocument, *, language: str = "en", site: SiteDocument | None = None) -> str:
    """The whole tree, whoever may see it. Page targets get their addresses from `site`; without it, or where the
    page is unknown, the link has no address. Listings and includes are named, not filled."""
    pages = site.pages if site else ()
    base = site.site.base if site else ""
    inner = _Writer(language, Addresses.of(base, pages), Binder(pages, base or NOWHERE, language))
    return f'<nav aria-label="{escape(document.name)}">\n{inner.level(document.items, 1)}</nav>\n'


class _Writer:
    def __init__(self, language: str, addresses: Addresses, reading: Binder) -> None:
        self.language = language
        self.addresses = addresses
        self.reading = reading

    def level(self, items: Tree, depth: int) -> str:
        if not items:
            return ""
        pad = "  " * (2 * depth - 1)
        entries = "".join(f"{pad}  <li>{self._entry(item, depth)}</li>\n" for item in items)
        return f"{pad}<ul>\n{entries}{pad}</ul>\n"

    def _entry(self, item: AnyItem, depth: int) -> str:
        below = self.level(children(item), depth + 1)
        inner = self._own(item)
        return f"{inner}\n{below}{'  ' * (2 * depth)}" if below else inner

    def _own(self, item: AnyItem) -> str:
        match item:
            case Divider():
                return f"<hr{self._settings(item)}>"
            case Include(menu=menu):
                return f'<span data-goal="+ {escape(menu)}"{self._settings(item)}></span>'
            case Heading():
                return self._words("span", "", item)
            case Listing():
                return self._words("span", f' data-goal="{escape(goal_text(item))}"', item)
            case Opener(target=target):
                return self._words("button", f' type="button" data-overlay="{escape(target.overlay)}"', item)
            case Link():
                return self._link(item)

    def _link(self, item: Link) -> str:
        href = self.addresses.href(item.target)
        goal = f' data-goal="{escape(goal_text(item))}"'
        if href is None:
            return self._words("a", goal, item)
        said = {"new tab"}
        attributes = f' href="{escape(href)}"' + (' target="_blank"' if item.new_tab else "")
        if item.rel:
            attributes += f' rel="{escape(" ".join(item.rel))}"'
            said |= {"rel"} if all(word == word.lower() for word in item.rel) else set()
        reads_back = self.reading.target(href) == item.target.to_json()
        return self._words("a", attributes + ("" if reads_back else goal), item, said=frozenset(said))

    def _words(self, tag: str, attributes: str, item: Labelled, said: frozenset[str] = frozenset()) -> str:
        spoken = self.language if self.language in item.label or not item.label else next(iter(item.label))
        text = item.label.get(spoken, "")
        marked = f' lang="{escape(spoken)}"' if spoken != self.language else ""
        # A span is read as an entry of its own only where an attribute of ours says so.
        if text and (tidy_words(text) != text or (tag == "span" and marked)):
            marked += f' data-label="{escape(text)}"'
        if not text and isinstance(item, Link):
            marked = " data-titled"
            ref = item.target.page if isinstance(item.target, PageTarget) else ""
            text = self.addresses.title(ref, self.language) or target_text(item.target)
        return f"<{tag}{attributes}{marked}{self._settings(item, said | {spoken})}>{escape(text)}</{tag}>"

    def _settings(self, item: AnyItem, said: frozenset[str] = frozenset()) -> str:
        settings = settings_text(item, self.language, without=said)
        return f' data-settings="{escape(settings)}"' if settings else ""

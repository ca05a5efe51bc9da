"""Entries that have words and no address: the pages of the site whose titles those are, or nearly are."""

import re
import unicodedata
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from difflib import SequenceMatcher

from sign_shelf.core.model.menu import AnyItem, Heading, Link, MenuDocument, PendingTarget, walk
from sign_shelf.core.model.site import Page

_NEAR = 0.82
"""How alike two titles are, by difflib's ratio, that may be the same with a slip or a word more."""
_OFFERED = 5
_LOOKED_AT = 40
_NEARLY = 300
"""Entries for which titles that are only alike are looked for: nobody looks through more of them."""
_BEHIND = re.compile(r"\s+[|–—·»-]\s+[^|–—·»]+$")


@dataclass(frozen=True)
class TitleMatch:
    """`pages` are the best first. `sure`: there is one, of exactly that title, and the entry is a link."""

    item: str
    pages: tuple[Page, ...]
    sure: bool


@dataclass(frozen=True)
class MatchedTitles:
    asked: int
    """Entries with words and no address."""
    matches: tuple[TitleMatch, ...]


def match_titles(document: MenuDocument, pages: Iterable[Page]) -> MatchedTitles:
    """Links that lead nowhere yet, and headings, which may be pages as well but are never taken for one unasked."""
    known = _Titles(pages)
    asked = nearly = 0
    found = []
    for item in _without_address(document):
        words = tuple(item.label.values())
        exact = tuple(dict.fromkeys(ref for text in words for ref in known.of(text)))
        near: tuple[str, ...] = ()
        if not exact and isinstance(item, Link) and nearly < _NEARLY:
            nearly += 1
            near = tuple(dict.fromkeys(ref for text in words for ref in known.near(text)))
        asked += isinstance(item, Link) or bool(exact)
        if exact or near:
            sure = len(exact) == 1 and isinstance(item, Link)
            called = tuple(known.pages[ref] for ref in (exact or near)[:_OFFERED])
            found.append(TitleMatch(item.id, called, sure))
    return MatchedTitles(asked, tuple(found))


def _without_address(document: MenuDocument) -> Iterator[Link | Heading]:
    for _, item in walk(document.items):
        if (isinstance(item, Heading) and item.label) or (isinstance(item, Link) and item.label and _waits(item)):
            yield item


def _waits(item: AnyItem) -> bool:
    """Whether its target is open and nothing is noted of it: a note says what is awaited."""
    if not isinstance(item, Link) or not isinstance(item.target, PendingTarget):
        return False
    pending = item.target.pending
    return not (pending.note or pending.owner or pending.due)


class _Titles:
    def __init__(self, pages: Iterable[Page]) -> None:
        self.pages: dict[str, Page] = {}
        self.exact: dict[str, list[str]] = defaultdict(list)
        self.with_word: dict[str, list[str]] = defaultdict(list)
        for page in pages:
            if page.state != "published":
                continue
            self.pages[page.ref] = page
            for title in page.title.values():
                for plain in {plain_title(title), plain_title(_BEHIND.sub("", title))}:
                    if plain and page.ref not in self.exact[plain]:
                        self.exact[plain].append(page.ref)
        for plain in [*self.exact]:
            for word in _stems(plain):
                self.with_word[word].append(plain)

    def of(self, label: str) -> list[str]:
        return self.exact.get(plain_title(label), [])

    def near(self, label: str) -> list[str]:
        plain = plain_title(label)
        shared = Counter(title for word in _stems(plain) for title in self.with_word.get(word, ()))
        scored = [(_likeness(plain, title), title) for title, _ in shared.most_common(_LOOKED_AT)]
        likely = sorted((one for one in scored if one[0] >= _NEAR), key=lambda one: (-one[0], one[1]))
        return [ref for _, title in likely for ref in self.exact[title]]


def _likeness(one: str, other: str) -> float:
    words, others = set(one.split()), set(other.split())
    if words and (words <= others or others <= words) and len(words & others) * 2 >= max(len(words), len(others)):
        return 0.9
    return SequenceMatcher(None, one, other, autojunk=False).ratio()


def _stems(plain: str) -> set[str]:
    """The beginnings of its words: slips are seldom there."""
    return {word[:3] for word in plain.split()}


def plain_title(text: str) -> str:
    """Its letters and digits in lower case without accents, a space between words; "&" is "and"."""
    whole = unicodedata.normalize("NFKD", text.casefold().replace("&", " and "))
    kept = "".join(sign if sign.isalnum() else "" if unicodedata.combining(sign) else " " for sign in whole)
    return " ".join(kept.replace("'", "").split())

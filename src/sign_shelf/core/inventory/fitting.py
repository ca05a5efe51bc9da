"""Which page fits an entry that leads nowhere yet: by what it is called."""

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from sign_shelf.core.inventory.naming import words_of_path
from sign_shelf.core.model.site import Page

_WORD = re.compile(r"[^\W\d_]{3,}")


@dataclass(frozen=True)
class Fitting:
    """`because` is a reason for people."""

    ref: str
    because: str


def fitting(label: Mapping[str, str], pages: Iterable[Page]) -> Fitting | None:
    """The one published page that is called so; else the one whose title, or address, has all words of the label. None where
    there are several: a guess among them would be none."""
    there = [page for page in pages if page.state == "published"]
    wanted = {one.casefold().strip() for one in label.values()}
    named = [page for page in there if wanted & {one.casefold().strip() for one in page.title.values()}]
    if named:
        return Fitting(named[0].ref, "it is called so") if len(named) == 1 else None
    for words in filter(None, (_words(one) for one in label.values())):
        alike = [
            page for page in there
            if any(words <= _words(one) for one in page.title.values()) or words <= _words(words_of_path(page.path))
        ]  # fmt: skip
        if len(alike) == 1:
            return Fitting(alike[0].ref, f"its title or address has {_said(words)}")
    return None


def _words(text: str) -> frozenset[str]:
    return frozenset(word.casefold() for word in _WORD.findall(text))


def _said(words: frozenset[str]) -> str:
    return " and ".join(f"“{word}”" for word in sorted(words)[:3])

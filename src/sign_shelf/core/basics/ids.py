"""Names made from words: ids of items, references of pages, keys of menus and sites."""

import re
import unicodedata
from collections.abc import Iterable

_BETWEEN = re.compile(r"[^a-z0-9]+")


def slug(words: str, *, otherwise: str = "") -> str:
    """Lower-case letters, digits and hyphens, at most 40; `otherwise` where the words hold none."""
    plain = words if words.isascii() else unicodedata.normalize("NFKD", words).encode("ascii", "ignore").decode()
    return _BETWEEN.sub("-", plain.lower()).strip("-")[:40].strip("-") or otherwise


class ReadableIds:
    """Gives each name once: `fares`, `fares-2`, …; never one that was taken before."""

    def __init__(self, taken: Iterable[str] = ()) -> None:
        self._given: dict[str, int] = dict.fromkeys(taken, 1)

    def take(self, words: str, *, otherwise: str) -> str:
        stem = slug(words, otherwise=otherwise)
        while True:
            number = self._given[stem] = self._given.get(stem, 0) + 1
            if number == 1:
                return stem
            candidate = f"{stem}-{number}"
            if candidate not in self._given:
                self._given[candidate] = 1
                return candidate

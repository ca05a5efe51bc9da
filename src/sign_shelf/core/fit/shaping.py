"""How wide a text is: shaped with HarfBuzz, by script, one font file after the other, as browsers do.

Sources: CSS Text 3 (text-transform, letter-spacing), CSS Fonts 4 (font matching per character), UAX 24 (scripts).
"""

import math
import unicodedata
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from typing import Literal

import uharfbuzz as hb
from fontTools.unicodedata import script

from sign_shelf.core.fit.fonts import Family, FontFile, FontSet, scaled

_JOINING = frozenset({"Arab", "Syrc", "Mong", "Nkoo", "Phag", "Mand", "Rohg", "Adlm"})
_NOBODYS = "\U0010fffd"
"""A character of private use that no font here has."""
_NO_LIGATURES = {"liga": False, "clig": False}


@dataclass(frozen=True)
class Type:
    """The type that a text is set in; lengths are CSS pixels."""

    family: str
    size: float
    weight: int
    letter_spacing: float = 0
    transform: Literal["none", "uppercase"] = "none"
    language: str = "en"


@dataclass(frozen=True)
class Measured:
    """A text's advance in CSS pixels, and the characters that another font than the one asked for shows."""

    width: float
    fallbacks: tuple[tuple[str, str], ...] = ()
    missing: tuple[str, ...] = ()


@lru_cache(maxsize=65_536)
def measure(fonts: FontSet, text: str, kind: Type) -> Measured:
    """The advance of a single line. Raises FitRefused for an unknown font."""
    family = fonts.family(kind.family)
    found = _Shaping(cased(text, kind), kind, fonts.asked(family))
    for begin, end, written in _scripts(found.text):
        found.shape(begin, end, written, 0)
    fallbacks = {one: owner.name for one, owner in found.shown_by.items() if owner is not family}
    return Measured(found.width, tuple(fallbacks.items()), tuple(found.missing))


_UNKNOWN_ADVANCE = 0.6
"""Of the size: what a character is taken to need that no font here has."""


def cased(text: str, kind: Type) -> str:
    """The text as text-transform has it, by the language's own rules where they differ."""
    if kind.transform == "none":
        return text
    language = kind.language.split("-")[0]
    if language in {"tr", "az"}:
        text = text.replace("i", "İ")
    if language == "el":
        bare = "".join(one for one in unicodedata.normalize("NFD", text) if one != "\u0301")
        text = unicodedata.normalize("NFC", bare)
    return text.upper()


def _scripts(text: str) -> Iterator[tuple[int, int, str]]:
    """Stretches of one script; what all scripts share, such as spaces and digits, goes with what is before it."""
    begin, current = 0, ""
    for at, character in enumerate(text):
        written = script(character)
        if written in {"Zyyy", "Zinh"}:
            continue
        if current and written != current:
            yield begin, at, current
            begin = at
        current = written
    if text:
        yield begin, len(text), current or "Zyyy"


class _Shaping:
    """One text on its way through the fonts: each shapes what those before it left open, in its surroundings."""

    def __init__(self, text: str, kind: Type, asked: tuple[tuple[Family, FontFile], ...]) -> None:
        self.text = text
        self.kind = kind
        self.asked = asked
        self.width = 0.0
        self.shown_by: dict[str, Family] = {}
        self.missing: dict[str, None] = {}

    def shape(self, begin: int, end: int, written: str, first: int) -> None:
        wanted = {ord(character) for character in self.text[begin:end]}
        at = next((at for at in range(first, len(self.asked)) if any(map(self.asked[at][1].has, wanted))), None)
        if at is None:
            self.missing |= dict.fromkeys(self.text[begin:end])
            self.width += (end - begin) * (self.kind.size * _UNKNOWN_ADVANCE + self.kind.letter_spacing)
            return
        family, file = self.asked[at]
        lightest, heaviest = family.weights
        font = scaled(file, self.kind.size, min(max(self.kind.weight, lightest), heaviest))
        buffer = hb.Buffer()
        # What the file may not be used for must not be put together out of its letters and marks either.
        asked = "".join(
            character if file.has(ord(character)) or _follows(character) else _NOBODYS for character in self.text
        )
        buffer.add_str(asked, item_offset=begin, item_length=end - begin)
        if written != "Zyyy":
            buffer.script = written
        buffer.guess_segment_properties()
        buffer.language = self.kind.language
        hb.shape(font, buffer, _NO_LIGATURES if self.kind.letter_spacing else {})
        clusters: dict[int, tuple[float, bool]] = {}
        for info, position in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
            advance, whole = clusters.get(info.cluster, (0.0, True))
            clusters[info.cluster] = advance + position.x_advance / 1_024, whole and info.codepoint != 0
        edges = [*sorted(clusters), end]
        open_from: int | None = None
        for start, stop in pairwise(edges):
            advance, whole = clusters[start]
            if whole and all(file.has(ord(character)) or _follows(character) for character in self.text[start:stop]):
                if open_from is not None:
                    self.shape(open_from, start, written, at + 1)
                    open_from = None
                self.width += advance + self._spacing(start, written)
                self.shown_by |= dict.fromkeys(self.text[start:stop], family)
            elif open_from is None:
                open_from = start
        if open_from is not None:
            self.shape(open_from, end, written, at + 1)

    def _spacing(self, cluster: int, written: str) -> float:
        # Letters that join cannot be spaced apart (CSS Text 4, cursive scripts): only the spaces between words are.
        joined = written in _JOINING and self.text[cluster] != " "
        return 0.0 if joined else self.kind.letter_spacing


def _follows(character: str) -> bool:
    """Whether it only alters what is before it, and is shown by whoever shows that."""
    return unicodedata.combining(character) != 0 or unicodedata.category(character) == "Cf"


def laid_out(width: float) -> float:
    """As browsers keep it: in whole 64ths of a pixel, rounded up so that the text has room."""
    return math.ceil(width * 64 - 1e-6) / 64

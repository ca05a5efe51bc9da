"""Font files as the browser uses them: which characters each has, in which order they are asked, at which weight."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property, lru_cache

import uharfbuzz as hb

from sign_shelf.core.errors import FitRefused

FALLBACKS = ("Noto Sans Arabic", "Noto Sans")
"""Families that are asked, in this order, for a character that the font itself lacks."""


@dataclass(frozen=True, eq=False)
class FontFile:
    """One file of a family. `load` gives its bytes as OpenType (sfnt), once; `covers` the characters it may be used for."""

    name: str
    load: Callable[[], bytes]
    covers: Callable[[int], bool]

    @cached_property
    def face(self) -> hb.Face:
        return hb.Face(self.load())

    @cached_property
    def characters(self) -> frozenset[int]:
        return frozenset(self.face.unicodes)

    def has(self, character: int) -> bool:
        return self.covers(character) and character in self.characters


@dataclass(frozen=True, eq=False)
class Family:
    """`weights` are the lightest and the heaviest that its files have; the files stand in the order they are asked in."""

    name: str
    weights: tuple[int, int]
    files: tuple[FontFile, ...]


@dataclass(frozen=True, eq=False)
class FontSet:
    families: Mapping[str, Family]

    def family(self, name: str) -> Family:
        """Raises FitRefused for an unknown family, with those that there are."""
        found = self.families.get(name)
        if found is None:
            known = ", ".join(sorted(self.families))
            raise FitRefused(f'There is no font "{name}".', where="font", remedy=f"There are {known}.")
        return found

    def asked(self, family: Family) -> tuple[tuple[Family, FontFile], ...]:
        """The files that are asked for a character, in order: the family's own, then those of the fallbacks."""
        others = (self.families[name] for name in FALLBACKS if name in self.families)
        return tuple((one, file) for one in (family, *others) for file in one.files)


@lru_cache(maxsize=512)
def scaled(file: FontFile, size: float, weight: int) -> hb.Font:
    """The file at a size and weight; positions are in 1/1024 of a CSS pixel."""
    font = hb.Font(file.face)
    scale = round(size * 1_024)
    font.scale = (scale, scale)
    font.set_variations({"wght": float(weight)})
    return font

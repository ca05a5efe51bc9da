"""The font files that ship with the built interface, as the fit measures with them."""

import json
from collections.abc import Callable
from functools import lru_cache
from pathlib import Path

from sign_shelf.core.errors import FitRefused
from sign_shelf.core.fit import Family, FontFile, FontSet
from sign_shelf.core.fit.font_file import sfnt_of


@lru_cache(maxsize=4)
def shipped_fonts(folder: Path) -> FontSet:
    """The families of `folder/fonts.json`; a file is read when a text first needs it. Raises FitRefused."""
    index = folder / "fonts.json"
    if not index.is_file():
        raise FitRefused("The fonts are not there.", where=index.name, remedy="Run `make setup`.")
    families = {}
    for raw in json.loads(index.read_text("utf-8")):
        files = tuple(
            FontFile(file["name"], _reading(folder / file["name"]), _covering(file["ranges"])) for file in raw["files"]
        )
        lightest, heaviest = raw["weights"]
        families[raw["family"]] = Family(raw["family"], (lightest, heaviest), files)
    return FontSet(families)


def _reading(file: Path) -> Callable[[], bytes]:
    return lambda: sfnt_of(file.read_bytes())


def _covering(ranges: str) -> Callable[[int], bool]:
    """A `unicode-range` as a test (CSS Fonts 4), such as `U+0000-00FF,U+2122`."""
    bounds = []
    for piece in ranges.split(","):
        low, _, high = piece.strip().removeprefix("U+").partition("-")
        bounds.append(range(int(low, 16), int(high or low, 16) + 1))
    return lambda character: any(character in bound for bound in bounds)

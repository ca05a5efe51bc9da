"""How long commands take to start, beside importing the libraries that every one of them needs."""

import statistics
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from tempfile import TemporaryDirectory
from time import perf_counter

from bench.trees import Row

_NEEDED = "import typer, pydantic, httpx"
_MENU = '{"format": "sign-shelf/menu", "version": 1, "name": "Menu", "items": []}'


def _ms(line: list[str]) -> float:
    began = perf_counter()
    subprocess.run(line, check=True, capture_output=True)
    return (perf_counter() - began) * 1_000


def starting_lines() -> Iterator[Row]:
    with TemporaryDirectory() as folder:
        menu = Path(folder) / "menu.json"
        menu.write_text(_MENU)
        for words in (["merge", *[str(menu)] * 3], ["diff", *[str(menu)] * 2], ["outline", "format", str(menu)]):
            ours, theirs = [], []
            for _ in range(7):  # in turns, so that a slower moment of the machine meets both
                theirs.append(_ms([sys.executable, "-c", _NEEDED]))
                ours.append(_ms([sys.executable, "-m", "sign_shelf", *words]))
            mine, bare = statistics.median(ours), statistics.median(theirs)
            yield (
                f"sign-shelf {words[0]}, from start to end", "an empty menu", f"{mine:.0f} ms",
                f"{_NEEDED}: {bare:.0f} ms ({mine / bare:.1f}×)", "≤ 2×",
            )  # fmt: skip

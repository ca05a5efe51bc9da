"""Faults in the outline's own TypeScript, by its words: comparisons, connectives, boundaries."""

import re
from collections.abc import Iterator

from tools.mutants.python_faults import Fault

_SWAPS = {
    " === ": (" !== ", "comparison"), " !== ": (" === ", "comparison"), " <= ": (" < ", "comparison"), " >= ": (" > ", "comparison"),
    " < ": (" <= ", "comparison"), " > ": (" >= ", "comparison"), " && ": (" || ", "connective"), " || ": (" && ", "connective"),
    " + 1": (" + 2", "boundary"), " - 1": (" - 2", "boundary"),
}  # fmt: skip
_ANY = re.compile("|".join(map(re.escape, sorted(_SWAPS, key=len, reverse=True))))


def outline_faults(file: str, text: str) -> Iterator[Fault]:
    begin = 0
    for number, line in enumerate(text.splitlines(keepends=True), 1):
        if not line.lstrip().startswith(("//", "*", "/*", "import ")):
            for found in _ANY.finditer(line):
                instead, kind = _SWAPS[found[0]]
                yield Fault(file, kind, number, begin + found.start(), begin + found.end(), instead, None)
        begin += len(line)

"""Lists as people write and paste them, as lines of the outline: numbers that say the level, addresses behind the words."""

import re

from sign_shelf.core.outline.quoting import quote

_NUMBERED = re.compile(r"^[ \t]*(\d{1,3}(?:\.\d{1,3})*)[.):]?[ \t]+(?=\S)")
_LETTERED = re.compile(r"^([ \t]*)(?:[a-z]|[ivx]{1,5})[.)][ \t]+(?=\S)")
_ADDRESS_BEHIND = re.compile(r"^([ \t]*)(.*?\S)(?:\s*[:–—|]|\s+-)?\s+<?(https?://[^\s<>]+)>?$")
_IN_BRACKETS = re.compile(r"^([ \t]*)\[([^\]]+)\]\(<?([^)\s]+?)>?\)$")
_MARK = re.compile(r"^([ \t]*(?:[-*+•‣◦–—·▪☐]|\[[ x]\])\s+)+(?=\S)")
_NESTED = "  "
_LONGEST = 1_000
"""Characters of a line that is looked through: no label and address are longer."""


def as_outline(text: str) -> str:
    """The same lines, line by line, as the outline has them. What is an outline already stays as it is."""
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    return "\n".join(_led(line) for line in _by_number(lines))


def _by_number(lines: list[str]) -> list[str]:
    """Lines that are all numbered, some as "1.2": the parts of the number are the level. Letters count as bullets."""
    said = [(line, _NUMBERED.match(line)) for line in lines if line.strip()]
    levels = [found[1].count(".") + 1 for _, found in said if found]
    steps = all(level <= before + 1 for before, level in zip([0, *levels], levels, strict=False))
    if len(levels) < 2 or len(levels) < len(said) or max(levels) == 1 or not steps:
        letters = sum(1 for line in lines if _LETTERED.match(line))
        return [_LETTERED.sub(r"\1", line) for line in lines] if letters > 1 else lines
    return [
        _NESTED * found[1].count(".") + line[found.end() :] if (found := _NUMBERED.match(line)) else line
        for line in lines
    ]


def _led(line: str) -> str:
    """An address behind the words, or words in brackets before one in parentheses, become a target."""
    if "->" in line or "{" in line or len(line) > _LONGEST:
        return line
    mark = _MARK.match(line)
    margin = line[: len(line) - len(line.lstrip(" \t"))]
    rest = line[mark.end() :] if mark else line.lstrip(" \t")
    if found := _IN_BRACKETS.match(rest) or _ADDRESS_BEHIND.match(rest):
        return f"{margin}{quote(found[2].strip())} -> {found[3]}"
    return margin + rest if mark else line

"""Quoted words in outlines: `"` begins and ends, `\\"` and `\\\\` stand for themselves."""

import re

BULLET = re.compile(r"^(?:[-*•‣◦–—·▪]|\d{1,4}[.)])(?=\s)")
_QUOTED = re.compile(r'"(?:[^"\\]++|\\.)*+"', re.DOTALL)
_MISREAD = re.compile(r'^["+]|^---|^->|->|[{}]|:$|^\s|\s$|^(?:https?://|mailto:|tel:)|^<', re.IGNORECASE)


def quote(text: str) -> str:
    return '"' + text.replace("\\", "\\\\").replace('"', '\\"') + '"'


def label_text(text: str) -> str:
    """The label as it stands in an outline: bare where that reads back as the same label, quoted otherwise."""
    return quote(text) if _MISREAD.search(text) or BULLET.match(text + " ") else text


def closing_quote(text: str, start: int) -> int | None:
    """The position of the quote that ends the words opened at `start`; None if nothing ends them."""
    end = _QUOTED.match(text, start)
    return end.end() - 1 if end else None


def unquote(text: str) -> str | None:
    """What a wholly quoted text stands for; None where it is not exactly one quoted text."""
    if not text.startswith('"') or closing_quote(text, 0) != len(text) - 1:
        return None
    return re.sub(r"\\(.)", r"\1", text[1:-1])


def split_outside_quotes(text: str, separator: str) -> list[tuple[int, str]]:
    """The pieces between separators (of one character) that stand outside quotes, each with its position."""
    pieces: list[tuple[int, str]] = []
    begin = 0
    while (end := find_outside_quotes(text, separator, begin)) is not None:
        pieces.append((begin, text[begin:end]))
        begin = end + 1
    pieces.append((begin, text[begin:]))
    return pieces


def find_outside_quotes(text: str, wanted: str, start: int = 0) -> int | None:
    at = start
    while True:
        found, opened = text.find(wanted, at), text.find('"', at)
        if found < 0 or opened < 0 or found < opened:
            return found if found >= 0 else None
        end = closing_quote(text, opened)
        if end is None:
            return None
        at = end + 1

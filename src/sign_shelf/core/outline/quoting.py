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
    """The pieces between separators that stand outside quotes, each with its position."""
    pieces: list[tuple[int, str]] = []
    begin = at = 0
    while at < len(text):
        if text[at] == '"':
            end = closing_quote(text, at)
            at = len(text) if end is None else end + 1
        elif text[at] == separator:
            pieces.append((begin, text[begin:at]))
            at += 1
            begin = at
        else:
            at += 1
    pieces.append((begin, text[begin:]))
    return pieces


def find_outside_quotes(text: str, wanted: str, start: int = 0) -> int | None:
    at = start
    while at < len(text):
        if text[at] == '"':
            end = closing_quote(text, at)
            if end is None:
                return None
            at = end + 1
        elif text.startswith(wanted, at):
            return at
        else:
            at += 1
    return None

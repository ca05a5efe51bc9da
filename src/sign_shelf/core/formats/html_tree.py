"""HTML as a tree, guarded; and the words of its nodes."""

import re
from collections import Counter

from selectolax.lexbor import LexborHTMLParser, LexborNode

from sign_shelf.core.errors import SourceRefused

MAX_NESTING = 500
_TAG = re.compile(rb"<(/?)([a-zA-Z][a-zA-Z0-9-]*)")
#: Void elements, and those whose end tags authors may leave out: many of them open say nothing about nesting.
_NEED_NO_END = frozenset(
    b"area base br col embed hr img input link meta source track wbr path circle rect use line polygon "
    b"li p dt dd tr td th thead tbody tfoot option optgroup colgroup rp rt html head body".split()
)


def words_of(node: LexborNode) -> str:
    """The node's text on one line, without controls or direction marks."""
    text = node.text(deep=True, separator=" ")
    return tidy_words(text)


def tidy_words(text: str) -> str:
    plain = re.sub(r"[\x00-\x1f\x7f-\x9f\u2028\u2029\u202a-\u202e\u2066-\u2069]", " ", text)
    return re.sub(r"\s+", " ", plain).strip()[:500]


def attribute(node: LexborNode, name: str) -> str:
    return (node.attributes.get(name) or "").strip()


def parse(body: bytes, where: str) -> LexborHTMLParser:
    """The page's tree. Raises SourceRefused where it nests too deep: an HTML parser takes quadratic time for that."""
    if _depth(body) > MAX_NESTING:
        raise SourceRefused(f"The page nests its elements more than {MAX_NESTING} deep.", where=where)
    return LexborHTMLParser(body)


def _depth(body: bytes) -> int:
    """The largest number of elements open at once, told from the tags alone; stops counting past the limit."""
    open_now: Counter[bytes] = Counter()
    depth = 0
    for tag in _TAG.finditer(body):
        name = tag[2].lower()
        if name in _NEED_NO_END:
            continue
        if not tag[1]:
            open_now[name] += 1
            depth += 1
            if depth > MAX_NESTING:
                return depth
        elif open_now[name]:
            open_now[name] -= 1
            depth -= 1
    return depth

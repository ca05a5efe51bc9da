"""What pages are called: by their titles, and by their addresses where nobody opened them."""

import re
from collections.abc import Mapping, Sequence
from urllib.parse import unquote

from sign_shelf.core.formats.html_tree import tidy_words

_SEPARATOR = re.compile(r"\s+(?:[-–—|·»]|::)\s+")


def shared_ending(titles: Sequence[str]) -> str:
    """What follows the last separator of most titles, such as " – Brackwater Ferries", separator included."""
    ends = []
    for title in titles:
        separators = list(_SEPARATOR.finditer(title))
        ends += [title[separators[-1].start() :]] if separators else []
    if not ends:
        return ""
    common = max(set(ends), key=ends.count)
    return common if ends.count(common) * 2 > len(titles) else ""


def stem_of(path: str) -> str:
    """`fares/groups` of `/fares/groups.html`."""
    return re.sub(r"\.x?html?$", "", unquote(path)).strip("/")


def words_of_path(path: str) -> str:
    return tidy_words(stem_of(path).rsplit("/", 1)[-1].replace("-", " ").capitalize())


def directory(path: str) -> str:
    return re.sub(r"/index\.x?html?$", "/", path.partition("?")[0]).rstrip("/") or "/"


def parent_of(ref: str, path: str, refs: Mapping[str, str]) -> str | None:
    """The page whose directory the path stands in; `refs` has them by directory. The home page is nobody's parent."""
    at = directory(path)
    while at != "/":
        at = at.rpartition("/")[0] or "/"
        if at != "/" and at in refs and refs[at] != ref:
            return refs[at]
    return None

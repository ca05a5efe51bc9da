"""What went live as a feed for feed readers (Atom, RFC 4287)."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from xml.etree.ElementTree import Element, SubElement, register_namespace, tostring

_ATOM = "http://www.w3.org/2005/Atom"


@dataclass(frozen=True, kw_only=True)
class FeedEntry:
    """`name` is the same for ever."""

    name: str
    title: str
    at: datetime
    by: str
    link: str = ""


def live_atom(entries: Sequence[FeedEntry], *, called: str, itself: str, now: datetime) -> bytes:
    """The newest first. `itself` is the address of the feed."""
    register_namespace("", _ATOM)
    feed = Element(f"{{{_ATOM}}}feed")
    _put(feed, "id", "urn:sign-shelf:live")
    _put(feed, "title", called)
    _put(feed, "updated", (entries[0].at if entries else now).isoformat())
    if itself:
        SubElement(feed, f"{{{_ATOM}}}link", rel="self", href=itself)
    for one in entries:
        entry = SubElement(feed, f"{{{_ATOM}}}entry")
        _put(entry, "id", f"urn:sign-shelf:{one.name}")
        _put(entry, "title", one.title)
        _put(entry, "updated", one.at.isoformat())
        _put(SubElement(entry, f"{{{_ATOM}}}author"), "name", one.by)
        _put(entry, "content", one.title)
        if one.link:
            SubElement(entry, f"{{{_ATOM}}}link", rel="alternate", href=one.link)
    written: bytes = tostring(feed, encoding="utf-8", xml_declaration=True)
    return written


def _put(within: Element, name: str, words: str) -> None:
    # What XML cannot hold (XML 1.0, 2.2) was never typed by anybody.
    SubElement(within, f"{{{_ATOM}}}{name}").text = "".join(one for one in words if one.isprintable() or one in "\n\t")

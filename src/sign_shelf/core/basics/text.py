"""The kinds of text that documents are made of, with the rules for each."""

import re
import unicodedata
from datetime import date, datetime
from typing import Annotated

from pydantic import AfterValidator, StringConstraints

LANGUAGE_PATTERN = r"^[a-z]{2,3}(-[A-Za-z0-9]{1,8})*$"
KEY_PATTERN = r"^[a-z0-9][a-z0-9-]{0,63}$"
LANGUAGE = re.compile(LANGUAGE_PATTERN)
_OFFSET = re.compile(r"[+-](0[0-9]|1[0-4]):[0-5][0-9]$")
_SCHEME = re.compile(r"^([A-Za-z][A-Za-z0-9+.-]*):")
_SCHEME_AND_HOST = re.compile(r"^(?:https?:)?//[^/?#{]*", re.IGNORECASE)
_AUTHORITY = re.compile(r"^(?:[a-z]+:)?//([^/?#]*)", re.IGNORECASE)
#: Embeddings, overrides and isolates can make a label read differently from what it says (UAX 9, UTR 36).
_DIRECTION_TRICKS = "\u202a-\u202e\u2066-\u2069"
#: With what Unicode has as control characters, line and paragraph separators and surrogates (Cc, Zl, Zp, Cs).
_CONTROL = "\x00-\x1f\x7f-\x9f\u2028\u2029\ud800-\udfff"
_NO_TEXT = _CONTROL + _DIRECTION_TRICKS
_NOT_PLAIN = re.compile(f"[{_CONTROL}]|([{_DIRECTION_TRICKS}])")
_SPACE = re.compile(r"\s")
_NOT_IN_ADDRESSES = re.compile(r'[<>"\\^`|]')
#: Most addresses: within the site, or of a host without anything before its name, and no fact in them.
_USUAL_ADDRESS = re.compile(rf'(?:/(?!/)|https?://[^/?#\s<>"\\^`|{{@{_NO_TEXT}]+(?![^/?#]))[^\s<>"\\^`|{{{_NO_TEXT}]*+')
_EXACT_TIME = re.compile(r"[0-9]{4}-[0-9]{2}-[0-9]{2}T[0-9]{2}:[0-9]{2}")


def _plain(text: str) -> str:
    odd = _NOT_PLAIN.search(text)
    if odd is None:
        return text
    named = f"character {odd.start() + 1}", f"(U+{ord(odd[0]):04X})"
    if odd[1] is None:
        raise ValueError(f"{named[0]} is a control character {named[1]}; take it out")
    raise ValueError(
        f"{named[0]} changes the reading direction {named[1]}; take it out, the direction follows from the language"
    )


def _visible(text: str) -> str:
    if text[0].isalnum() and _NOT_PLAIN.search(text) is None:
        return text
    _plain(text)
    if all(character.isspace() or unicodedata.category(character) == "Cf" for character in text):
        raise ValueError("nothing in it can be seen; give it some words")
    return text


def _address(text: str) -> str:
    if _USUAL_ADDRESS.fullmatch(text):
        return text
    _plain(text)
    if _SPACE.search(text):
        raise ValueError("must not contain spaces")
    if _NOT_IN_ADDRESSES.search(text):
        raise ValueError('must not contain < > " \\ ^ ` or |; write them percent-encoded')
    scheme = _SCHEME.match(text)
    if scheme and scheme[1].lower() not in {"http", "https"}:
        raise ValueError(f'expected http, https or an address within the site, got "{scheme[1]}:"')
    if scheme and not text[scheme.end() :].startswith("//"):
        raise ValueError(f"has no host after {scheme[1]}:")
    authority = _AUTHORITY.match(text)
    if authority and "@" in authority[1]:
        raise ValueError("carries a user name or password; leave it out, visitors would see it")
    if authority and not authority[1]:
        raise ValueError("has no host after //")
    fact = text.find("{")
    if fact >= 0:
        # What stands before the path is never a visitor's to say: neither the scheme nor the host.
        path = _SCHEME_AND_HOST.sub("", text[:fact])
        if not path.startswith(("/", "?", "#")) and (path != text[:fact] or not re.search("[/?#]", path)):
            raise ValueError(
                "has a {fact} before its path; a fact may stand only after the host, such as in /crew/{visitor.id}"
            )
    return text


def _wall_time(text: str) -> str:
    offset = _OFFSET.search(text)
    reading = text[: offset.start()] if offset else text
    try:
        exact = _EXACT_TIME.fullmatch(reading)  # Reading a time that is written in full is twenty times as quick.
        parsed = datetime.fromisoformat(reading) if exact else datetime.strptime(reading, "%Y-%m-%dT%H:%M")
    except ValueError as exc:
        raise ValueError('expected a date and time like "2027-04-01T04:00"') from exc
    # Menus have no other years, and calendars end: there is room for offsets and for years to come on both sides.
    if not 1900 <= parsed.year <= 9990:
        raise ValueError("expected a year from 1900 to 9990")
    return text if exact else parsed.strftime("%Y-%m-%dT%H:%M") + (offset[0] if offset else "")


def _day(text: str) -> str:
    try:
        return date.fromisoformat(text).isoformat()
    except ValueError as exc:
        raise ValueError('expected a date like "2027-01-31"') from exc


def _selector(text: str) -> str:
    from selectolax.lexbor import LexborHTMLParser, SelectolaxError  # only where there is one: it takes a while to load

    try:
        LexborHTMLParser("").css_first(text)
    except SelectolaxError as exc:
        raise ValueError('is no CSS selector; write one such as "#main-menu" or "footer nav"') from exc
    plain = _QUOTED.sub("", text)
    loose = sum(len(re.split(r"\s*~\s*|\s+", run.strip())) - 1 for run in re.split(r"[>+,]", plain))
    if loose > 2 or _FUNCTION.search(plain):
        # Each step that may be skipped over multiplies what is looked at: four of them stop a worker on a page that nests deep.
        raise ValueError(
            'could take very long to look for; write ">" between its steps, all but two, and no :has(), :is() or :not()'
        )
    return text


_QUOTED = re.compile(r"\"[^\"]*\"|'[^']*'")
_FUNCTION = re.compile(r":(?!nth-)[a-z-]+\(", re.IGNORECASE)


Key = Annotated[str, StringConstraints(pattern=KEY_PATTERN)]
"""A name that people type and addresses carry: lower-case letters, digits and hyphens."""

MenuRef = Annotated[str, StringConstraints(pattern=r"^(shared:)?[a-z0-9][a-z0-9-]{0,63}$")]
"""A menu's key, with `shared:` before it where the agency owns the menu."""

ContentName = Annotated[str, StringConstraints(pattern=r"^sha256:[0-9a-f]{64}$")]
"""What a tree, an arrangement or a state is called by its content."""

ItemId = Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9_.-]{1,64}$")]
Origin = Annotated[
    str,
    StringConstraints(
        pattern=r"^((shared:[a-z0-9][a-z0-9-]{0,63}|([a-z0-9][a-z0-9-]{0,63}/)?[a-z0-9][a-z0-9-]{0,63})/)?"
        r"[A-Za-z0-9_.-]{1,64}$"
    ),
]
"""The item that a copy was made of: `item` of the same menu, `menu/item` of the same site, or `site/menu/item`."""

Language = Annotated[str, StringConstraints(pattern=LANGUAGE_PATTERN, max_length=35)]
Words = Annotated[str, StringConstraints(min_length=1, max_length=500), AfterValidator(_visible)]
"""Text that a visitor or colleague reads: one line, not blank."""

Label = dict[Language, Words]
"""Words by language (BCP 47)."""

Token = Annotated[str, StringConstraints(pattern=r"^[^\s\"{}<>;,\\\\]{1,200}$"), AfterValidator(_plain)]
"""A single word of a technical kind: an icon's name, a link relation, a style hook, a page type."""
PageRef = Annotated[str, StringConstraints(pattern=r"^[^\s#,@{}\"<>]{1,200}$"), AfterValidator(_plain)]
"""A page's stable reference."""

Part = Annotated[str, StringConstraints(pattern=r"^[^\s#{}\"<>]{1,200}$"), AfterValidator(_plain)]
"""The id of a part of a page (a fragment)."""

Address = Annotated[
    str,
    StringConstraints(min_length=1, max_length=2_000),
    AfterValidator(_address),
]
"""An http(s) address, or one within the site; `{fact}` patterns are allowed in it."""

Selector = Annotated[
    str, StringConstraints(min_length=1, max_length=500), AfterValidator(_plain), AfterValidator(_selector)
]
"""A CSS selector (W3C Selectors Level 4), on one line."""

_DETAIL = r"\{site\.[A-Za-z_][A-Za-z0-9_.-]{0,63}\}"
"""What a shared menu has in place of a site's own detail (core/sharing/filling.py)."""
Email = Annotated[
    str,
    StringConstraints(pattern=rf"^([^\s@<>\"{{}}]{{1,64}}@[^\s@<>\"{{}}]{{1,250}}|{_DETAIL})$"),
    AfterValidator(_plain),
]
Phone = Annotated[str, StringConstraints(pattern=rf"^(\+?[0-9][0-9 ().-]{{1,39}}|{_DETAIL})$", strip_whitespace=True)]
RuleText = Annotated[str, StringConstraints(min_length=1, max_length=20_000), AfterValidator(_visible)]
WallTime = Annotated[str, AfterValidator(_wall_time)]
"""Date and time on the site's own clock, to the minute; with an offset from UTC (`+01:00`) only where the clock shows it
twice and the second time is meant (see core/basics/clock.py)."""

Day = Annotated[str, AfterValidator(_day)]

"""The kinds of text: what each takes, what each refuses, and that the refusal says why."""

import pytest
from pydantic import TypeAdapter, ValidationError

from sign_shelf.core.basics.text import (
    Address,
    Day,
    Email,
    ItemId,
    Key,
    Language,
    MenuRef,
    PageRef,
    Part,
    Phone,
    RuleText,
    Selector,
    Token,
    WallTime,
    Words,
)

TAKEN = [
    (Key, "brackwater"),
    (Key, "a-2"),
    (MenuRef, "legal"),
    (MenuRef, "shared:legal"),
    (ItemId, "i-1.b_C"),
    (Language, "en"),
    (Language, "pt-BR"),
    (Language, "sr-Latn-RS"),
    (Words, "Café & passes"),
    (Words, " leading space is kept"),
    (Words, "👩🏽‍🚀 joined by a zero-width joiner"),
    (Words, "مرحبا بكم"),
    (Token, "noopener"),
    (Token, "md:flex"),
    (PageRef, "routes/skerry"),
    (Part, "fares-2027"),
    (Address, "https://brackwater.example/"),
    (Address, "HTTP://brackwater.example"),
    (Address, "/fares?day=1#top"),
    (Address, "fares"),
    (Address, "//cdn.example/x"),
    (Address, "/crew/{visitor.id}/rota"),
    (Address, "https://bücher.example/ü"),
    (Email, "desk@kestrel-vale.example"),
    (Phone, "+44 20 7946 0000"),
    (Phone, "112"),
    (RuleText, 'signed_in and roles has "crew"'),
    (Selector, 'body > header .menu nav[aria-label="Header bar of it"]'),
    (Selector, "#main-menu > ul:nth-of-type(2n + 1)"),
    (WallTime, "2027-04-01T04:00"),
    (Day, "2027-02-28"),
]

REFUSED = [
    (Selector, "nav[", "no CSS selector"),
    (Selector, "div:has(div:has(nav))", "no :has"),
    (Selector, "main div div nav", "very long to look for"),
    (Selector, "ul ~ ul ~ ul ~ ul", "very long to look for"),
    (Key, "Brackwater", "pattern"),
    (Key, "a b", "pattern"),
    (Key, "", "pattern"),
    (Key, "x" * 65, "pattern"),
    (MenuRef, "shared:", "pattern"),
    (MenuRef, "other:legal", "pattern"),
    (ItemId, "a/b", "pattern"),
    (ItemId, "a:b", "pattern"),
    (Language, "EN", "pattern"),
    (Language, "english", "pattern"),
    (Words, "", "at least 1"),
    (Words, "   ", "nothing in it can be seen"),
    (Words, "\u200b\u200d", "nothing in it can be seen"),
    (Words, "two\nlines", "control character (U+000A)"),
    (Words, "nul\0", "control character (U+0000)"),
    (Words, "line\u2028separator", "control character (U+2028)"),
    (Words, "evil \u202e gnp.exe", "reading direction (U+202E)"),
    (Words, "isolate \u2066 x", "reading direction (U+2066)"),
    (Words, "x" * 501, "at most 500"),
    (Token, "two words", "pattern"),
    (Token, 'a"b', "pattern"),
    (PageRef, "a#b", "pattern"),
    (Part, "a b", "pattern"),
    (Address, "javascript:alert(1)", 'got "javascript:"'),
    (Address, "JaVaScRiPt:alert(1)", "expected http, https"),
    (Address, "data:text/html,x", 'got "data:"'),
    (Address, "vbscript:x", 'got "vbscript:"'),
    (Address, "ftp://x.example", 'got "ftp:"'),
    (Address, "mailto:x@y.example", 'got "mailto:"'),
    (Address, "java\tscript:alert(1)", "control character"),
    (Address, "https://me:pw@x.example/", "user name or password"),
    (Address, "//me@x.example/", "user name or password"),
    (Address, "http:///x", "no host"),
    (Address, "/a b", "spaces"),
    (Address, "/<script>", "percent-encoded"),
    (Address, "\\\\x.example", "percent-encoded"),
    (Address, "/" + "x" * 2_000, "at most 2000"),
    (Email, "nobody", "pattern"),
    (Email, "a@b@c", "pattern"),
    (Phone, "call me", "pattern"),
    (Phone, "+", "pattern"),
    (RuleText, " ", "nothing in it can be seen"),
    (RuleText, "x" * 20_001, "at most 20000"),
    (WallTime, "2027-04-01", 'like "2027-04-01T04:00"'),
    (WallTime, "2027-02-30T04:00", 'like "2027-04-01T04:00"'),
    (WallTime, "2027-04-01T04:00:00Z", 'like "2027-04-01T04:00"'),
    (Day, "2027-02-29", 'like "2027-01-31"'),
    (Day, "tomorrow", 'like "2027-01-31"'),
]


@pytest.mark.parametrize(("kind", "text"), TAKEN)
def test_what_is_taken_stays_as_it_was_written(kind: object, text: str) -> None:
    assert TypeAdapter(kind).validate_python(text) == text


@pytest.mark.parametrize(("kind", "text", "says"), REFUSED)
def test_what_is_refused_says_why(kind: object, text: str, says: str) -> None:
    with pytest.raises(ValidationError) as caught:
        TypeAdapter(kind).validate_python(text)
    assert says in str(caught.value)

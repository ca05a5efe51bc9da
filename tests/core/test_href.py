"""Addresses with facts in them: where a fact may stand, and that no fact leads elsewhere than its pattern does."""

import json
from urllib.parse import urljoin

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.basics.address import joined, normal
from sign_shelf.core.errors import InvalidDocument
from sign_shelf.core.formats import write_menu
from sign_shelf.core.model.documents import read_menu
from sign_shelf.core.model.href import made_address
from sign_shelf.core.outline import parse_outline

BASES = st.sampled_from(["https://x.example/", "http://y.example:80/sub/z?q", "https://x.example", "//z.example/a"])


@given(BASES, st.text("/a.?#;:é ", max_size=8))
def test_paths_are_joined_as_rfc_3986_has_it(base: str, path: str) -> None:
    assert joined(base, path) == urljoin(base, path)


def kept(url: str) -> str:
    raw = {"id": "a", "kind": "link", "label": {"en": "A"}, "target": {"url": url}}
    found = read_menu({"format": "sign-shelf/menu", "version": 1, "name": "x", "items": [raw]})
    return str(found.items[0].target.url)  # type: ignore[union-attr]


@pytest.mark.parametrize(
    "url",
    ["/crew/{visitor.id}/rota", "https://crew.example/{visitor.id}", "//crew.example/{a}/{b}", "?of={visitor.id}",
     "#{visitor.id}", "rota/{visitor.id}", "https://crew.example?of={visitor.id}", "/{visitor.id}"],
)  # fmt: skip
def test_facts_stand_after_the_host(url: str) -> None:
    assert kept(url) == url


@pytest.mark.parametrize(
    "url",
    ["{visitor.id}:alert(1)//", "{visitor.id}", "{visitor.id}/x", "java{visitor.id}:x", "//{visitor.id}/x",
     "https://{visitor.id}.example/", "https://crew.example{visitor.id}/", "{visitor.id}//evil.example/", "http:{a}/x",
     "https:/{visitor.id}", "crew{visitor.id}/x"],
)  # fmt: skip
def test_no_fact_says_scheme_or_host(url: str) -> None:
    with pytest.raises(InvalidDocument, match="before its path|has no host|expected http"):
        kept(url)


PATTERNS = st.sampled_from(
    [
        "/crew/{a}/rota",
        "/{a}/{b}",
        "https://crew.example/{a}",
        "//crew.example/x{a}y/{b}",
        "?of={a}",
        "#{a}",
        "rota/{a}",
    ]
)
BASE = "https://site.example/team/"


@given(
    PATTERNS,
    st.text(max_size=12) | st.sampled_from(["", ".", "..", "/", "//evil.example", "%2e%2e", ":", "\\", "?", "#"]),
    st.text(max_size=4),
)
def test_whatever_a_fact_says_the_address_leads_where_its_pattern_does(pattern: str, a: str, b: str) -> None:
    """To the host of the pattern, as deep as the pattern, and to nothing above it; else to nowhere."""
    try:
        made = made_address(pattern, {"a": a, "b": b})
    except UnicodeEncodeError:
        return  # Half of a character, which no fact holds that was admitted.
    if made is None:
        return
    plain, meant = normal(made, BASE), normal(pattern.replace("{a}", "A").replace("{b}", "B"), BASE)
    assert plain is not None
    assert meant is not None
    assert plain.split("/")[:3] == meant.split("/")[:3]
    assert plain.partition("?")[0].count("/") == meant.partition("?")[0].count("/")


@pytest.mark.parametrize("fact", ["", ".", ".."])
def test_facts_that_lead_up_make_no_address(fact: str) -> None:
    assert made_address("/crew/{a}/rota", {"a": fact}) is None
    assert made_address("/crew/x{a}/rota", {"a": fact}) is not None


def test_json_ld_ends_no_script_that_it_stands_in() -> None:
    written = write_menu(parse_outline('"</script><b>" -> /a'), "jsonld", language="en", site=None).text
    assert "</" not in written
    assert "</script><b>" in json.dumps(json.loads(written))

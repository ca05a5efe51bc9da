"""Outlines: the grammar by cases, the round trip as a law."""

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from sign_shelf.core.drawing.summary import summary_of
from sign_shelf.core.errors import OutlineRefused
from sign_shelf.core.model.documents import content_hash
from sign_shelf.core.model.menu import Link, MenuDocument, Opener, walk
from sign_shelf.core.model.tree import count, depth_of, numbers
from sign_shelf.core.outline import format_outline, parse_outline
from sign_shelf.core.outline.lines import item_lines
from tests.documents import documents, without_ids
from tests.examples import examples

DESIGN = """\
Timetables -> @timetables
  Summer -> @timetables-summer       {from 2027-04-01T04:00; until 2027-10-01T04:00}
  ---
  All routes -> *route under @routes by title max 12
Book -> https://tickets.brackwater.example/   {button l; icon ticket; new tab}
Company:
  Press -> ?                         {due 2027-02-12; owner ines; note page is being written}
  Ask us -> !question-form
Crew rota -> /crew/{visitor.id}/rota {when signed_in and roles has "crew"; on desktop, tablet}
+ shared:legal
"""


@given(documents)
@examples(150)
def test_document_to_outline_to_document_loses_nothing(document: MenuDocument) -> None:
    """Everything but ids survives the way through the outline."""
    assert without_ids(parse_outline(format_outline(document))) == without_ids(document)


@given(documents)
def test_formatting_is_normal(document: MenuDocument) -> None:
    """What was formatted, parsed and formatted again is the same text."""
    once = format_outline(document)
    assert format_outline(parse_outline(once)) == once


@given(documents)
def test_any_language_may_be_the_bare_one(document: MenuDocument) -> None:
    text = format_outline(document, language="ar")
    assert without_ids(parse_outline(text, language="ar")) == without_ids(document)


def test_the_design_example_reads_as_written() -> None:
    """The example of the format's description, aligned by hand, comes back in its normal form."""
    document = parse_outline(DESIGN)
    normal = "".join(
        line[: len(line) - len(line.lstrip())] + " ".join(line.split()) + "\n" for line in DESIGN.splitlines()
    )
    assert format_outline(document) == normal
    kinds = [item.kind for _, item in walk(document.items)]
    assert kinds == ["link", "link", "divider", "listing", "link", "heading", "link", "opener", "link", "include"]


def test_large_deep_and_mixed_scripts() -> None:
    """2 000 items, twelve levels, right-to-left labels, emoji, quotes and braces."""
    labels = ["الرحلات", "קו", "👩🏽‍🚀", '"Book"', "{now}", "A: b", "Ends:", "x -> y", "Fähre"]
    lines = []
    for number in range(2_000):
        label = labels[number % len(labels)].replace("\\", "\\\\").replace('"', '\\"')
        lines.append("  " * (number % 12) + f'"{label} {number}" -> /{number}')
    document = parse_outline("\n".join(lines))
    assert count(document.items) == 2_000
    assert depth_of(document.items) == 12
    again = parse_outline(format_outline(document))
    assert content_hash(again) == content_hash(document)


@pytest.mark.parametrize(
    ("pasted", "normal"),
    [
        ("- a\n\t- b\n\t\t- c\n- d", "a:\n  b:\n    c -> ?\nd -> ?\n"),
        ("1. One\n   2. Two\n3) Three", "One:\n  Two -> ?\nThree -> ?\n"),
        ("    • deep\n        • deeper\n    • flat", "deep:\n  deeper -> ?\nflat -> ?\n"),
        ("\ufeffBook -> /book\r\n\r\n* Home -> /", "Book -> /book\nHome -> /\n"),
        ("https://a.example/x/", "a.example/x -> https://a.example/x/\n"),
        ('Title: with colon -> /x\n"Quoted:" -> /y', 'Title: with colon -> /x\n"Quoted:" -> /y\n'),
    ],
)
def test_pasted_lists_are_understood(pasted: str, normal: str) -> None:
    """Tabs, bullets, numbers, other steps of indent, bare addresses."""
    assert format_outline(parse_outline(pasted)) == normal


@pytest.mark.parametrize(
    ("text", "line", "column", "says"),
    [
        ("a -> @x {frm 1}", 1, 10, 'Did you mean "from"'),
        ("ok -> /\na -> javascript:x", 2, 1, 'got "javascript:"'),
        ("a -> @x\n  ---\n    b", 3, 5, "divider cannot hold"),
        ('"a', 1, 1, "not closed"),
        ("a -> /x {when b", 1, 9, "not closed"),
        ("a -> /x {} y", 1, 12, "after the braces"),
        ("a -> /x y", 1, 9, "after the target"),
        ("x -> ? {on fridge}", 1, 9, "phone, tablet, desktop"),
        ("x -> ? {due 2027-02-31}", 1, 1, "2027-01-31"),
        ("x -> ? {new tab; new tab}", 1, 18, "set twice"),
        ("a\x00b", 1, 2, "U+0000"),
        ("a ->", 1, 5, "target is missing"),
        ("x} -> /", 1, 2, "quotes"),
        ("a -> *route max ten", 1, 7, "number"),
        ('"a" b', 1, 5, "->"),
        ("x" * 1_000_000, 1, 100_001, "100000"),
        ("\n".join("  " * level + f"l{level}" for level in range(30)), 25, 49, "24 levels"),
        ("a -> /x {badge Neu}", 1, 10, "badge"),
        ("evil \u202e -> /x", 1, 1, "reading direction"),
    ],
)
def test_refusals_say_where_and_what_would_work(text: str, line: int, column: int, says: str) -> None:
    with pytest.raises(OutlineRefused) as caught:
        parse_outline(text)
    assert (caught.value.line, caught.value.column) == (line, column)
    assert says in str(caught.value)


@given(st.text('aB:->[]*+{}"/é1. \t#h', max_size=12), st.text("/x->{}#? ", max_size=6))
@example("a -> b", "c")
def test_the_usual_line_is_read_as_any_other(label: str, rest: str) -> None:
    """Empty braces take a line off the short way on which most are read."""
    line = f"{label} -> /{rest}"

    def read(text: str) -> object:
        try:
            return parse_outline(text).items
        except OutlineRefused:
            return None

    if "{" not in line:
        assert read(line) == read(line + " {}")


def test_a_hundred_thousand_levels_are_refused() -> None:
    """Depth is limited before anything recursive runs."""
    deep = "\n".join(" " * level + "x" for level in range(3_000))
    with pytest.raises(OutlineRefused, match="24 levels"):
        parse_outline(deep)


@given(documents)
def test_the_lines_of_an_index_tell_of_every_item_what_the_document_says(document: MenuDocument) -> None:
    lines = list(item_lines(document))
    items = {item.id: item for _, item in walk(document.items)}
    assert [line.item for line in lines] == list(items)
    for line in lines:
        item = items[line.item]
        told = line.number, line.kind, line.rule, line.opens, line.closes
        assert told == (numbers(document.items)[item.id], item.kind, item.when, item.from_, item.until)
        assert line.label == "\n".join(getattr(item, "label", {}).values())
        target = item.target.to_json() if isinstance(item, Link | Opener) else {}
        assert line.page == target.get("page")
        assert (line.address is None) == (not target or bool({"page", "pending"} & target.keys()))
        assert line.host is None or line.host in str(line.address).lower()


def test_an_index_tells_the_host_as_browsers_do() -> None:
    menu = parse_outline(
        "A -> https://WWW.Example.com:8080/x\nB -> //cdn.example/y\nC -> /z\nD -> mailto:a@x.example\n"
    )
    assert [(line.address, line.host) for line in item_lines(menu)] == [
        ("https://WWW.Example.com:8080/x", "www.example.com:8080"),
        ("//cdn.example/y", "cdn.example"),
        ("/z", None),
        ("mailto:a@x.example", None),
    ]


@given(documents)
def test_a_summary_counts_what_is_there(document: MenuDocument) -> None:
    told = summary_of(document)
    assert (told.items, told.depth) == (count(document.items), depth_of(document.items))
    assert told.pending == sum(
        line.kind == "link" and line.page is line.address is None for line in item_lines(document)
    )
    assert told.lists == any(line.kind == "listing" for line in item_lines(document))
    assert [bar.id for bar in told.bars] == [item.id for item in document.items[:12]]

"""Generated documents: every kind of item, every kind of target, every setting, words of all scripts."""

from datetime import date, datetime
from itertools import count

from hypothesis import strategies as st

from sign_shelf.core.model.documents import read_menu
from sign_shelf.core.model.menu import AnyItem, MenuDocument, menu_document

AWKWARD = [
    "->",
    "a -> b",
    "x:",
    "{y}",
    '"',
    "\\",
    '\\"',
    "---",
    "+ a",
    "- a",
    "1. b",
    "; c",
    " lead",
    "trail ",
    "@p",
    "?",
    "}",
    "https://a.example/",
    "مرحبا",
    "שלום",
    "👩🏽‍🚀 crew",
    "…",
    "menu",
    "<b>",
    'nl "x"',
    "é",
    "a  b",
    "\u00a0x",
    "*",
    "#x",
    "!",
]

_plain = st.text(st.characters(exclude_categories=("Cc", "Cs", "Zl", "Zp", "Cf", "Cn")), min_size=1, max_size=12)
words = (st.sampled_from(AWKWARD) | _plain).filter(lambda text: not text.isspace())
languages = st.sampled_from(["en", "nl", "cy", "ar", "pt-BR", "new"])
labels = st.dictionaries(languages, words, min_size=1, max_size=3)
tokens = st.text(st.sampled_from("abcXYZ019-_.:/@"), min_size=1, max_size=8)
refs = st.text(st.sampled_from("abcz019-_./"), min_size=1, max_size=8)
addresses = st.sampled_from(
    [
        "/",
        "/a",
        "a/b?c=d",
        "?",
        "?q",
        "#",
        "#x",
        "@x",
        "!x",
        "*x",
        "+x",
        "-",
        "https://a.example/{visitor.id};x",
        "http://x.example",
        "//cdn.example/a",
        "/crew/{visitor.id}/rota",
        "http://x.example:81?a",
        "/ü",
        "'",
    ]
)
days = st.dates(date(2000, 1, 1), date(2099, 12, 31)).map(date.isoformat)


def _between(first: int, last: int) -> st.SearchStrategy[str]:
    return st.datetimes(datetime(first, 1, 1), datetime(last, 1, 1)).map(
        lambda moment: moment.strftime("%Y-%m-%dT%H:%M")
    )


times = _between(2000, 2049)
later = _between(2050, 2099)


def _some(**fields: st.SearchStrategy[object]) -> st.SearchStrategy[dict[str, object]]:
    return st.fixed_dictionaries({}, optional=fields)


targets = st.one_of(
    st.builds(lambda page, more: {"page": page} | more, refs, _some(part=refs)),
    addresses.map(lambda url: {"url": url}),
    refs.map(lambda part: {"part": part}),
    st.sampled_from(["a@b.example", "ünï@x.example"]).map(lambda email: {"email": email}),
    st.sampled_from(["+44 20 7946 0000", "112", "+1(2)3-4"]).map(lambda phone: {"phone": phone}),
    _some(note=words, owner=words, due=days).map(lambda pending: {"pending": pending}),
)
badges = st.builds(
    lambda label, more: {"label": label} | more, labels, _some(tone=st.sampled_from(["accent", "warn"]), until=days)
)
_emphasis = st.sampled_from([{}, {"emphasis": "strong"}, {"emphasis": "button"}, {"emphasis": "button", "size": "xl"}])
_icons = st.sampled_from([{}, {"icon": "ticket"}, {"icon": "bed", "icon_only": True}])
looks = st.builds(
    lambda emphasis, icon, more: emphasis | icon | more,
    _emphasis,
    _icons,
    _some(badge=badges, picture=addresses, hooks=st.lists(tokens, min_size=1, max_size=3)),
)
queries = _some(
    type=tokens,
    under=refs,
    order=st.sampled_from(["title", "path", "date"]),
    limit=st.integers(1, 1000),
    **{"except": st.lists(refs, min_size=1, max_size=3)},
)
_when = {
    "from": times,
    "until": later,
    "when": words,
    "devices": st.permutations(["phone", "tablet", "desktop"]).flatmap(
        lambda order: st.integers(1, 3).map(lambda n: order[:n])
    ),
}

_link = st.builds(
    lambda label, target, more: {"kind": "link", "label": label, "target": target} | more,
    labels,
    targets,
    _some(look=looks, new_tab=st.just(True), rel=st.lists(tokens, min_size=1, max_size=2), **_when),
)
_untitled = st.builds(lambda ref, more: {"kind": "link", "target": {"page": ref}} | more, refs, _some(**_when))
_heading = st.builds(lambda label, more: {"kind": "heading", "label": label} | more, labels, _some(look=looks, **_when))
_opener = st.builds(
    lambda label, key, more: {"kind": "opener", "label": label, "target": {"overlay": key}} | more,
    labels,
    refs,
    _some(look=looks, **_when),
)
_divider = _some(**_when).map(lambda more: {"kind": "divider"} | more)
_listing = st.builds(
    lambda query, more: {"kind": "listing", "list": query} | more, queries, _some(label=labels, look=looks, **_when)
)
_include = st.builds(
    lambda key, more: {"kind": "include", "menu": key} | more,
    st.sampled_from(["legal", "shared:legal"]),
    _some(**_when),
)
_leaves = st.one_of(_link, _untitled, _heading, _opener, _divider, _listing, _include)
_parents = st.one_of(_link, _heading, _opener)
_items = st.recursive(
    _leaves,
    lambda below: st.builds(
        lambda parent, items: parent | {"items": items}, _parents, st.lists(below, min_size=1, max_size=4)
    ),
    max_leaves=14,
)


def _numbered(raw: list[dict[str, object]]) -> list[dict[str, object]]:
    number = count(1)

    def visit(item: dict[str, object]) -> dict[str, object]:
        below = item.get("items", [])
        assert isinstance(below, list)
        return {"id": f"i{next(number)}"} | item | ({"items": [visit(child) for child in below]} if below else {})

    return [visit(item) for item in raw]


documents = st.builds(
    lambda name, raw: read_menu({"format": "sign-shelf/menu", "version": 1, "name": name, "items": _numbered(raw)}),
    words,
    st.lists(_items, max_size=5),
)

trees = documents.map(lambda document: document.items)


def without_ids(document: MenuDocument) -> object:
    """The document's JSON with the ids taken out, for comparing what an outline keeps."""

    def strip(value: object) -> object:
        if isinstance(value, dict):
            return {key: strip(inner) for key, inner in value.items() if not (key == "id" and "kind" in value)}
        return [strip(inner) for inner in value] if isinstance(value, list) else value

    return strip(document.to_json())


def menu_of(*items: AnyItem, name: str = "Menu") -> MenuDocument:
    return menu_document(name, tuple(items))

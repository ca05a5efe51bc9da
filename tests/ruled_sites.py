"""Generated sites whose entries have rules and windows, above and below each other, in places that fold."""

from hypothesis import strategies as st

from sign_shelf.core.model.documents import read
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.outline import parse_outline

NOW = "2027-02-01T12:00"
FACTS = {"roles": {"type": "tags", "values": ["crew", "skipper"]}}
AUDIENCES = {
    "visitor": {"signed_in": False, "roles": []},
    "crew": {"signed_in": True, "roles": ["crew"]},
    "skipper": {"signed_in": True, "roles": ["crew", "skipper"]},
}
RULES = [
    None,
    "signed_in",
    "not signed_in",
    "roles has crew",
    "roles has skipper and signed_in",
    "device is phone",
    "month in (6, 7)",
    "weekday is sunday and hour < 9",
    "page under /about",
    "language is nl",
    "roles has mate",
    "never",
]
WINDOWS = [
    (None, None),
    ("2027-06-01T04:00", None),
    (None, "2027-03-01T00:00"),
    ("2026-01-01T00:00", "2027-01-01T00:00"),
    ("2027-02-03T10:00", "2027-02-03T12:00"),
]
WHEN = [NOW, "2027-02-03T11:00", "2027-02-07T08:00", "2027-06-05T12:00", "2027-06-06T08:00", "2028-01-02T08:00"]
"""A moment of every class that the windows and rules above make."""
TEMPLATE = {
    "key": "t",
    "devices": {"phone": [0, 767], "tablet": [768, 1099], "desktop": [1100, None]},
    "locations": [
        {"key": "header", "title": "Header", "shape": "bar", "depth": 2, "devices": ["tablet", "desktop"],
         "fold": [{"into": "drawer", "on": ["phone"]}]},
        {"key": "drawer", "title": "Drawer", "shape": "drawer", "devices": ["phone"]},
        {"key": "legal", "title": "Legal line", "shape": "line", "depth": 1, "kinds": ["link"]},
    ],
}  # fmt: skip
PAGES = [{"ref": "about", "path": "/about"}, {"ref": "team", "path": "/about/team", "under": "about"},
         {"ref": "soon", "path": "/soon", "state": "draft"}, {"ref": "fair", "path": "/fair", "ends": "2027-06-06"},
         {"ref": "past", "path": "/past", "ends": "2027-01-15"}]  # fmt: skip


def site(menus: dict[str, list[dict[str, object]]], hung: dict[str, str], **more: object) -> SiteDocument:
    return read(
        SiteDocument,
        {
            "format": "sign-shelf/site",
            "version": 1,
            "site": {"key": "s", "name": "S", "base": "https://s.example/", "languages": ["en", "nl"],
                     "zone": "Europe/London"},
            "template": TEMPLATE,
            "facts": FACTS,
            "audiences": AUDIENCES,
            "menus": {key: {"format": "sign-shelf/menu", "version": 1, "name": key, "items": items}
                      for key, items in menus.items()},
            "placements": [{"location": place, "device": "desktop", "menu": menu} for place, menu in hung.items()],
            "pages": PAGES,
            **more,
        },
    )  # fmt: skip


def outlined(text: str, **hung: str) -> SiteDocument:
    return site({"m": parse_outline(text).to_json()["items"]}, hung or {"header": "m"})  # type: ignore[dict-item]


@st.composite
def sites(draw: st.DrawFn) -> SiteDocument:
    number = iter(range(100))

    def item(level: int) -> dict[str, object]:
        made: dict[str, object] = {"id": f"i{next(number)}", "label": {draw(st.sampled_from(["en", "nl"])): "x"}}
        rule = draw(st.sampled_from(RULES))
        opens, closes = draw(st.sampled_from(WINDOWS))
        extras = {
            "when": rule,
            "from": opens,
            "until": closes,
            "devices": draw(st.sampled_from([None, None, ["phone"]])),
        }
        made |= {key: value for key, value in extras.items() if value is not None}
        kind = draw(st.sampled_from(["link", "link", "heading"]))
        made["kind"] = kind
        if kind == "link":
            made["target"] = {"page": draw(st.sampled_from(["about", "team", "soon", "fair", "past"]))}
        if level < 3:
            made["items"] = [item(level + 1) for _ in range(draw(st.integers(0, 2)))]
        return made

    menus = {name: [item(1) for _ in range(draw(st.integers(1, 3)))] for name in ("one", "two")}
    return site(menus, {"header": "one", draw(st.sampled_from(["drawer", "legal"])): "two"})

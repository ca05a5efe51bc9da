"""A made-up site for looking at a template that no site uses yet: sample menus in all of its places."""

from sign_shelf.core.model.documents import read
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.model.template import Location, Template
from sign_shelf.core.outline import parse_outline

_MENUS = {
    1: "First -> @first\nSecond -> @second\nThird -> @third\nFourth -> @fourth\n",
    2: "First -> @first\nSecond -> @second\n  Below -> @second-below\n  Beside it -> @second-beside\nThird -> @third\nFourth -> @fourth\n",
    3: "First -> @first\nSecond -> @second\n  Below -> @second-below\n    Deep below -> @deep\n  Beside it -> @second-beside\n"
    "Third -> @third\nFourth -> @fourth\n",
}
_PAGES = {
    "home": ("/", "Home", None),
    "first": ("/first", "First", None),
    "second": ("/second", "Second", None),
    "second-below": ("/second/below", "Below", "second"),
    "second-beside": ("/second/beside", "Beside it", "second"),
    "deep": ("/second/below/deep", "Deep below", "second-below"),
    "third": ("/third", "Third", None),
    "fourth": ("/fourth", "Fourth", None),
}


def sample_site(template: Template) -> SiteDocument:
    """Its menus are as deep as each place shows, three levels at most; kinds that a place refuses are not in them."""
    menus = {
        f"sample-{depth}": parse_outline(f'{{menu "Sample {depth}"}}\n{text}').to_json()
        for depth, text in _MENUS.items()
    }
    return read(
        SiteDocument,
        {
            "format": "sign-shelf/site",
            "version": 1,
            "site": {"key": "sample", "name": "Your site", "base": "https://site.example/"},
            "template": template.to_json(),
            "menus": menus,
            "placements": [
                {"location": one.key, "device": device, "menu": f"sample-{min(one.depth, 3)}"}
                for one in template.locations
                if one.stand_in is None and one.of is None
                for device in _widest(one)
            ],
            "pages": [
                {"ref": ref, "path": path, "title": {"en": title}, **({"under": under} if under else {})}
                for ref, (path, title, under) in _PAGES.items()
            ],
        },
    )


def _widest(location: Location) -> tuple[str, ...]:
    return (max(location.devices, key=("phone", "tablet", "desktop").index),)

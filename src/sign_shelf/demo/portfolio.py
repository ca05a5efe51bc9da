"""Generated, lifelike site documents: as many as are wanted, the same for the same seed."""

from collections.abc import Iterator
from random import Random
from typing import Any

from sign_shelf.core.basics.ids import slug
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.site import SiteDocument

MENUS = 6
ITEMS = 60

_TRADES = ("Bakery", "Brewery", "Ceramics", "Cinema", "Cycles", "Farm", "Gallery", "Gardens", "Harbour", "Hotel",
           "Joinery", "Library", "Museum", "Nursery", "Orchard", "Physio", "Railway", "School", "Theatre", "Vets")  # fmt: skip
_PLACES = ("Alder", "Brant", "Carrow", "Dunmere", "Eastry", "Fallow", "Gorsley", "Harrow", "Inver", "Kelling",
           "Larkham", "Morrow", "Netley", "Orford", "Penrose", "Quarley", "Rushden", "Selwick", "Thorne", "Wexcombe")  # fmt: skip
_TOPICS = ("About", "Accessibility", "Booking", "Careers", "Classes", "Collections", "Community", "Contact", "Courses",
           "Delivery", "Directions", "Events", "Exhibitions", "Families", "Gift cards", "Groups", "History", "Journal",
           "Membership", "News", "Opening hours", "Our team", "Press", "Prices", "Questions", "Repairs", "Schools",
           "Seasons", "Shop", "Stories", "Support us", "Tickets", "Tours", "Visit", "Volunteering", "Workshops")  # fmt: skip
_WORDS = ("autumn", "early", "evening", "first", "free", "green", "guided", "late", "local", "members'", "new", "online",
          "open", "private", "quiet", "small", "spring", "summer", "weekend", "winter")  # fmt: skip
_PLACED = (("strip", "strip", ("tablet", "desktop")), ("header", "bar", ("tablet", "desktop")),
           ("drawer", "drawer", ("phone",)), ("side", "side", ("desktop",)),
           ("footer", "columns", ("phone", "tablet", "desktop")), ("legal", "line", ("phone", "tablet", "desktop")))  # fmt: skip


def portfolio(sites: int, seed: int) -> Iterator[SiteDocument]:
    """Sites of six menus of sixty items each, with the pages that they lead to."""
    random = Random(seed)
    for number in range(sites):
        yield _site(random, number)


def _site(random: Random, number: int) -> SiteDocument:
    name = f"{random.choice(_PLACES)} {random.choice(_TRADES)}"
    key = f"{slug(name, otherwise='site')}-{number + 1}"
    pages = [{"ref": "home", "path": "/", "title": {"en": name}}]
    for topic in _TOPICS:
        own = slug(topic, otherwise="page")
        pages.append({"ref": own, "path": f"/{own}", "title": {"en": topic}})
        for word in random.sample(_WORDS, 4):
            title = f"{word.capitalize()} {topic.lower()}"
            below = f"{own}-{slug(word, otherwise='more')}"
            pages.append({"ref": below, "path": f"/{own}/{below}", "title": {"en": title}, "under": own})
    whole: dict[str, Any] = {
        "format": "sign-shelf/site",
        "version": 1,
        "site": {"key": key, "name": name, "base": f"https://{key}.example/",
                 "zone": random.choice(["Europe/London", "Europe/Lisbon", "Europe/Amsterdam", "America/Halifax"])},
        "template": {
            "key": "generated", "title": "Generated",
            "devices": {"phone": [0, 767], "tablet": [768, 1099], "desktop": [1100, None]},
            "locations": [{"key": place, "title": place.capitalize(), "shape": shape, "depth": 3, "devices": devices}
                          for place, shape, devices in _PLACED],
        },
        "facts": {"member": {"type": "flag"}},
        "menus": {place: _menu(random, place, pages) for place, _, _ in _PLACED},
        "placements": [{"location": place, "device": devices[-1], "menu": place} for place, _, devices in _PLACED],
        "pages": pages,
    }  # fmt: skip
    return read(SiteDocument, whole, what=key)


def _menu(random: Random, name: str, pages: list[dict[str, Any]]) -> dict[str, Any]:
    """Six groups of nine entries each."""
    chosen = random.sample(pages[1:], ITEMS)
    items = [_link(random, number, page) for number, page in enumerate(chosen)]
    groups = [items[at] | {"items": items[at + 1 : at + ITEMS // MENUS]} for at in range(0, ITEMS, ITEMS // MENUS)]
    return {"format": "sign-shelf/menu", "version": 1, "name": name.capitalize(), "items": groups}


def _link(random: Random, number: int, page: dict[str, Any]) -> dict[str, Any]:
    target: dict[str, Any] = {"page": page["ref"]}
    if random.random() < 0.03:
        target = {"pending": {"note": "page is being written"}}
    elif random.random() < 0.05:
        target = {"url": f"https://{slug(page['title']['en'], otherwise='x')}.example/"}
    link = {"id": f"e{number}", "kind": "link", "label": page["title"], "target": target}
    return link | ({"when": "member"} if random.random() < 0.05 else {})

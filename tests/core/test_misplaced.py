"""Entries below the wrong parent: how many of those found are, and how many of those that are get found."""

from random import Random

import pytest

from sign_shelf.core.checks import Checked, SiteView
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import MenuDocument, menu_document, walk
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.model.tree import move
from sign_shelf.core.resolve import Prepared
from tests.core.test_checks import TODAY, view

SECTIONS = {
    "Boats": ("Ferries", "Pilots", "Dinghies", "Yachts", "Rowing", "Harbour", "Moorings", "Slipways"),
    "Trains": ("Steam", "Sleepers", "Branch line", "Signal box", "Platforms", "Engines", "Carriages", "Crossings"),
    "Museum": ("Paintings", "Ceramics", "Coins", "Maps", "Archive", "Loans", "Conservation", "Catalogue"),
    "Garden": ("Roses", "Orchard", "Glasshouse", "Ponds", "Compost", "Beehives", "Herbs", "Meadow"),
    "Kitchen": ("Soups", "Bread", "Puddings", "Suppers", "Picnics", "Hampers", "Tasting", "Cellar"),
    "Theatre": ("Plays", "Dance", "Opera", "Comedy", "Rehearsals", "Costumes", "Box office", "Stage door"),
}


def grown(random: Random, kind: str) -> SiteDocument:
    """A site whose menu follows its pages' addresses, or the words of their titles where all addresses are flat; with a group
    that gathers pages from everywhere, as home pages do."""
    pages, groups = [{"ref": "home", "path": "/"}], []
    for section, topics in random.sample(sorted(SECTIONS.items()), 5):
        own = section.lower()
        pages.append({"ref": own, "path": f"/{own}", "title": {"en": section}})
        below = []
        for topic in random.sample(topics, random.randint(4, 8)):
            ref = f"{own}-{topic.lower().replace(' ', '-')}"
            path = f"/{ref}" if kind == "words" else f"/{own}/{ref}"
            title = f"{section}: {topic.lower()}" if kind == "words" else topic
            pages.append({"ref": ref, "path": path, "title": {"en": title}})
            below.append({"id": ref, "kind": "link", "target": {"page": ref}})
        groups.append({"id": own, "kind": "link", "target": {"page": own}, "items": below})
    liked = random.sample([page["ref"] for page in pages if "-" in str(page["ref"])], 4)
    picks = [{"id": f"liked.{ref}", "kind": "link", "target": {"page": ref}} for ref in liked]
    groups.append({"id": "liked", "kind": "heading", "label": {"en": "Most read"}, "items": picks})
    menu = {"format": "sign-shelf/menu", "version": 1, "name": "Whole", "items": groups}
    return read(SiteDocument, view("").site.to_json() | {"pages": pages, "menus": {"m": menu}})


def jumbled(random: Random, menu: MenuDocument) -> tuple[MenuDocument, set[str]]:
    """Some of the entries, at least one in twenty, below another of the menu's sections; which."""
    below = [item.id for depth, item in walk(menu.items) if depth == 2 and not item.id.startswith("liked")]
    strays = random.sample(below, max(1, round(len(below) * 0.05)))
    items = menu.items
    for one in strays:
        others = [item.id for item in menu.items if item.id not in {one.partition("-")[0], "liked"}]
        items = move(items, one, parent=random.choice(others), at=random.randint(0, 3))
    return menu.with_items(items), set(strays)


def told(site: SiteDocument, menu: MenuDocument) -> set[str]:
    seen = SiteView(Prepared(site.model_copy(update={"menus": {"m": menu}})), TODAY)
    return {str(one.item) for one in Checked.of(seen).findings() if one.code == "wrong-parent"}


@pytest.mark.parametrize("kind", ["addresses", "words"])
def test_of_those_told_nine_in_ten_are_wrong_and_most_of_the_wrong_are_told(kind: str) -> None:
    random = Random(12)
    right = wrong = missed = 0
    for _ in range(60):
        site = grown(random, kind)
        assert told(site, site.menus["m"]) == set()
        menu, strays = jumbled(random, site.menus["m"])
        found = told(site, menu)
        right += len(found & strays)
        wrong += len(found - strays)
        missed += len(strays - found)
    assert right >= 0.9 * (right + wrong), (right, wrong, missed)
    assert right >= 0.6 * (right + missed), (right, wrong, missed)


def test_a_menu_that_follows_something_else_is_left_alone() -> None:
    random = Random(5)
    for _ in range(20):
        site = grown(random, "addresses")
        menu = site.menus["m"]
        flat = [item for depth, item in walk(menu.items) if depth == 2]
        random.shuffle(flat)
        heads = [item.model_copy(update={"items": tuple(flat[at::5])}) for at, item in enumerate(menu.items[:5])]
        assert told(site, menu_document("Shuffled", tuple(heads))) == set()

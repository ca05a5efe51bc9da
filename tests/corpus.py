"""A generated corpus of menus as agencies have them, and the same menus after somebody worked on them.

Everything follows from a seed, so that a measured share means the same menus each time.
"""

from dataclasses import dataclass
from random import Random

from sign_shelf.core.model.menu import (
    AnyItem,
    Divider,
    Heading,
    Include,
    Link,
    Listing,
    PageTarget,
    Parent,
    Query,
    UrlTarget,
    children,
)
from sign_shelf.core.model.tree import Tree, index_by_id, insert, parents, rebuilt, remove

_NOUNS = [
    "timetable",
    "fares",
    "cabin",
    "harbour",
    "island",
    "crossing",
    "pass",
    "group",
    "school",
    "freight",
    "bicycle",
    "dog",
    "luggage",
    "lounge",
    "galley",
    "deck",
    "ticket",
    "season",
    "winter",
    "summer",
    "evening",
    "harvest",
    "garden",
    "orchard",
    "seed",
    "glass",
    "clay",
    "kiln",
    "wheel",
    "workshop",
    "course",
    "branch",
    "reading",
    "library",
    "archive",
    "newspaper",
    "festival",
    "stage",
    "choir",
    "orchestra",
    "museum",
    "railway",
    "steam",
    "engine",
    "carriage",
    "signal",
]
_WORDS = [
    "our",
    "your",
    "all",
    "new",
    "local",
    "daily",
    "first",
    "open",
    "quiet",
    "early",
    "late",
    "northern",
    "southern",
    "old",
    "little",
    "great",
]
_VERBS = ["visit", "book", "find", "join", "hire", "learn", "plan", "support", "explore", "renew", "return", "request"]


@dataclass(frozen=True)
class Worked:
    """`after` has ids of its own; `truth` names for each of them the item of `before` that it is."""

    before: Tree
    after: Tree
    truth: dict[str, str]
    touched: int


def realistic_menu(random: Random, items: int) -> Tree:
    """Links, some headings, dividers, listings and includes; up to four levels; few labels that occur twice."""
    number = 0

    def label() -> str:
        words = [random.choice(_VERBS + _WORDS), random.choice(_NOUNS)]
        return " ".join(words + random.sample(_NOUNS, random.choice([0, 0, 1]))).capitalize()

    def item(level: int) -> AnyItem:
        nonlocal number
        number += 1
        item_id, kind = f"n{number}", random.random()
        if kind < 0.03 and level > 1:
            return Divider(id=item_id, kind="divider")
        if kind < 0.05:
            return Listing(
                id=item_id, kind="listing", label={"en": label()}, list=Query(type=random.choice(_NOUNS), limit=9)
            )
        if kind < 0.06:
            return Include(id=item_id, kind="include", menu=random.choice(_NOUNS))
        words = label()
        below = level_of(level + 1, random.choice([0, 0, 2, 3, 5, 8])) if level < 4 else ()
        if below and kind < 0.3:
            return Heading(id=item_id, kind="heading", label={"en": words}, items=below)
        path = f"/{words.lower().replace(' ', '-')}"
        target = (
            PageTarget(page=path[1:]) if random.random() < 0.7 else UrlTarget(url=f"https://{number}.example{path}")
        )
        return Link(
            id=item_id, kind="link", label={"en": words}, target=target, new_tab=random.random() < 0.1, items=below
        )

    def level_of(level: int, count: int) -> Tree:
        return tuple(item(level) for _ in range(count) if number < items)

    found: list[AnyItem] = []
    while number < items:
        found.append(item(1))
    return tuple(found)


def worked_on(before: Tree, random: Random, share: float = 0.2) -> Worked:
    """The menu after `share` of its items were relabelled, moved or pointed elsewhere, ids stripped."""
    after = before
    chosen = random.sample(sorted(index_by_id(before)), int(len(index_by_id(before)) * share))
    for item_id in chosen:
        item = index_by_id(after)[item_id]
        can = ["move"] + (["relabel"] if getattr(item, "label", None) else [])
        can += ["retarget"] if isinstance(item, Link) else []
        match random.choice(can):
            case "relabel":
                after = _changed(after, item_id, {"label": {"en": _reworded(item, random)}})
            case "retarget":
                after = _changed(after, item_id, {"target": UrlTarget(url=f"/moved/{random.randrange(10**6)}")})
            case _:
                after = _moved(after, item_id, random)
    names = {
        item_id: f"x{at}" for at, item_id in enumerate(random.sample(sorted(index_by_id(after)), len(parents(after))))
    }
    renamed = tuple(rebuilt(item, lambda one: {"id": names[one.id]}) for item in after)
    return Worked(before, renamed, {new: old for old, new in names.items()}, len(chosen))


def _changed(items: Tree, item_id: str, fields: dict[str, object]) -> Tree:
    return tuple(rebuilt(item, lambda one: fields if one.id == item_id else {}) for item in items)


def _reworded(item: AnyItem, random: Random) -> str:
    words = str(getattr(item, "label", {}).get("en", "")).split()
    if random.random() < 0.5:
        return " ".join([*words, random.choice(_NOUNS)])
    return f"{random.choice(_VERBS)} {random.choice(_NOUNS)} {random.choice(_NOUNS)}".capitalize()


def _moved(items: Tree, item_id: str, random: Random) -> Tree:
    item = index_by_id(items)[item_id]
    inside = index_by_id((item,))
    rest = remove(items, item_id)
    homes = [one.id for one in index_by_id(rest).values() if isinstance(one, Parent) and one.id not in inside]
    parent = random.choice([None, *homes])
    siblings = rest if parent is None else children(index_by_id(rest)[parent])
    return insert(rest, item, parent=parent, at=random.randint(0, len(siblings)))

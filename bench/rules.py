"""Rules analysed pairwise beside a plain loop, and who sees what of a large menu, in the same run."""

import random
import time
import tracemalloc
from collections.abc import Sequence
from itertools import islice
from math import prod

from bench.trees import Median, Row
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.facts import FactType
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.resolve import Prepared
from sign_shelf.core.rules import Rule, read_rule
from sign_shelf.core.rules.analyse import analyse
from sign_shelf.core.rules.classes import Classes
from sign_shelf.core.visitors.ever_seen import ever_seen
from sign_shelf.core.visitors.who_sees import who_sees
from tests.plain_rules import plainly

RULES = 1_000
LOOPED = 300
"""Combinations that the plain loop goes through: its time for all of them follows by their number."""

FACTS = {
    "signed_in": FactType(type="flag"),
    "member": FactType(type="flag"),
    "newsletter": FactType(type="flag"),
    "basket": FactType(type="flag"),
    "plan": FactType(type="choice", values=("free", "day", "season", "year")),
    "region": FactType(type="choice", values=("mainland", "islands", "abroad")),
    "roles": FactType(type="tags", values=("crew", "skipper", "office")),
    "interests": FactType(type="tags", values=("boats", "birds")),
    "visits": FactType(type="number", min=0, max=1000, whole=True),
    "age": FactType(type="number", min=0, max=120, whole=True),
    "path": FactType(type="path"),
    "campaign": FactType(type="text"),
}


def _test(rnd: random.Random) -> str:
    name = rnd.choice(list(FACTS))
    fact = FACTS[name]
    match fact.type:
        case "flag":
            return name
        case "choice":
            return (
                f"{name} is {rnd.choice(fact.values)}"
                if rnd.random() < 0.6
                else f"{name} in ({', '.join(rnd.sample(fact.values, 2))})"
            )
        case "tags":
            return f"{name} has {rnd.choice(fact.values)}"
        case "number":
            return f"{name} {rnd.choice(['<', '<=', '>', '>='])} {rnd.choice([5, 18, 30, 65])}"
        case "path":
            return f"{name} under /{rnd.choice(['about', 'news', 'shop'])}"
        case _:
            return f'{name} like "*{rnd.choice(["spring", "autumn"])}*"'


def _text(rnd: random.Random, levels: int) -> str:
    if levels == 0 or rnd.random() < 0.25:
        return ("not " if rnd.random() < 0.2 else "") + _test(rnd)
    joined = rnd.choice([" and ", " or "]).join(_text(rnd, levels - 1) for _ in range(rnd.choice([2, 2, 3])))
    return f"({joined})"


def _plain_loop(rules: Sequence[Rule], classes: Classes, combinations: int) -> float:
    """Seconds for evaluating every rule for so many combinations, and noting which pairs they refute."""
    rnd = random.Random(7)
    cubes = [
        {at: 1 << rnd.randrange(len(axis.members)) for at, axis in enumerate(classes.axes)} for _ in range(combinations)
    ]
    visitors = [classes.visitor(cube) for cube in cubes]
    begin = time.perf_counter()
    refuted: set[tuple[int, int]] = set()
    for visitor in visitors:
        shown = [plainly(rule, visitor) is True for rule in rules]
        holds = [at for at, one in enumerate(shown) if one]
        fails = [at for at, one in enumerate(shown) if not one]
        refuted.update((one, other) for one in islice(holds, 50) for other in islice(fails, 50))
    return time.perf_counter() - begin


def rule_lines(median: Median) -> list[Row]:
    rnd = random.Random(4)
    rules = [read_rule(_text(rnd, 2), FACTS) for _ in range(RULES)]
    spent = median(lambda: analyse(rules, FACTS), 5)
    tracemalloc.start()
    told = analyse(rules, FACTS)
    _, most = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    classes = Classes(rules, FACTS)
    combinations = prod(len(axis.members) for axis in classes.axes)
    looped = _plain_loop(rules, classes, LOOPED) / LOOPED * combinations
    open_ = sum(len(one.not_decided) for one in told)
    prepared = Prepared(_site(rnd))
    languages = ["en", "nl", "pl"]
    first = median(lambda: who_sees(Prepared(prepared.site), "header", at="2026-12-01T12:00", languages=languages), 5)
    again = median(lambda: who_sees(prepared, "header", at="2026-12-01T12:00", languages=languages), 5)
    ever = median(lambda: ever_seen(Prepared(prepared.site), "2026-12-01T12:00"), 3)
    return [
        (
            "rules analysed pairwise",
            f"{RULES:,} rules over {len(FACTS)} facts, {combinations:,} combinations".replace(",", " "),
            f"{spent:.0f} ms, at most {most / 1e6:.0f} MB, {open_} pairs not decided",
            f"a plain loop over {LOOPED} of the combinations, scaled to all: {looped / 3600:.1f} h "
            f"({looped * 1_000 / spent:,.0f}×)".replace(",", " "),
            "< 1 s, ≥ 200×, < 300 MB",
        ),
        (
            "who sees what: the matrix of a place",
            "500 items × 12 audiences × 3 devices × 3 languages",
            f"{first:.0f} ms with reading the menus, {again:.0f} ms after",
            f"whether anybody ever sees each, over the whole site: {ever:.0f} ms",
            "< 300 ms",
        ),
    ]


def _site(rnd: random.Random) -> SiteDocument:
    """500 items on three levels, a fifth with a rule; twelve audiences that differ in what they know."""
    rules = ["signed_in", "not signed_in", 'roles has "crew"', 'roles has any ("crew", "skipper") and device is "phone"',
             "month >= 4 and month < 10", "visits > 3", "page under /about"]  # fmt: skip
    numbers = iter(range(1_000))

    def item(below: int) -> dict[str, object]:
        number = next(numbers)
        made: dict[str, object] = {"id": f"i{number}", "kind": "link", "label": {"en": f"Item {number}", "nl": f"Ding {number}"},
                                   "target": {"url": f"/p{number}"}}  # fmt: skip
        if rnd.random() < 0.2:
            made["when"] = rnd.choice(rules)
        if below:
            made["items"] = [item(3 if below == 8 else 0) for _ in range(below)]
        return made

    items = [item(8) for _ in range(16)]
    return read(SiteDocument, {
        "format": "sign-shelf/site", "version": 1,
        "site": {"key": "s", "name": "S", "base": "https://s.example/", "languages": ["en", "nl", "pl"], "zone": "Europe/London"},
        "template": {"key": "t", "devices": {"phone": [0, 767], "tablet": [768, 1099], "desktop": [1100, None]}, "locations": [
            {"key": "header", "title": "Header", "shape": "bar", "devices": ["tablet", "desktop"],
             "fold": [{"into": "drawer", "on": ["phone"]}]},
            {"key": "drawer", "title": "Drawer", "shape": "drawer", "devices": ["phone"]}]},
        "facts": {"roles": {"type": "tags", "values": ["crew", "skipper"]}, "visits": {"type": "number"}},
        "audiences": {f"audience {at}": {"signed_in": at % 2 == 0, "roles": [["crew"], ["skipper"], []][at % 3], "visits": at}
                      for at in range(12)},
        "menus": {"header": {"format": "sign-shelf/menu", "version": 1, "name": "Header", "items": items[:16]}},
        "placements": [{"location": "header", "device": "desktop", "menu": "header"}],
    })  # fmt: skip

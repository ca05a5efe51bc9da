"""What the rules of menus ask for, of all that a site knows of its visitors."""

import re
from collections.abc import Iterable

from sign_shelf.core.model.facts import FactSet
from sign_shelf.core.model.menu import MenuDocument, walk

_NAME = re.compile(r"[^\W\d]\w*")


def asked_for(menus: Iterable[MenuDocument], known: FactSet) -> FactSet:
    """Of what is known, the rules and facts whose names stand in the entries' rules, or in those rules in turn. One that
    stands there as a word of a text comes too: it does no harm."""
    if not known.rules and not known.facts:
        return known
    open_ = [item.when for menu in menus for _, item in walk(menu.items) if item.when]
    words: set[str] = set()
    while open_:
        fresh = set(_NAME.findall(open_.pop())) - words
        words |= fresh
        open_ += [known.rules[word] for word in sorted(fresh & known.rules.keys())]
    return FactSet(
        facts={name: fact for name, fact in known.facts.items() if name in words},
        rules={name: rule for name, rule in known.rules.items() if name in words},
    )

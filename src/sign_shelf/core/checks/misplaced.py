"""Entries that probably stand below the wrong parent: by their address, by the pages beside them, by the words of labels.

Silence is cheap and a false word is not: an entry is told only where another parent has what speaks for it, the present one
has nothing, the entries beside it do belong where they stand, and the menu as a whole follows the same evidence. A menu that
is grouped by something else (most read, for members) is left alone.
"""

import re
from collections import Counter, defaultdict
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from sign_shelf.core.checks.view import Line
from sign_shelf.core.model.menu import AnyItem, Link, PageTarget, children
from sign_shelf.core.model.site import Page

FOLLOWS = 0.8
"""Of the entries that evidence speaks of at all, how many must stand where it says."""
MOST_SPOKEN_FOR = 12
"""Groups that have the same word or folder; more are not told apart by it."""
Steps = tuple[str, ...]


@dataclass(frozen=True)
class Misplaced:
    """`stands` is the line that the entry stands below, `better` the one that it probably belongs below."""

    line: Line
    stands: Line
    better: Line
    because: str


@dataclass(frozen=True)
class _Entry:
    """`steps` of its page's path; `folder` all but the last; empty where it leads to no page of the site."""

    line: Line
    page: Page | None
    steps: Steps
    words: frozenset[str]

    @property
    def folder(self) -> Steps:
        return self.steps[:-1]


@dataclass(frozen=True)
class _Group:
    """A parent with what stands directly below it."""

    parent: _Entry
    members: tuple[_Entry, ...]
    folders: Counter[Steps]
    words: Counter[str]
    above: frozenset[str]
    """Ids of all that it stands below, its own included."""

    def others(self, entry: _Entry) -> int:
        return len(self.members) - self.has(entry)

    def has(self, entry: _Entry) -> bool:
        return entry.line.above is self.parent.line

    def beside(self, entry: _Entry) -> int:
        """Pages in the entry's own folder, without the entry."""
        return self.folders[entry.folder] - self.has(entry) if entry.folder else 0

    def holds(self, entry: _Entry) -> int:
        """How many steps of the entry's path the parent's page leads down."""
        own = self.parent.steps
        if self.parent.page is not None and entry.page is not None and entry.page.under == self.parent.page.ref:
            return max(len(own), 1)
        return len(own) if own and len(entry.steps) > len(own) and entry.steps[: len(own)] == own else 0

    def by_path(self, entry: _Entry) -> int:
        """How strongly address and neighbours speak for the group: 0 not at all."""
        others, beside = self.others(entry), self.beside(entry)
        return 2 * self.holds(entry) + (others >= 2 and 2 * beside >= others)

    def shared(self, entry: _Entry) -> frozenset[str]:
        """Words of the entry that the parent has, or several of those beside it."""
        mine = entry.words if self.has(entry) else frozenset[str]()
        several = {word for word in entry.words if self.words[word] - (word in mine) >= 2}
        return (entry.words & self.parent.words) | several

    def by_words(self, entry: _Entry) -> int:
        """How strongly labels do: the parent's word, that at least half of the others have as well."""
        others = self.others(entry)
        mine = entry.words if self.has(entry) else frozenset[str]()
        named = [word for word in entry.words & self.parent.words if 2 * (self.words[word] - (word in mine)) >= others]
        return len(named) if others >= 2 else 0


Strength = Callable[[_Group, _Entry], int]


@dataclass(frozen=True)
class _Menu:
    groups: Mapping[str, _Group]
    """By the parent's id."""
    by_path: dict[Steps, list[_Group]] = field(default_factory=lambda: defaultdict(list))
    by_folder: dict[Steps, list[_Group]] = field(default_factory=lambda: defaultdict(list))
    by_ref: dict[str, list[_Group]] = field(default_factory=lambda: defaultdict(list))
    by_word: dict[str, list[_Group]] = field(default_factory=lambda: defaultdict(list))

    def __post_init__(self) -> None:
        for group in self.groups.values():
            if group.parent.steps:
                self.by_path[group.parent.steps].append(group)
            if group.parent.page is not None:
                self.by_ref[group.parent.page.ref].append(group)
            for folder in group.folders:
                self.by_folder[folder].append(group)
            for word in group.parent.words:
                self.by_word[word].append(group)

    def near(self, entry: _Entry) -> Iterator[_Group]:
        """Groups that address or neighbours may speak for."""
        for length in range(1, len(entry.steps)):
            yield from _few(self.by_path.get(entry.steps[:length]))
        if entry.folder:
            yield from _few(self.by_folder.get(entry.folder))
        if entry.page is not None and entry.page.under is not None:
            yield from _few(self.by_ref.get(entry.page.under))

    def named(self, entry: _Entry) -> Iterator[_Group]:
        for word in entry.words:
            yield from _few(self.by_word.get(word))

    def best(self, entry: _Entry, among: Iterator[_Group], strength: Strength) -> tuple[_Group, int] | None:
        """The one group that is spoken for most strongly; None where there is none, or several are alike."""
        told = {group.parent.line.item.id: (group, strength(group, entry)) for group in among}
        ranked = sorted(told.values(), key=lambda one: -one[1])
        if not ranked or ranked[0][1] == 0 or (len(ranked) > 1 and ranked[1][1] == ranked[0][1]):
            return None
        return ranked[0]


def _few(groups: list[_Group] | None) -> list[_Group]:
    """What speaks for many speaks for none of them."""
    return groups if groups is not None and len(groups) <= MOST_SPOKEN_FOR else []


def misplaced(
    lines: Sequence[Line], pages: Mapping[str, Page], called: Callable[[AnyItem], str]
) -> Iterator[Misplaced]:
    """In document order; `called` is what visitors read of an item."""
    if sum(1 for line in lines if children(line.item)) < 2:
        return
    entries = {line.item.id: _entry(line, pages, called) for line in lines}
    menu = _Menu(_groups(lines, entries))
    below = [entry for entry in entries.values() if entry.line.above is not None and isinstance(entry.line.item, Link)]
    found: dict[str, Misplaced] = {}
    for near, strength, because in (
        (menu.near, _Group.by_path, _path_says), (menu.named, _Group.by_words, _words_say)
    ):  # fmt: skip
        told = {entry.line.item.id: menu.best(entry, near(entry), strength) for entry in below}
        spoken = [(entry, best[0]) for entry in below if (best := told[entry.line.item.id]) is not None]
        stays = {entry.line.item.id for entry, group in spoken if group.has(entry)}
        if not spoken or len(stays) < FOLLOWS * len(spoken):
            continue
        for entry, group in spoken:
            if (
                entry.line.item.id not in stays
                and entry.line.item.id not in found
                and _stray(menu, entry, group, stays)
            ):
                assert entry.line.above is not None
                found[entry.line.item.id] = Misplaced(
                    entry.line, entry.line.above, group.parent.line, because(entry, group)
                )
    yield from (found[line.item.id] for line in lines if line.item.id in found)


def _stray(menu: _Menu, entry: _Entry, better: _Group, stays: set[str]) -> bool:
    above = entry.line.above
    assert above is not None
    here = menu.groups[above.item.id]
    if better.parent.line.item.id in here.above or entry.line.item.id in better.above:
        return False  # It stands below that one already, some levels down; or that one below it.
    if here.holds(entry) or here.beside(entry) or here.shared(entry):
        return False
    if any(one.page is not None and one.page == entry.page for one in better.members):
        return False  # There is one there: this is a second way.
    if better.others(entry) < 2:
        return False
    others = [one for one in here.members if one is not entry]
    return bool(others) and 2 * sum(one.line.item.id in stays for one in others) >= len(others)


def _path_says(entry: _Entry, better: _Group) -> str:
    beside = better.beside(entry)
    where = f"{'/'.join(('', *entry.steps))} is under {'/'.join(('', *better.parent.steps))}"
    if better.holds(entry) and better.parent.steps:
        return where + (f", as {beside} of its neighbours there are" if beside else "")
    return f"{beside} entries below {'/'.join(('', *entry.folder))} stand together elsewhere"


def _words_say(entry: _Entry, better: _Group) -> str:
    word = min(entry.words & better.parent.words)
    return f"it speaks of “{word}”, as those there do"


def _groups(lines: Sequence[Line], entries: Mapping[str, _Entry]) -> dict[str, _Group]:
    members: dict[str, list[_Entry]] = defaultdict(list)
    above: dict[str, frozenset[str]] = {}
    for line in lines:
        own = line.item.id
        above[own] = (above[line.above.item.id] if line.above is not None else frozenset()) | {own}
        if line.above is not None and isinstance(line.item, Link):
            members[line.above.item.id].append(entries[own])
    return {
        parent: _Group(
            entries[parent],
            tuple(mine),
            Counter(one.folder for one in mine if one.folder),
            Counter(word for one in mine for word in one.words),
            above[parent],
        )
        for parent, mine in members.items()
    }


def _entry(line: Line, pages: Mapping[str, Page], called: Callable[[AnyItem], str]) -> _Entry:
    target = line.item.target if isinstance(line.item, Link) else None
    page = pages.get(target.page) if isinstance(target, PageTarget) else None
    steps = tuple(step for step in page.path.partition("?")[0].split("/") if step) if page is not None else ()
    return _Entry(line, page, steps, _words(called(line.item)))


_WORD = re.compile(r"[^\W\d_]{3,}")
_COMMON = frozenset(re.findall(
    r"\w+",
    "about all and are for from get how more new our out see the this to what where with you your "
    "alle bij deze een het hoe meer met naar onze over van voor wat alles auf bei das dem den der die ein eine für mit "
    "über und uns von vor was wie zum zur com como dos das mais nas nos para por que uma sobre dla jak nas nie przez",
))  # fmt: skip


def _words(label: str) -> frozenset[str]:
    """Words that tell something, plural and singular as one."""
    found = (word.casefold() for word in _WORD.findall(label))
    return frozenset(_stem(word) for word in found if word not in _COMMON)


def _stem(word: str) -> str:
    if len(word) > 4 and word.endswith("ies"):
        return word[:-3] + "y"
    return word[:-1] if len(word) > 3 and word.endswith("s") and not word.endswith("ss") else word

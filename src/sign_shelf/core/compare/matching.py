"""Which items of two trees are the same, by what they say and where they stand: for trees whose ids mean nothing.

Equal subtrees first, largest first; then, round by round, the best overall assignment of what is left (the linear sum
assignment problem, solved by SciPy's modified Jonker-Volgenant algorithm) on label, target, settings, position and
children. Each round sees the parents, neighbours and children that the rounds before have matched.
"""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, TypeVar, cast

import numpy as np
from numpy.typing import NDArray

from sign_shelf.core.compare.edits import own_json
from sign_shelf.core.model.menu import AnyItem, Labelled, children
from sign_shelf.core.model.tree import Tree, rebuilt

if TYPE_CHECKING:
    from scipy.sparse import csr_array

Scores = NDArray[np.float32]
K = TypeVar("K")

#: What each likeness weighs; together 1.
_WEIGHTS = {"label": 0.34, "target": 0.26, "kind": 0.04, "rest": 0.06, "parent": 0.1, "beside": 0.1, "below": 0.1}
#: Children found again say more than anything of a parent that was renamed and pointed elsewhere.
_SHARED_CHILDREN = 0.15
#: A round takes pairs that are at least this much alike: the surest first, as they inform the others.
_ROUNDS = (0.66, 0.5, 0.42)
#: Above so many pairs to score, only equal subtrees and equal items are matched: memory stays bounded.
_MOST_PAIRS = 9_000_000


@dataclass(frozen=True)
class Match:
    """`id` in the first tree; `confidence` from 0 to 1, 1 for items that are equal or known beforehand."""

    id: str
    confidence: float


def match_by_content(before: Tree, after: Tree, seeds: Mapping[str, str] | None = None) -> dict[str, Match]:
    """For ids of `after`, the item of `before` that it is. `seeds` pairs ids (after → before) known beforehand."""
    matching = _Matching(_Side(before), _Side(after))
    for theirs, ours in (seeds or {}).items():
        matching.pair_ids(ours, theirs)
    matching.equal_subtrees()
    matching.equal_items()
    for threshold in _ROUNDS:
        matching.best_assignment(threshold)
    return matching.found()


def adopt_ids(before: Tree, after: Tree, matches: Mapping[str, Match]) -> Tree:
    """`after` with the ids of the items it was matched with; the others keep theirs, or get a free one."""
    taken = {match.id for match in matches.values()} | set(_Side(before).ids)
    names = {theirs: match.id for theirs, match in matches.items()}
    for own in _Side(after).ids:
        if own not in names:
            free, number = own, 2
            while free in taken:
                free, number = f"{own[:56]}-{number}", number + 1
            taken.add(free)
            names[own] = free
    return tuple(rebuilt(item, lambda one: {"id": names[one.id]} if names[one.id] != one.id else {}) for item in after)


class _Side:
    """One tree as arrays, in document order; -1 stands for "none" among parents, neighbours and children."""

    def __init__(self, tree: Tree) -> None:
        self.items: list[AnyItem] = []
        parents: list[int] = []
        before: list[int] = []
        behind: list[int] = []
        self.below: list[list[int]] = []
        stack: list[tuple[int, AnyItem]] = [(-1, item) for item in reversed(tree)]
        last: dict[int, int] = {}
        while stack:
            parent, item = stack.pop()
            at = len(self.items)
            self.items.append(item)
            parents.append(parent)
            self.below.append([])
            if parent >= 0:
                self.below[parent].append(at)
            earlier = last.get(parent, -1)
            before.append(earlier)
            behind.append(-1)
            if earlier >= 0:
                behind[earlier] = at
            last[parent] = at
            stack += [(at, child) for child in reversed(children(item))]
        self.parent = np.array(parents, dtype=np.int64)
        self.before = np.array(before, dtype=np.int64)
        self.behind = np.array(behind, dtype=np.int64)
        self.ids = [item.id for item in self.items]
        self.targets = [_target(item) for item in self.items]
        self.rest = [_rest(item) for item in self.items]
        self.own = [(item.kind, _label(item), self.targets[at], self.rest[at]) for at, item in enumerate(self.items)]
        self.size = [1] * len(self.items)
        self.hash = [0] * len(self.items)
        for at in range(len(self.items) - 1, -1, -1):
            self.size[at] += sum(self.size[child] for child in self.below[at])
            self.hash[at] = hash((self.own[at], tuple(self.hash[child] for child in self.below[at])))


def _label(item: AnyItem) -> tuple[tuple[str, str], ...]:
    return tuple(sorted(item.label.items())) if isinstance(item, Labelled) else ()


def _target(item: AnyItem) -> str:
    return repr(getattr(item, "target", None) or getattr(item, "list", None) or getattr(item, "menu", None))


def _rest(item: AnyItem) -> str:
    raw = own_json(item)
    return repr(sorted((key, str(value)) for key, value in raw.items() if key not in _APART))


_APART = {"id", "origin", "kind", "label", "target", "list", "menu"}


class _Matching:
    def __init__(self, ours: _Side, theirs: _Side) -> None:
        self.ours, self.theirs = ours, theirs
        self.of_ours = np.full(len(ours.items), -1, dtype=np.int64)
        self.of_theirs = np.full(len(theirs.items), -1, dtype=np.int64)
        self.sure = np.zeros(len(theirs.items))

    def found(self) -> dict[str, Match]:
        return {
            self.theirs.ids[at]: Match(self.ours.ids[int(mate)], round(float(self.sure[at]), 2))
            for at, mate in enumerate(self.of_theirs)
            if mate >= 0
        }

    def pair(self, ours: int, theirs: int, confidence: float) -> None:
        if self.of_ours[ours] < 0 and self.of_theirs[theirs] < 0:
            self.of_ours[ours], self.of_theirs[theirs] = theirs, ours
            self.sure[theirs] = confidence

    def pair_ids(self, ours: str, theirs: str) -> None:
        if ours in self.ours.ids and theirs in self.theirs.ids:
            self.pair(self.ours.ids.index(ours), self.theirs.ids.index(theirs), 1.0)

    def equal_subtrees(self) -> None:
        """Subtrees that each side has as often, in order; single items only where neither side has a second."""
        ours, theirs = self._by(self.ours.hash, self.of_ours), self._by(self.theirs.hash, self.of_theirs)
        for at in sorted(range(len(self.theirs.items)), key=lambda one: -self.theirs.size[one]):
            mine, other = ours.get(self.theirs.hash[at], []), theirs.get(self.theirs.hash[at], [])
            if self.of_theirs[at] >= 0 or len(mine) != len(other) or (len(mine) > 1 and self.theirs.size[at] == 1):
                continue
            for one, two in zip(mine, other, strict=True):
                self._pair_whole(one, two)

    def _pair_whole(self, ours: int, theirs: int) -> None:
        stack = [(ours, theirs)]
        while stack:
            one, two = stack.pop()
            self.pair(one, two, 1.0)
            stack += zip(self.ours.below[one], self.theirs.below[two], strict=False)

    def equal_items(self) -> None:
        """Items that are equal but for what stands below them, where neither side has a second one."""
        ours, theirs = self._by(self.ours.own, self.of_ours), self._by(self.theirs.own, self.of_theirs)
        for own, other in theirs.items():
            mine = ours.get(own, [])
            if len(mine) == len(other) == 1:
                self.pair(mine[0], other[0], 1.0)

    def _by(self, keys: list[K], mates: NDArray[np.int64]) -> dict[K, list[int]]:
        found: dict[K, list[int]] = defaultdict(list)
        for at, key in enumerate(keys):
            if mates[at] < 0:
                found[key].append(at)
        return found

    def best_assignment(self, threshold: float) -> None:
        rows, columns = np.flatnonzero(self.of_ours < 0), np.flatnonzero(self.of_theirs < 0)
        if not rows.size or not columns.size or rows.size * columns.size > _MOST_PAIRS:
            return
        # Read here and not at the top: every command would wait for it, and few match anything.
        from scipy.optimize import linear_sum_assignment

        scores = self._scores(rows, columns)
        for row, column in zip(*linear_sum_assignment(scores, maximize=True), strict=True):
            if scores[row, column] >= threshold:
                self.pair(int(rows[row]), int(columns[column]), float(min(scores[row, column], 0.99)))

    def _scores(self, rows: NDArray[np.int64], columns: NDArray[np.int64]) -> Scores:
        """How alike every open pair is: rows × columns, from 0 to 1, and a trace for the place in the document."""
        ours, theirs = self.ours, self.theirs
        kinds = _same([one.kind for one in ours.items], [one.kind for one in theirs.items], rows, columns)
        scores = _WEIGHTS["label"] * _label_likeness(
            [ours.items[at] for at in rows], [theirs.items[at] for at in columns]
        )
        scores += _WEIGHTS["target"] * _same(ours.targets, theirs.targets, rows, columns)
        scores += _WEIGHTS["kind"] * kinds
        scores += _WEIGHTS["rest"] * _same(ours.rest, theirs.rest, rows, columns)
        scores += _WEIGHTS["parent"] * self._mates(ours.parent, theirs.parent, rows, columns)
        scores += _WEIGHTS["beside"] / 2 * self._mates(ours.before, theirs.before, rows, columns)
        scores += _WEIGHTS["beside"] / 2 * self._mates(ours.behind, theirs.behind, rows, columns)
        shares, parents = self._below(rows, columns)
        scores += _WEIGHTS["below"] * shares + _SHARED_CHILDREN * shares * parents
        places = np.abs(rows[:, None] / len(ours.items) - columns[None, :] / len(theirs.items))
        return np.minimum(scores - 0.01 * places, 1).astype(np.float32)

    def _mates(
        self, ours: NDArray[np.int64], theirs: NDArray[np.int64], rows: NDArray[np.int64], columns: NDArray[np.int64]
    ) -> Scores:
        """1 where the related items (parents, neighbours) are matched with each other, or both are missing."""
        mates = np.where(ours[rows] >= 0, self.of_ours[ours[rows]], -2)
        others = np.where(theirs[columns] >= 0, theirs[columns], -2)
        same = (mates[:, None] == others[None, :]) & (mates[:, None] != -1)
        return cast(Scores, same.astype(np.float32))

    def _below(self, rows: NDArray[np.int64], columns: NDArray[np.int64]) -> tuple[Scores, NDArray[np.bool_]]:
        """The share of children that are matched with each other (Dice), 1 where both have none; and where not."""
        own = np.array([len(self.ours.below[at]) for at in rows])
        other = np.array([len(self.theirs.below[at]) for at in columns])
        row_of = {int(at): index for index, at in enumerate(rows)}
        column_of = {int(at): index for index, at in enumerate(columns)}
        shared = np.zeros((rows.size, columns.size), dtype=np.float32)
        for theirs, ours in enumerate(self.of_theirs):
            if ours >= 0:
                row = row_of.get(int(self.ours.parent[ours]))
                column = column_of.get(int(self.theirs.parent[theirs]))
                if row is not None and column is not None:
                    shared[row, column] += 1
        total = own[:, None] + other[None, :]
        shares = np.where(total > 0, 2 * shared / np.maximum(total, 1), 1)
        return cast(Scores, shares.astype(np.float32)), total > 0


def _same(ours: list[str], theirs: list[str], rows: NDArray[np.int64], columns: NDArray[np.int64]) -> Scores:
    numbers: dict[str, int] = {}
    left = np.array([numbers.setdefault(ours[at], len(numbers)) for at in rows])
    right = np.array([numbers.setdefault(theirs[at], len(numbers)) for at in columns])
    return cast(Scores, (left[:, None] == right[None, :]).astype(np.float32))


def _label_likeness(ours: list[AnyItem], theirs: list[AnyItem]) -> Scores:
    """Cosine of the labels' letter triples, the languages together; 1 where neither has a label."""
    known: dict[str, int] = {}
    left, right = (_triples(items, known) for items in (ours, theirs))
    width = max(len(known), 1)
    one, two = (_rows(counts, width) for counts in (left, right))
    likeness: Scores = (one @ two.T).toarray().astype(np.float32)
    none = np.array([not counts for counts in left])[:, None] & np.array([not counts for counts in right])[None, :]
    return cast(Scores, np.where(none, 1, np.minimum(likeness, 1)).astype(np.float32))


def _triples(items: list[AnyItem], known: dict[str, int]) -> list[dict[int, int]]:
    found = []
    for item in items:
        counts: dict[int, int] = defaultdict(int)
        for _, words in _label(item):
            padded = f"  {words.casefold()} "
            for at in range(len(padded) - 2):
                counts[known.setdefault(padded[at : at + 3], len(known))] += 1
        found.append(dict(counts))
    return found


def _rows(counts: list[dict[int, int]], width: int) -> "csr_array":
    """One row an item, of length 1."""
    ends = np.cumsum([0, *(len(row) for row in counts)])
    places = np.array([at for row in counts for at in row], dtype=np.int64)
    values = [np.array(list(row.values()), dtype=np.float64) for row in counts]
    flat = np.concatenate([row / np.linalg.norm(row) for row in values]) if counts else np.array([])
    from scipy.sparse import csr_array

    return csr_array((flat, places, ends), shape=(len(counts), width))

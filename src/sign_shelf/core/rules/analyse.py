"""What is true of rules whoever comes: never, always, an example and a counter-example visitor, equal to another,
implied by another. Exact; what would cost too much is "not decided", never wrong.

A rule is written as a union of cubes (sets of classes, one for each axis of `classes`). It never holds where that union
is empty, and A implies B where no cube of A meets a cube of what B leaves out. All pairs are met at once, in NumPy:
the axes of a cube are fields of packed words, each with a guard bit that an addition carries into where the field is not
empty (word-parallel comparison, L. Lamport, Multiple Byte Processing with Full-Word Instructions, CACM 18, 1975).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from sign_shelf.core.model.facts import FactType, FactValue
from sign_shelf.core.rules.classes import Classes, Cube
from sign_shelf.core.rules.model import AllOf, AnyOf, Const, FactTest, Not, Rule, fact_tests
from sign_shelf.core.rules.search import OutOfBudget, find_visitor

NOT_DECIDED: Literal["not decided"] = "not decided"
Answer = bool | Literal["not decided"]

MOST_CUBES = 256
"""Of one rule; a rule that needs more is searched instead."""

_CHUNK = 192
"""Cubes that meet all others at once: 8 MB for 5 000 of them."""


@dataclass(frozen=True, slots=True)
class Told:
    """Of one rule; the numbers are those of other rules in the list, from 0."""

    never: Answer
    always: Answer
    example: dict[str, FactValue] | None
    counter_example: dict[str, FactValue] | None
    same_as: tuple[int, ...]
    implied_by: tuple[int, ...]
    not_decided: tuple[int, ...]
    """Rules of which it is not decided whether they imply this one."""


def analyse(rules: Sequence[Rule], facts: Mapping[str, FactType], *, unsupplied: bool = False) -> list[Told]:
    """With `unsupplied`, visitors who do not supply a fact count too; without, everybody supplies all."""
    classes = Classes(rules, facts, unsupplied=unsupplied)
    holding = [_cubes(rule, classes, value=True, complement=False) for rule in rules]
    failing = [_cubes(rule, classes, value=True, complement=True) for rule in rules]
    examples = [_example(rule, found, classes, failing=False) for rule, found in zip(rules, holding, strict=True)]
    counter = [_example(rule, found, classes, failing=True) for rule, found in zip(rules, failing, strict=True)]
    implies = _implications(rules, classes, holding, failing, examples, counter)
    both = (implies == 1) & (implies.T == 1)
    told = []
    for at in range(len(rules)):
        one, other = examples[at], counter[at]
        told.append(
            Told(
                never=one if one == NOT_DECIDED else one is None,
                always=other if other == NOT_DECIDED else other is None,
                example=one if isinstance(one, dict) else None,
                counter_example=other if isinstance(other, dict) else None,
                same_as=_numbers(both[at], at),
                implied_by=_numbers(implies[:, at] == 1, at),
                not_decided=_numbers(implies[:, at] == -1, at),
            )
        )
    return told


def _numbers(row: npt.NDArray[np.bool_], without: int) -> tuple[int, ...]:
    return tuple(int(one) for one in np.flatnonzero(row) if one != without)


Example = dict[str, FactValue] | None | Literal["not decided"]


def _example(rule: Rule, cubes: list[Cube] | None, classes: Classes, *, failing: bool) -> Example:
    try:
        found = find_visitor([(rule, not failing)], classes) if cubes is None else None
    except OutOfBudget:
        return NOT_DECIDED
    if cubes:
        found = classes.visitor(cubes[0])
    # Of the facts that other rules ask for, nothing need be known.
    own = {test.fact for test in fact_tests(rule)}
    return None if found is None else {name: value for name, value in found.items() if name in own}


def _cubes(rule: Rule, classes: Classes, *, value: bool, complement: bool) -> list[Cube] | None:
    """Where the rule is `value`, or with `complement` is not; None where that takes more than MOST_CUBES."""
    match rule:
        case Const(constant):
            return [{}] if (constant == value) != complement else []
        case FactTest():
            found = classes.cubes(rule, value=value, complement=complement)
            return None if found is None else [cube for cube in found if all(cube.values())]
        case Not(inner):
            return _cubes(inner, classes, value=not value, complement=complement)
        case AllOf(parts) | AnyOf(parts):
            # All are true where each is; all are not true where one is not; and the other way round for any.
            meet = (isinstance(rule, AllOf) == value) != complement
            pieces = [_cubes(part, classes, value=value, complement=complement) for part in parts]
            return _meeting(pieces) if meet else _union(pieces)


def _union(pieces: Sequence[list[Cube] | None]) -> list[Cube] | None:
    found: list[Cube] = []
    for piece in pieces:
        if piece is None:
            return None
        found += piece
    return _absorbed(found)


def _meeting(pieces: Sequence[list[Cube] | None]) -> list[Cube] | None:
    # A part that is empty empties the whole, whatever the others would cost.
    if any(piece == [] for piece in pieces):
        return []
    found: list[Cube] = [{}]
    for piece in sorted(pieces, key=lambda one: len(one) if one is not None else MOST_CUBES):
        if piece is None or len(found) * len(piece) > 16 * MOST_CUBES:
            return None
        met = [one for left in found for right in piece if (one := meet(left, right)) is not None]
        absorbed = _absorbed(met)
        if absorbed is None:
            return None
        found = absorbed
    return found


def meet(one: Cube, other: Cube) -> Cube | None:
    """The visitors of both; None where there are none."""
    found = dict(one)
    for axis, allowed in other.items():
        found[axis] = found.get(axis, allowed) & allowed
        if not found[axis]:
            return None
    return found


def _absorbed(cubes: list[Cube]) -> list[Cube] | None:
    """Without cubes that another one holds; None where too many are left."""
    distinct = {frozenset(cube.items()): cube for cube in cubes}
    kept: list[Cube] = []
    for cube in sorted(distinct.values(), key=len):
        if not any(_holds(wider, cube) for wider in kept):
            kept.append(cube)
            if len(kept) > MOST_CUBES:
                return None
    return kept


def _holds(wider: Cube, cube: Cube) -> bool:
    return all(axis in cube and cube[axis] & ~allowed == 0 for axis, allowed in wider.items())


def _implications(
    rules: Sequence[Rule],
    classes: Classes,
    holding: Sequence[list[Cube] | None],
    failing: Sequence[list[Cube] | None],
    examples: Sequence[Example],
    counter: Sequence[Example],
) -> npt.NDArray[np.int8]:
    """1 where the row's rule implies the column's, 0 where not, -1 where it is not decided."""
    known_left = [at for at, cubes in enumerate(holding) if cubes is not None]
    known_right = [at for at, cubes in enumerate(failing) if cubes is not None]
    found = np.full((len(rules), len(rules)), -1, np.int8)
    if known_left and known_right:
        met = _met([holding[at] or [] for at in known_left], [failing[at] or [] for at in known_right], classes)
        found[np.ix_(known_left, known_right)] = ~met
    for at, example in enumerate(examples):
        if example is None:
            found[at, :] = 1
    for at, example in enumerate(counter):
        if example is None:
            found[:, at] = 1
    np.fill_diagonal(found, 1)
    budget = 2_000
    for left, right in np.argwhere(found == -1):
        if budget <= 0:
            break
        budget -= 1
        try:
            found[left, right] = find_visitor([(rules[left], True), (rules[right], False)], classes) is None
        except OutOfBudget:
            budget -= 200
    return found


def _met(left: Sequence[list[Cube]], right: Sequence[list[Cube]], classes: Classes) -> npt.NDArray[np.bool_]:
    """Whether a cube of the row's list meets one of the column's."""
    packing = _Packing(classes)
    rows, row_starts = packing.packed(left)
    columns, column_starts = packing.packed(right)
    met = np.zeros((len(left), len(right)), np.bool_)
    has_rows = [at for at, one in enumerate(left) if one]
    has_columns = [at for at, one in enumerate(right) if one]
    if not has_rows or not has_columns:
        return met
    some = np.zeros((len(rows), len(has_columns)), np.bool_)
    for begin in range(0, len(rows), _CHUNK):
        meeting = packing.meeting(rows[begin : begin + _CHUNK], columns)
        some[begin : begin + _CHUNK] = np.logical_or.reduceat(meeting, column_starts, axis=1)
    met[np.ix_(has_rows, has_columns)] = np.logical_or.reduceat(some, row_starts, axis=0)
    return met


class _Packing:
    """Cubes as rows of words: several narrow axes share a word, a wide axis has words of its own."""

    WIDEST = 62

    def __init__(self, classes: Classes) -> None:
        self.axes = classes.axes
        self.places: list[tuple[int, int]] = []
        """By axis, its first word and its first bit in it."""
        self.shared: list[tuple[int, int]] = []
        """By shared word, what is added, and the guard bits that must be carried into."""
        wide: list[int] = []
        room = 0
        for axis in self.axes:
            width = len(axis.members)
            if width > self.WIDEST:
                wide.append(len(self.places))
                self.places.append((-1, 0))
                continue
            if room < width + 1:
                self.shared.append((0, 0))
                room = 64
            begin = 64 - room
            fill, guard = self.shared[-1]
            self.shared[-1] = (fill | axis.whole << begin, guard | 1 << (begin + width))
            self.places.append((len(self.shared) - 1, begin))
            room -= width + 1
        self.words = len(self.shared)
        self.wide: list[tuple[int, int]] = []
        for at in wide:
            count = -(-len(self.axes[at].members) // 64)
            self.places[at] = (self.words, 0)
            self.wide.append((self.words, count))
            self.words += count

    def packed(self, lists: Sequence[list[Cube]]) -> tuple[npt.NDArray[np.uint64], npt.NDArray[np.intp]]:
        """All cubes as rows, and where the rows of each list that has any begin."""
        rows = [self._row(cube) for cubes in lists for cube in cubes]
        lengths = [len(cubes) for cubes in lists if cubes]
        starts = np.concatenate([[0], np.cumsum(lengths)[:-1]]).astype(np.intp) if lengths else np.zeros(0, np.intp)
        return np.array(rows, np.uint64).reshape(len(rows), self.words), starts

    def _row(self, cube: Cube) -> list[int]:
        row = [fill for fill, _ in self.shared] + [2**64 - 1] * (self.words - len(self.shared))
        for at, allowed in cube.items():
            word, begin = self.places[at]
            whole = self.axes[at].whole
            if len(self.axes[at].members) <= self.WIDEST:
                row[word] = row[word] & ~(whole << begin) | allowed << begin
            else:
                for number in range(-(-len(self.axes[at].members) // 64)):
                    row[word + number] = allowed >> (64 * number) & (2**64 - 1)
        return row

    def meeting(self, rows: npt.NDArray[np.uint64], columns: npt.NDArray[np.uint64]) -> npt.NDArray[np.bool_]:
        met = np.ones((len(rows), len(columns)), np.bool_)
        for word, (fill, guard) in enumerate(self.shared):
            common = rows[:, None, word] & columns[None, :, word]
            common += np.uint64(fill)
            common &= np.uint64(guard)
            met &= common == np.uint64(guard)
        for first, count in self.wide:
            some = np.zeros_like(met)
            for word in range(first, first + count):
                some |= (rows[:, None, word] & columns[None, :, word]) != 0
            met &= some
        return met

"""Texts that patterns tell apart: for a set of patterns, every combination of them that some text matches, with the
shortest text that does.

All patterns run at once as one nondeterministic automaton over bit positions (the shift-and method of Baeza-Yates and
Gonnet, 1992); its reachable sets of positions are walked breadth first.
"""

from collections.abc import Iterable, Sequence

from sign_shelf.core.rules.model import FactTest

MOST_STEPS = 400_000
_STAR, _ANY = object(), object()
Tokens = tuple[object, ...]


class TooManyTexts(Exception):
    """The patterns tell more texts apart than are worth walking."""


def texts_apart(tests: Sequence[FactTest], *, path: bool) -> list[str]:
    """One text for each combination of the tests that can hold at once; paths begin with "/". Raises TooManyTexts."""
    automaton = _Automaton([_globs(test) for test in tests])
    first = automaton.step(automaton.begin, "/") if path else automaton.begin
    start = "/" if path else ""
    found = {automaton.accepted(first): start}
    seen = {first}
    level = [(first, start)]
    steps = 0
    while level:
        coming = []
        for state, text in level:
            for char in automaton.alphabet:
                steps += 1
                after = automaton.step(state, char)
                if after in seen:
                    continue
                seen.add(after)
                longer = text + char
                found.setdefault(automaton.accepted(after), longer)
                coming.append((after, longer))
        if steps > MOST_STEPS:
            raise TooManyTexts
        level = coming
    return list(found.values())


def _globs(test: FactTest) -> list[Tokens]:
    values = [str(value) for value in test.values]
    if test.op == "like":
        return [tuple(_STAR if char == "*" else _ANY if char == "?" else char for char in values[0])]
    if test.op == "under":
        stem = values[0].rstrip("/")
        return [tuple(values[0]), tuple(stem), (*stem, "/", _STAR)]
    return [tuple(value) for value in values]


class _Automaton:
    def __init__(self, tests: Iterable[list[Tokens]]) -> None:
        self.begin = 0
        self._stars = 0
        self._any = 0
        self._chars: dict[str, int] = {}
        self._accepts: list[int] = []
        at = 0
        for globs in tests:
            accepts = 0
            for tokens in globs:
                self.begin |= 1 << at
                for token in tokens:
                    if token is _STAR:
                        self._stars |= 1 << at
                    elif token is _ANY:
                        self._any |= 1 << at
                    else:
                        assert isinstance(token, str)
                        self._chars[token] = self._chars.get(token, 0) | 1 << at
                    at += 1
                accepts |= 1 << at
                at += 1
            self._accepts.append(accepts)
        self.begin = self._closed(self.begin)
        # One character that no pattern names stands for all of them.
        other = next(char for char in map(chr, [*range(97, 123), *range(0x100, 0x11000)]) if char not in self._chars)
        self.alphabet = [*sorted(self._chars), other]

    def step(self, state: int, char: str) -> int:
        moved = (state & (self._any | self._chars.get(char, 0))) << 1
        return self._closed(moved | (state & self._stars))

    def _closed(self, state: int) -> int:
        while True:
            wider = state | (state & self._stars) << 1
            if wider == state:
                return state
            state = wider

    def accepted(self, state: int) -> tuple[bool, ...]:
        return tuple(bool(state & accepts) for accepts in self._accepts)

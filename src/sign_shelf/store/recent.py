"""What was read last, by a name that always stands for the same."""

from collections.abc import Callable, Iterable, Mapping
from typing import Generic, TypeVar

T = TypeVar("T")


class Recent(Generic[T]):
    """Things of a weight of at most `most` together, each of weight 1 where nothing weighs them; those not asked for
    longest go first, one by one. One that is heavier than all may be is not kept."""

    def __init__(self, most: int, weigh: Callable[[T], int] = lambda _: 1) -> None:
        self._most = most
        self._weigh = weigh
        self._weight = 0
        self._kept: dict[str, tuple[T, int]] = {}

    def known(self, names: Iterable[str]) -> dict[str, T]:
        return {name: self._kept[name][0] for name in names if name in self._kept}

    def keep(self, found: Mapping[str, T]) -> None:
        for name, one in found.items():
            kept = self._kept.pop(name, None)
            entry = kept or (one, self._weigh(one))
            self._weight += 0 if kept else entry[1]
            self._kept[name] = entry
        while self._weight > self._most:
            self._weight -= self._kept.pop(next(iter(self._kept)))[1]

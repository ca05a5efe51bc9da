"""What was read last, by a name that always stands for the same."""

from collections.abc import Callable, Iterable, Mapping
from contextlib import suppress
from typing import Generic, TypeVar

from cachetools import LRUCache

T = TypeVar("T")


class Recent(Generic[T]):
    """Things of a weight of at most `most` together, each of weight 1 where nothing weighs them; those not asked for
    longest go first, one by one. One that is heavier than all may be is not kept."""

    def __init__(self, most: int, weigh: Callable[[T], int] = lambda _: 1) -> None:
        self._kept: LRUCache[str, T] = LRUCache(most, getsizeof=weigh)

    def known(self, names: Iterable[str]) -> dict[str, T]:
        return {name: self._kept[name] for name in names if name in self._kept}

    def keep(self, found: Mapping[str, T]) -> None:
        for name, one in found.items():
            if name not in self._kept:
                with suppress(ValueError):  # too heavy
                    self._kept[name] = one

    def forget(self) -> None:
        self._kept.clear()

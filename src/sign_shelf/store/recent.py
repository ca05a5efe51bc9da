"""What was read last, by a name that always stands for the same."""

from collections.abc import Iterable, Mapping
from typing import Generic, TypeVar

T = TypeVar("T")


class Recent(Generic[T]):
    """At most `most` things; those not asked for longest go first, one by one."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._kept: dict[str, T] = {}

    def known(self, names: Iterable[str]) -> dict[str, T]:
        return {name: self._kept[name] for name in names if name in self._kept}

    def keep(self, found: Mapping[str, T]) -> None:
        for name, one in found.items():
            self._kept.pop(name, None)
            self._kept[name] = one
        while len(self._kept) > self._most:
            del self._kept[next(iter(self._kept))]

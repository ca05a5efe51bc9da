"""Running the checks over a site, and again over a later state of it, where only what differs is looked at."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Self

from sign_shelf.core.checks.check import Check, MenuCheck, Reads
from sign_shelf.core.checks.finding import RANK, Finding
from sign_shelf.core.checks.registry import CHECKS
from sign_shelf.core.checks.view import SiteView

_Subject = tuple[int, str | None]
"""A check by its number, and the menu that it looks at; None for the whole site."""


@dataclass(frozen=True)
class Checked:
    """What all checks found on a site. `ran` says how many of them were run for it, a check of a menu once for each menu."""

    view: SiteView
    results: dict[_Subject, tuple[Finding, ...]]
    ran: int

    @classmethod
    def of(cls, view: SiteView) -> Self:
        return cls._run(view, None)

    def again(self, view: SiteView) -> Self:
        """Over a later state. What reads only what is as it was is not run."""
        return self._run(view, self)

    @classmethod
    def _run(cls, view: SiteView, before: "Checked | None") -> Self:
        same = _Same(before.view, view) if before is not None else None
        results: dict[_Subject, tuple[Finding, ...]] = {}
        ran = 0
        for at, check in enumerate(CHECKS):
            for menu in view.menus if isinstance(check, MenuCheck) else (None,):
                subject = (at, menu)
                if before is not None and same is not None and subject in before.results and same.holds(check, menu):
                    results[subject] = before.results[subject]
                else:
                    results[subject] = tuple(_found(check, view, menu))
                    ran += 1
        return cls(view, results, ran)

    def findings(self) -> list[Finding]:
        """Menu by menu as the site has them, the gravest first, else in document order; then those of the whole site."""
        order = {key: at for at, key in enumerate(self.view.menus)}
        lines = {key: {line.item.id: at for at, line in enumerate(self.view.lines(key))} for key in self.view.menus}

        def rank(one: Finding) -> tuple[int, int, int]:
            where = lines.get(one.menu or "", {}).get(one.item or "", -1)
            return order.get(one.menu or "", len(order)), RANK[one.severity], where

        return sorted((one for found in self.results.values() for one in found), key=rank)

    def of_menu(self, key: str) -> list[Finding]:
        """What concerns one menu: what is found in it, and in the places where it hangs."""
        places = {location.key for location in self.view.places(key)} if key in self.view.hung else set[str]()
        return [one for one in self.findings() if one.menu == key or (one.menu is None and one.location in places)]


def _found(check: Check, view: SiteView, menu: str | None) -> Iterator[Finding]:
    if isinstance(check, MenuCheck):
        assert menu is not None
        return check.find(view, menu)
    return check.find(view)


class _Same:
    """Which of what checks read is in both states the same."""

    def __init__(self, before: SiteView, now: SiteView) -> None:
        one, other = before.site, now.site
        self._before, self._now = before, now
        self._held: dict[Reads, bool] = {
            "trees": one.menus == other.menus,
            "arrangement": (one.site, one.template, one.placements, one.facts, one.audiences, one.rules, one.archived)
            == (other.site, other.template, other.placements, other.facts, other.audiences, other.rules, other.archived)
            and one.menus.keys() == other.menus.keys()
            and before.fonts is now.fonts,
            "inventory": one.pages == other.pages,
            "links": before.links == now.links,
            "clock": before.today == now.today,
            "live": before.live == now.live,
            "live drift": before.drifted == now.drifted,
            "shared": before.shared == now.shared,
        }

    def holds(self, check: Check, menu: str | None) -> bool:
        return all(self._tree(menu) if what == "tree" else self._held[what] for what in check.reads)

    def _tree(self, menu: str | None) -> bool:
        key = menu or ""
        return self._before.site.menus.get(key) == self._now.site.menus.get(key)

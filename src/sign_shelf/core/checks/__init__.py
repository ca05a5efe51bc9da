"""The checks over a site's menus: one file a family, and the registry of them."""

from collections.abc import Mapping

from sign_shelf.core.checks.finding import Check, Finding, Severity, View, view_of
from sign_shelf.core.checks.links import check_links
from sign_shelf.core.checks.structure import check_structure
from sign_shelf.core.checks.targets import check_targets
from sign_shelf.core.checks.time import check_time
from sign_shelf.core.checks.visibility import check_visibility
from sign_shelf.core.checks.words import check_words
from sign_shelf.core.links import LinkFinding
from sign_shelf.core.model.menu import walk
from sign_shelf.core.model.site import SiteDocument

CHECKS: tuple[Check, ...] = (check_targets, check_links, check_structure, check_words, check_visibility, check_time)

_RANK: dict[Severity, int] = {"stop": 0, "warn": 1, "note": 2}


def check_menu(
    site: SiteDocument, key: str, *, today: str, links: Mapping[str, LinkFinding] | None = None
) -> list[Finding]:
    """What all checks find in one menu, the gravest first, else in document order. `links` has what was found of addresses,
    by the absolute address."""
    view = view_of(site, key, today=today, links=links)
    order = {item.id: at for at, (_, item) in enumerate(walk(view.document.items))}
    found = [finding for check in CHECKS for finding in check(view)]
    return sorted(found, key=lambda one: (_RANK[one.severity], order.get(one.item or "", -1)))


__all__ = ["CHECKS", "Finding", "Severity", "View", "check_menu"]

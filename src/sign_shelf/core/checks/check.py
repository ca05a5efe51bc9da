"""What a check is: what it may find, with what docs/checks.md says of it, and what it reads to find it."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

from sign_shelf.core.checks.finding import Finding, Severity
from sign_shelf.core.checks.view import Line, SiteView
from sign_shelf.core.model.menu import Device

Reads = Literal["tree", "trees", "arrangement", "inventory", "links", "clock", "live", "live drift", "shared"]
"""The menu's own tree; those of all menus; template, looks, placements, facts, rules and what is set of the site; its pages;
what addresses answered; the day; the site's home page and section pages as crawlers get them; what its places were read to show; the
shared menus that it follows."""

Family = Literal["targets", "structure", "words", "look", "visibility", "time", "crawlers", "sync"]


@dataclass(frozen=True)
class Code:
    """One kind of finding. The sentences end without a full stop."""

    name: str
    severity: Severity
    when: str
    matters: str
    mend: str

    def found(
        self,
        says: str,
        *,
        line: Line | None = None,
        menu: str | None = None,
        location: str | None = None,
        device: Device | None = None,
        audience: str | None = None,
        language: str | None = None,
        fix: str | None = None,
        cause: str | None = None,
        severity: Severity | None = None,
    ) -> Finding:
        """At the line, or at what else is named. The severity is the code's own where no other is given."""
        return Finding(
            code=self.name,
            severity=severity or self.severity,
            menu=line.menu if line is not None else menu,
            item=line.item.id if line is not None else None,
            number=line.number if line is not None else None,
            location=location,
            device=device,
            audience=audience,
            language=language,
            says=says,
            fix=fix,
            cause=cause,
        )


@dataclass(frozen=True)
class MenuCheck:
    """Looks at one menu."""

    family: Family
    reads: frozenset[Reads]
    codes: tuple[Code, ...]
    find: Callable[[SiteView, str], Iterator[Finding]]


@dataclass(frozen=True)
class SiteCheck:
    """Looks at the whole site."""

    family: Family
    reads: frozenset[Reads]
    codes: tuple[Code, ...]
    find: Callable[[SiteView], Iterator[Finding]]


Check = MenuCheck | SiteCheck


def reads(*what: Reads) -> frozenset[Reads]:
    return frozenset(what)

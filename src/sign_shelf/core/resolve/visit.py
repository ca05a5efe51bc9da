"""One visitor's visit: what is known of them at the moment, and how the site's rules come out for them."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date

from sign_shelf.core.basics.clock import Clock
from sign_shelf.core.model.facts import WEEKDAYS, FactValue, Visitor
from sign_shelf.core.model.site import Page, SiteDocument
from sign_shelf.core.resolve.lens import Lens
from sign_shelf.core.resolve.section import lineage
from sign_shelf.core.rules import Predicate, Rule, RuleRefused, compiled, read_rule, why


@dataclass(frozen=True, slots=True, eq=False)
class SiteRule:
    """A rule as an item has it. `wrong` says why it cannot be read; it then lets nobody see anything."""

    rule: Rule | None
    asked: Predicate
    wrong: str | None = None


class SiteRules:
    """The rules of a site's items, each read once."""

    def __init__(self, site: SiteDocument) -> None:
        self._facts = site.all_facts()
        self._named = site.rules
        self._read: dict[str, SiteRule] = {}

    def of(self, text: str) -> SiteRule:
        found = self._read.get(text)
        if found is None:
            try:
                rule = read_rule(text, self._facts, self._named)
                found = SiteRule(rule, compiled(rule))
            except RuleRefused as refused:
                found = SiteRule(None, lambda visitor: False, f"the rule cannot be read: {refused.says}")
            self._read[text] = found
        return found


@dataclass(slots=True, eq=False)
class Visit:
    at: str
    """The reading of the site's clock."""
    now: str
    """The instant of it."""
    facts: Visitor
    _reasons: dict[SiteRule, str | None] = field(default_factory=dict)

    def refusal(self, rule: SiteRule) -> str | None:
        """Why the rule hides what it guards from this visitor; None where it does not."""
        if rule not in self._reasons:
            self._reasons[rule] = None if rule.asked(self.facts) is True else rule.wrong or self._why(rule.rule)
        return self._reasons[rule]

    def _why(self, rule: Rule | None) -> str:
        reasons = why(rule, self.facts) if rule is not None else ()
        return "; ".join(dict.fromkeys(reason.says for reason in reasons)) or "its rule is never"


def clock_facts(reading: str) -> dict[str, FactValue]:
    """The facts that the site's clock supplies."""
    return {
        "weekday": WEEKDAYS[date.fromisoformat(reading[:10]).weekday()],
        "month": int(reading[5:7]),
        "hour": int(reading[11:13]),
    }


def visit_of(lens: Lens, clock: Clock, pages: Mapping[str, Page]) -> Visit:
    """What the request supplies by itself holds whatever the visitor claims."""
    known = {**lens.facts, "device": lens.device, "language": lens.language, **clock_facts(lens.at)}
    known.pop("page", None)
    known.pop("section", None)
    if lens.page is not None and lens.page in pages:
        known["page"] = pages[lens.page].path
        top = [ref for ref in lineage(lens.page, pages) if ref in pages][-1]
        known["section"] = pages[top].path
    return Visit(lens.at, clock.instant(lens.at), known)

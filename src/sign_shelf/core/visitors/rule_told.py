"""What can be told of a rule as it stands at an item of a site: its words, whom it lets see the item, and what is true of
it, together with the rules of what the item stands below, whoever comes."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from sign_shelf.core.model.facts import FactValue
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.rules import NEVER, Truth, all_of, compiled, format_rule, read_rule, sentence
from sign_shelf.core.rules.analyse import Answer, analyse
from sign_shelf.core.rules.parts import Part, part_of
from sign_shelf.core.visitors.who_sees import audiences_of


@dataclass(frozen=True, slots=True)
class SeenBy:
    audience: str
    value: Truth
    says: str


@dataclass(frozen=True, slots=True)
class RuleTold:
    """`never` and the following are about the rule together with those above it; `nothing_new`: whoever meets those meets
    this one as well."""

    normal: str
    says: str
    part: Part
    seen_by: tuple[SeenBy, ...]
    never: Answer
    always: Answer
    nothing_new: bool
    example: dict[str, FactValue] | None


def rule_told(prepared: Prepared, text: str, above: Sequence[str], lens: Lens) -> RuleTold:
    """For the site's audiences at the lens's moment, on its device and page. Raises RuleRefused."""
    site = prepared.site
    declared = site.all_facts()
    rule = read_rule(text, declared, site.rules)
    plain = read_rule(text, declared, site.rules, opened=False)
    # A rule above that cannot be read lets nobody pass.
    over = all_of([prepared.rules.of(one).rule or NEVER for one in above])
    together = all_of([over, rule])
    told, over_told = analyse([together, over], declared)
    asked = compiled(together)
    seen_by = []
    for name, facts in audiences_of(prepared).items():
        visit = prepared.visit(replace(lens, facts=facts))
        refusals = (visit.refusal(prepared.rules.of(one)) for one in (*above, text))
        seen_by.append(SeenBy(name, asked(visit.facts), next((one for one in refusals if one), "")))
    return RuleTold(
        normal=format_rule(plain),
        says=f"Shows to {sentence(rule)}",
        part=part_of(plain),
        seen_by=tuple(seen_by),
        never=told.never,
        always=told.always,
        nothing_new=bool(above) and 1 in told.implied_by and over_told.always is not True,
        example=told.example,
    )

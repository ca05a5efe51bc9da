"""Who can see an entry: rules that cannot be read, that nobody or everybody meets, also together with those above."""

from collections.abc import Iterator

from sign_shelf.core.checks.finding import Finding, View
from sign_shelf.core.model.facts import COMPUTED
from sign_shelf.core.model.href import facts_in
from sign_shelf.core.model.menu import AnyItem, Link, UrlTarget, children, walk
from sign_shelf.core.model.tree import Tree
from sign_shelf.core.outline.called import title
from sign_shelf.core.resolve.visit import SiteRules
from sign_shelf.core.rules import ALWAYS, Rule, all_of, fact_tests
from sign_shelf.core.rules.analyse import analyse


def check_visibility(view: View) -> Iterator[Finding]:
    rules = SiteRules(view.site)
    language = view.site.site.languages[0]
    asked: list[tuple[AnyItem, Rule, Rule]] = []
    for item, above in _guarded(view.document.items, rules, ALWAYS):
        read = rules.of(item.when or "")
        if read.rule is None:
            says = f"{title(item, language)} is hidden from everybody: {read.wrong}"
            yield view.found("rule-invalid", "stop", says, item=item.id, fix="Mend the rule.")
        else:
            asked.append((item, read.rule, all_of([above, read.rule])))
    yield from _not_supplied(view, [(item, rule) for item, rule, _ in asked])
    facts = view.site.all_facts()
    alone = analyse([rule for _, rule, _ in asked], facts)
    together = analyse([whole for _, _, whole in asked], facts)
    for (item, rule, whole), one, both in zip(asked, alone, together, strict=True):
        name = title(item, language)
        if one.never is True:
            says = f"nobody can ever meet the rule of {name}"
            yield view.found("never-seen", "warn", says, item=item.id, fix="Mend the rule, or remove the entry.")
        elif both.never is True:
            says = f"nobody who sees what {name} stands below can meet its rule"
            yield view.found("never-seen", "warn", says, item=item.id, fix="Mend one of the rules.")
        elif one.always is True and rule != ALWAYS and whole != ALWAYS:
            says = f"whoever supplies its facts meets the rule of {name}: it says nothing"
            yield view.found("rule-always", "note", says, item=item.id, fix="Take the rule away.")


def _not_supplied(view: View, asked: list[tuple[AnyItem, Rule]]) -> Iterator[Finding]:
    """What a rule or an address asks of visitors, and the site says that it does not know of them."""
    known = view.site.site.can.facts
    if known is None:
        return
    rules = {item.id: {test.fact for test in fact_tests(rule)} for item, rule in asked}
    for _, item in walk(view.document.items):
        pattern = item.target.url if isinstance(item, Link) and isinstance(item.target, UrlTarget) else ""
        missing = sorted((rules.get(item.id, set()) | set(facts_in(pattern))) - COMPUTED - set(known))
        if missing:
            says = f"{title(item, view.site.site.languages[0])} asks for {', '.join(missing)}, which this site does not say"
            fix = "Take the rule away, or have the site say it of its visitors."
            yield view.found("fact-not-supplied", "warn", says, item=item.id, fix=fix)


def _guarded(items: Tree, rules: SiteRules, above: Rule) -> Iterator[tuple[AnyItem, Rule]]:
    for item in items:
        here = above
        if item.when:
            yield item, above
            read = rules.of(item.when).rule
            here = all_of(part for part in (above, read) if part is not None and part != ALWAYS)
        yield from _guarded(children(item), rules, here)

"""Whether what entries lead to answers, as far as it was asked (core/links)."""

from collections.abc import Iterator

from sign_shelf.core.checks.finding import Finding, Severity, View
from sign_shelf.core.links import LinkFinding, Verdict, asked_at, stands
from sign_shelf.core.model.menu import walk
from sign_shelf.core.outline.called import title

_GRAVE: dict[Verdict, Severity] = {
    "gone": "stop", "error": "stop", "no-host": "stop", "tls": "stop", "refused": "stop", "loop": "stop",
    "missing-part": "warn", "slow": "warn", "chain": "warn", "redirect": "note", "too-big": "note",
}  # fmt: skip


def check_links(view: View) -> Iterator[Finding]:
    language = view.site.site.languages[0]
    for _, item in walk(view.document.items) if view.links else ():
        address = stands(item, view.pages)
        absolute = asked_at(address, view.site.site.base) if address is not None else None
        found = view.links.get(absolute) if absolute is not None else None
        if address is None or found is None or found.verdict not in _GRAVE:
            continue
        says = f"{title(item, language)} leads to {address}: {found.says.rstrip('.')}"
        yield view.found(f"link-{found.verdict}", _GRAVE[found.verdict], says, item=item.id, cause=f"address {absolute}",
                         fix=_fix(found))  # fmt: skip


def _fix(found: LinkFinding) -> str:
    match found.verdict:
        case "redirect" | "chain":
            return f"Lead it to {found.hops[-1].address} at once."
        case "missing-part":
            return "Choose another part."
        case "slow" | "too-big":
            return "Look at it, and choose another target if it stays so."
        case _:
            return "Choose another target."

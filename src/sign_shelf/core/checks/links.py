"""Whether what entries lead to answers, as far as it was asked (core/links)."""

from collections.abc import Iterator

from sign_shelf.core.checks.check import Check, Code, MenuCheck, reads
from sign_shelf.core.checks.finding import Finding, Severity
from sign_shelf.core.checks.view import SiteView
from sign_shelf.core.links import LinkFinding, Verdict, asked_at, stands

_ERROR = "visitors meet an error"
_KNOWN: tuple[tuple[Verdict, Severity, str, str, str], ...] = (
    ("gone", "stop", "it answers 404 or 410", _ERROR, "another target"),
    ("error", "stop", "it answers with another error", _ERROR, "another target, or mending what answers"),
    ("no-host", "stop", "there is no such host", _ERROR, "another target"),
    ("tls", "stop", "its certificate is not good for its name", "browsers warn of it", "another target, or a certificate"),
    ("refused", "stop", "nothing answers there", _ERROR, "another target, or mending what answers"),
    ("loop", "stop", "it leads on in a circle", _ERROR, "another target"),
    ("missing-part", "warn", "the page that answers has no such part", "visitors land at its top", "another part or target"),
    ("slow", "warn", "it takes too long", "visitors wait, or give up", "another target, if it stays so"),
    ("chain", "warn", "it leads on more than once", "visitors wait", "the address at the end"),
    ("redirect", "note", "it leads on once", "it costs a moment", "the address that it leads on to"),
    ("too-big", "note", "it is too large to be looked through", "its part may be missing", "looking at it"),
)  # fmt: skip
CODES = {
    verdict: Code(f"link-{verdict}", severity, f"the address was asked ([links](links.md)): {when}", matters, mend)
    for verdict, severity, when, matters, mend in _KNOWN
}


def _answers(view: SiteView, menu: str) -> Iterator[Finding]:
    for line in view.lines(menu) if view.links else ():
        address = stands(line.item, view.pages)
        absolute = asked_at(address, view.site.site.base) if address is not None else None
        found = view.links.get(absolute) if absolute is not None else None
        code = CODES.get(found.verdict) if found is not None else None
        if found is None or code is None:
            continue
        says = f"{view.called(line.item)} leads to {address}: {found.says.rstrip('.')}"
        yield code.found(says, line=line, cause=f"address {absolute}", fix=_fix(found))


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


CHECKS: tuple[Check, ...] = (
    MenuCheck("targets", reads("tree", "inventory", "arrangement", "links"), tuple(CODES.values()), _answers),
)

"""Where links lead: nowhere yet, to pages that are not there, to parts and overlays that are gone."""

from collections.abc import Iterator

from sign_shelf.core.basics.clock import said_day
from sign_shelf.core.checks.finding import Finding, View
from sign_shelf.core.model.menu import Include, Link, Opener, PageTarget, PendingTarget, UrlTarget, walk
from sign_shelf.core.outline.called import title


def check_targets(view: View) -> Iterator[Finding]:
    language = view.site.site.languages[0]
    for _, item in walk(view.document.items):
        name = title(item, language)
        match item:
            case Link(target=PendingTarget(pending=pending)):
                late = pending.due is not None and pending.due <= view.today
                when = f", due {said_day(pending.due)}" if pending.due else ""
                owner = f", {pending.owner}" if pending.owner else ""
                says = f"{name} leads nowhere yet{when}{owner}"
                code = "pending-overdue" if late else "pending"
                yield view.found(code, "stop" if late else "note", says, item=item.id, fix="Choose a page.")
            case Link(target=PageTarget(page=ref, part=part)):
                page = view.pages.get(ref)
                if page is None:
                    says = f"{name} leads to @{ref}, which is no page of the site"
                    yield view.found("page-unknown", "stop", says, item=item.id, fix="Choose a page.")
                elif page.state != "published":
                    says = f"{name} leads to {page.path}, which is {page.state}"
                    yield view.found(f"page-{page.state}", "stop", says, item=item.id, fix="Choose a page.")
                elif part is not None and part not in page.parts:
                    says = f"{name} leads to the part #{part}, which is not on {page.path}"
                    yield view.found("part-gone", "warn", says, item=item.id, fix="Choose another part.")
            case Link(target=UrlTarget(url="#")):
                yield view.found("address-empty", "stop", f"{name} has the address # alone", item=item.id,
                                 fix="Choose a page.")  # fmt: skip
            case Opener(target=target) if target.overlay not in view.overlays:
                says = f"{name} opens {target.overlay}, which is on no page of the site"
                yield view.found("overlay-gone", "stop", says, item=item.id, fix="Choose another overlay.")
            case Include(menu=key):
                yield from _include(view, item.id, key)
            case _:
                pass


def _include(view: View, item: str, key: str) -> Iterator[Finding]:
    refusal = view.includes.refusal(key, view.key)
    if refusal:
        loop = " → ".join(view.includes.loop(key) or ())
        says = f"Includes {key}, which shows nothing here: {refusal}{f', {loop}' if loop else ''}"
        yield view.found("include-empty", "stop", says, item=item, fix="Include another menu, or copy the items.")

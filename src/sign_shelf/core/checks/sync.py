"""Whether the site is in step: with what was verified on it, and with the shared menus that it follows."""

from collections.abc import Iterator

from sign_shelf.core.checks.check import Check, Code, SiteCheck, reads
from sign_shelf.core.checks.finding import Finding
from sign_shelf.core.checks.view import SiteView
from sign_shelf.core.sharing import followed

DRIFT = Code(
    "drift", "warn", "a place of the site shows something else than was verified there",
    "visitors get what nobody approved, and the next release may take it away",
    "taking it over, or putting back what was approved ([sync](sync.md))",
)  # fmt: skip
BEHIND = Code(
    "shared-behind", "warn", "a shared menu that the site follows has moved on, and the site has an older version",
    "visitors get here what was replaced elsewhere", "rolling it forward ([shared menus](shared-menus.md))",
)  # fmt: skip
LEFT = Code(
    "adjustment-left", "warn", "an entry that the site adjusted was taken out of the shared menu, and stays here",
    "it may lead to what is no more", "removing it, or keeping it as the site's own",
)  # fmt: skip
MISSING = Code(
    "detail-missing", "warn", "the site has no detail that an entry of a shared menu needs",
    "the entry is left out here", "the detail in the site's settings",
)  # fmt: skip


def _drifted(view: SiteView) -> Iterator[Finding]:
    for one in view.drifted:
        location = view.site.template.location(one.location)
        where = location.title if location is not None else one.location
        more = f" and {len(one.says) - 1} more" if len(one.says) > 1 else ""
        says = f"{where} on a {one.device} was changed on the site itself: {one.says[0]}{more}"
        fix = "Take it over, or put back what was approved."
        yield DRIFT.found(says, location=one.location, device=one.device, fix=fix)


def _shared(view: SiteView) -> Iterator[Finding]:
    for key, seen in view.shared.items():
        own = view.site.menus.get(key)
        if own is None:
            continue
        if not seen.current:
            says = f"{seen.name} has moved on, and what is here is an older version"
            yield BEHIND.found(says, menu=key, fix="Roll it forward.", cause=f"shared {key}")
        left = followed(key, seen.before, own, language=view.language).left
        for line in view.lines(key):
            if line.item.id in left:
                says = f"{view.called(line.item)} is no more in {seen.name}, and stays here as it was adjusted"
                yield LEFT.found(
                    says,
                    line=line,
                    fix="Remove it, or keep it as the site's own.",
                    cause=f"shared {key} {line.item.id}",
                )
        for note in seen.now.notes:
            if note.leaves_out:
                says = f"{note.title} of {seen.name} is left out: {note.says[0].lower()}{note.says[1:].rstrip('.')}"
                yield MISSING.found(
                    says, menu=key, fix="Enter it in the site's settings.", cause=f"shared {key} {note.item}"
                )


CHECKS: tuple[Check, ...] = (
    SiteCheck("sync", reads("live drift"), (DRIFT,), _drifted),
    SiteCheck("sync", reads("trees", "shared", "arrangement"), (BEHIND, LEFT, MISSING), _shared),
)

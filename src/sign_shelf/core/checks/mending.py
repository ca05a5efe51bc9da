"""What would mend a finding in all the menus that have it: led elsewhere, on the site's own host, or taken away."""

from dataclasses import dataclass
from typing import Literal
from urllib.parse import urlsplit

from sign_shelf.core.basics.address import followed, origin, path_of
from sign_shelf.core.checks.finding import Finding
from sign_shelf.core.errors import EditRefused
from sign_shelf.core.links import LinkFinding
from sign_shelf.core.model.href import Addresses
from sign_shelf.core.model.menu import Link, MenuDocument, PageTarget, UrlTarget, walk
from sign_shelf.core.model.site import Page, SiteDocument
from sign_shelf.core.model.tree import rebuilt, remove

How = Literal["lead", "own host", "remove"]


@dataclass(frozen=True)
class Mend:
    """`to` is the address that entries are led to; without one where nothing is led."""

    how: How
    to: str | None = None


def mended(site: SiteDocument, menu: MenuDocument, items: frozenset[str], mend: Mend) -> MenuDocument:
    """The menu with these of its items mended; those that are gone, or lead nowhere, stay as they are. Raises EditRefused for
    an address that nobody can follow."""
    there = {item.id: item for _, item in walk(menu.items) if item.id in items}
    if mend.how == "remove":
        tree = menu.items
        for item_id in there:
            if any(item.id == item_id for _, item in walk(tree)):
                tree = remove(tree, item_id)
        return menu.with_items(tree)
    targets = {item.id: _target(site, item, mend) for item in there.values() if isinstance(item, Link)}
    return menu.with_items(tuple(rebuilt(item, lambda one: _led(one.id, targets)) for item in menu.items))


def _led(item_id: str, targets: dict[str, PageTarget | UrlTarget | None]) -> dict[str, object]:
    target = targets.get(item_id)
    return {"target": target} if target is not None else {}


def _target(site: SiteDocument, link: Link, mend: Mend) -> PageTarget | UrlTarget | None:
    if mend.how == "own host":
        if not isinstance(link.target, UrlTarget):
            return None
        absolute = followed(link.target.url, site.site.base)
        to = origin(site.site.base) + path_of(absolute) if absolute is not None else None
        return target_for(site, to) if to is not None else None
    return target_for(site, mend.to or "")


def target_for(site: SiteDocument, address: str) -> PageTarget | UrlTarget:
    """The page of the site that the address is of, so that the entry follows when it moves; else the address itself."""
    absolute = followed(address.strip(), site.site.base)
    if absolute is None:
        raise EditRefused(
            f'"{address[:200]}" is no address that a visitor could follow.', where="to",
            remedy="Write a path such as /fares, or an address that begins with https://.",
        )  # fmt: skip
    plain, _, part = absolute.partition("#")
    addresses = Addresses.of_site(site)
    for page in site.pages:
        if page.state == "published" and followed(page.path, addresses.base) == plain:
            return PageTarget(page=page.ref, part=part or None)
    return UrlTarget(url=absolute)


@dataclass(frozen=True)
class Suggestion:
    """`to` is an address; `because` a sentence."""

    to: str
    because: str


def suggested(
    site: SiteDocument, finding: Finding, label: str, answered: LinkFinding | None = None
) -> Suggestion | None:
    """Where the entry that a finding is about could lead, as far as anything speaks for it: on to where its address leads,
    the page that has the same title, the one whose address ends alike."""
    if answered is not None and answered.verdict in {"redirect", "chain"}:
        return Suggestion(answered.hops[-1].address, "It leads on to there.")
    if finding.code not in _ELSEWHERE:
        return None
    there = [page for page in site.pages if page.state == "published"]
    named = [page for page in there if label.casefold() in {title.casefold() for title in page.title.values()}]
    if len(named) == 1:
        return Suggestion(named[0].path, f"The page {named[0].path} is called so.")
    last = _last(answered.hops[0].address if answered is not None and answered.hops else _path(finding.cause, site))
    alike = [page for page in there if last and _last(page.path) == last]
    return Suggestion(alike[0].path, f"The page {alike[0].path} has the same last part.") if len(alike) == 1 else None


_ELSEWHERE = frozenset(
    {
        "link-gone",
        "link-error",
        "link-no-host",
        "pending",
        "pending-overdue",
        "page-unknown",
        "page-gone",
        "address-empty",
    }
)


def _path(cause: str | None, site: SiteDocument) -> str:
    ref = (cause or "").removeprefix("page ")
    page: Page | None = next((page for page in site.pages if page.ref == ref), None)
    return page.path if page is not None else ""


def _last(address: str) -> str:
    return urlsplit(address).path.rstrip("/").rpartition("/")[2].casefold()


def ways(code: str) -> tuple[How, ...]:
    """How all entries that a finding of this kind is about can be mended at once."""
    if code.startswith("host-"):
        return ("own host", "lead", "remove")
    if code.startswith(("link-", "page-", "address-", "pending")) and code not in {"page-orphan", "page-far"}:
        return ("lead", "remove")
    return ()

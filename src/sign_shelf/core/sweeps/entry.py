"""An entry as it is looked for among those of many sites."""

from collections.abc import Iterator
from typing import NamedTuple

from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.outline.lines import item_lines


class SweptEntry(NamedTuple):
    """One item of one menu of one site. `path` is that of the page it leads to; `places` are the locations in which its menu was hung;
    `findings` the codes of what is found in it; `now` is what the site's clock shows."""

    site: str
    site_name: str
    menu: str
    menu_name: str
    item: str
    number: str
    kind: str
    label: str
    page: str | None
    path: str | None
    address: str | None
    host: str | None
    rule: str | None
    opens: str | None
    closes: str | None
    places: frozenset[str]
    findings: frozenset[str]
    now: str

    @property
    def leads_nowhere_yet(self) -> bool:
        return self.kind == "link" and self.page is None and self.address is None

    @property
    def goals(self) -> tuple[str, ...]:
        """What it leads to, in each way in which people write that."""
        page = f"@{self.page}" if self.page is not None else None
        return tuple(one for one in (page, self.path, self.address) if one is not None)


def entries_of(site: SiteDocument, findings: dict[tuple[str, str], frozenset[str]], now: str) -> Iterator[SweptEntry]:
    """All entries of the site's menus. `findings` are codes by menu and item."""
    hung: dict[str, set[str]] = {}
    for one in site.placements:
        if one.menu is not None:
            hung.setdefault(one.menu, set()).add(one.location)
    paths = {page.ref: page.path for page in site.pages}
    for key, menu in site.menus.items():
        for line in item_lines(menu):
            yield SweptEntry(
                site.site.key, site.site.name, key, menu.name, line.item, line.number, line.kind, line.label, line.page,
                paths.get(line.page or ""), line.address, line.host, line.rule, line.opens, line.closes,
                frozenset(hung.get(key, ())), findings.get((key, line.item), frozenset()), now,
            )  # fmt: skip

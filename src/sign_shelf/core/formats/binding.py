"""Entries as a page has them become items; addresses of known pages become references to them."""

from collections.abc import Iterable, Mapping

from pydantic import TypeAdapter, ValidationError

from sign_shelf.core.basics.address import normal, origin, path_of
from sign_shelf.core.basics.ids import ReadableIds
from sign_shelf.core.errors import OutlineRefused, Problem
from sign_shelf.core.formats.html_tree import tidy_words
from sign_shelf.core.formats.navigation import Entry, Kept
from sign_shelf.core.model.documents import problems_of
from sign_shelf.core.model.menu import AnyItem, Item, PageTarget, Parent
from sign_shelf.core.model.site import Page
from sign_shelf.core.model.tree import Tree
from sign_shelf.core.outline import goal_text, parse_item

_ITEM: TypeAdapter[AnyItem] = TypeAdapter(Item)

NOWHERE = "https://invalid.example/"
"""The base of addresses within a site that nobody named."""


class Binder:
    """`notes` gathers what could not come in as it stood, by the number of the entry."""

    def __init__(self, pages: Iterable[Page], home_url: str, language: str) -> None:
        self.home_url = home_url
        self.language = language
        self.notes: list[Problem] = []
        self.refs = {page.path: page.ref for page in pages}
        for page in pages:
            self.refs.setdefault(page.path.removesuffix("index.html"), page.ref)
            self.refs.setdefault(page.path.rstrip("/") + "/", page.ref)
            self.refs.setdefault(page.path.rstrip("/") or "/", page.ref)
            if page.path.endswith("/"):
                self.refs.setdefault(page.path + "index.html", page.ref)

    def items(self, entries: list[Entry]) -> Tree:
        return self._level(entries, ReadableIds(), "")

    def _level(self, entries: list[Entry], ids: ReadableIds, prefix: str) -> Tree:
        found: list[AnyItem] = []
        for entry in entries:
            number = f"{prefix}{len(found) + 1}"
            item = self._item(entry, ids, number)
            below = self._level(entry.items, ids, f"{number}.")
            if item.kind == "heading" and not below and len(entry.label) > 60 and entry.kept is None:
                self.notes.append(Problem(where=number, says=f'left out as running text: "{entry.label[:60]}…"'))
                continue
            found.append(item.model_copy(update={"items": below}) if below and isinstance(item, Parent) else item)
        return tuple(found)

    def _item(self, entry: Entry, ids: ReadableIds, number: str) -> AnyItem:
        raw = self._raw(entry)
        item_id = ids.take(entry.label, otherwise=str(raw["kind"]))
        if entry.kept is not None:
            try:
                return self._as_kept(entry, entry.kept, raw, item_id)
            except OutlineRefused as exc:
                self.notes.append(Problem(where=number, says=f"its settings are not understood: {exc.says}"))
        try:
            return _ITEM.validate_python({"id": item_id} | raw)
        except ValidationError as exc:
            # An address that no document may hold: the entry stays, as something still to be settled.
            note = tidy_words(f"the site has the address {entry.href}")[:200]
            says = f"the address {str(entry.href)[:80]} cannot be kept: {problems_of(exc)[0].says}"
            self.notes.append(Problem(where=number, says=says))
            plain = {"kind": "link", "target": {"pending": {"note": note}}, "label": raw.get("label", {})}
            return _ITEM.validate_python({"id": item_id} | plain)

    def _as_kept(self, entry: Entry, kept: Kept, raw: Mapping[str, object], item_id: str) -> AnyItem:
        kind, goal = str(raw["kind"]), kept.goal
        if goal.startswith("*"):
            kind = "listing"
        elif goal.startswith("+"):
            kind, goal = "include", goal[1:].strip()
        elif goal:
            kind = "link"
        elif kind in {"link", "opener"}:
            goal = goal_text(_ITEM.validate_python({"id": item_id, "label": {"en": "x"}, **raw}))
        words = "" if kept.titled else entry.label if kept.label is None else kept.label
        foreign = {kept.language: words} if words and kept.language not in {"", self.language} else {}
        item = parse_item(
            kind, label="" if foreign else words, goal=goal, settings=kept.settings, language=self.language,
            item_id=item_id, labels=foreign,
        )  # fmt: skip
        said = {name: raw[name] for name in ("new_tab", "rel") if name in raw and not getattr(item, name, True)}
        return item.model_copy(update=said) if said and item.kind == "link" else item

    def _raw(self, entry: Entry) -> dict[str, object]:
        if entry.divider:
            return {"kind": "divider"}
        label = {self.language: entry.label}
        if entry.overlay:
            return {"kind": "opener", "label": label, "target": {"overlay": entry.overlay}}
        if entry.href is None or (entry.href == "#" and entry.items):
            # What only opens what is below it leads nowhere itself.
            return {"kind": "heading", "label": label}
        link: dict[str, object] = {"kind": "link", "label": label, "target": self.target(entry.href)}
        if entry.new_tab:
            link["new_tab"] = True
        if entry.rel:
            link["rel"] = entry.rel
        return link

    def page(self, href: str) -> PageTarget | None:
        """The known page that the address leads to, and the part of it."""
        found = self.target(href)
        return PageTarget.model_validate(found) if "page" in found else None

    def target(self, href: str) -> Mapping[str, object]:
        scheme, _, rest = href.partition(":")
        if scheme.lower() == "mailto":
            return {"email": rest.partition("?")[0]}
        if scheme.lower() == "tel":
            return {"phone": rest}
        if href == "#":
            return {"pending": {"note": "the site has no address here"}}
        if href.startswith("#"):
            return {"part": href[1:]}
        url = normal(href, self.home_url)
        if url is None:
            return {"url": href}
        if origin(url) != origin(self.home_url):
            return {"url": url + (f"#{fragment}" if (fragment := href.partition("#")[2]) else "")}
        path, fragment = path_of(url), href.partition("#")[2]
        if path in self.refs:
            return {"page": self.refs[path]} | ({"part": fragment} if fragment else {})
        return {"url": path + (f"#{fragment}" if fragment else "")}

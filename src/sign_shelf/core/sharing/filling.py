"""A shared menu with what is one site's own in it: its details for `{site.…}`, its pages for what they are, its languages.

What cannot be filled in is never shown with a hole in it: an entry whose detail a site does not have is left out there, and one whose
page it does not have leads nowhere yet.
"""

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import NamedTuple
from urllib.parse import quote, urlsplit

from pydantic import TypeAdapter, ValidationError

from sign_shelf.core.basics.ids import slug
from sign_shelf.core.compare.edits import own_json
from sign_shelf.core.errors import EditRefused
from sign_shelf.core.model.menu import (
    AnyItem,
    EmailTarget,
    Include,
    Item,
    Labelled,
    Link,
    Listing,
    MenuDocument,
    PageTarget,
    Pending,
    PendingTarget,
    PhoneTarget,
    UrlTarget,
    children,
    walk,
)
from sign_shelf.core.model.site import Particulars
from sign_shelf.core.model.tree import Tree, with_children
from sign_shelf.core.outline.called import title

_DETAIL = re.compile(r"\{site\.([^{}]*)\}")
_ITEM: TypeAdapter[AnyItem] = TypeAdapter(Item)
BUILT_IN = ("name", "host", "address")
"""Details that every site has."""


class PageName(NamedTuple):
    """What a published page is known by."""

    ref: str
    path: str
    titles: tuple[str, ...]


@dataclass(frozen=True)
class NotFilled:
    """`leaves_out` says whether the entry is left out for it, with all below it; else it leads nowhere yet."""

    item: str
    title: str
    says: str
    leaves_out: bool


@dataclass(frozen=True)
class Filled:
    menu: MenuDocument
    notes: tuple[NotFilled, ...] = ()


def filled(key: str, shared: MenuDocument, site: Particulars, pages: Iterable[PageName]) -> Filled:
    """The shared menu of this key as the site has it before any adjustment of its own. Entries keep their ids, and remember where they
    come from."""
    return _Filling(key, site, pages).of(shared)


def refuse_unshareable(shared: MenuDocument) -> None:
    """Raises EditRefused for what no site could follow: another menu within it, and braces that hold no detail's name."""
    for _, item in walk(shared.items):
        if isinstance(item, Include):
            raise EditRefused(
                f"A shared menu holds its entries itself, and this one includes {item.menu}.", where=item.id,
                remedy="Write the entries here, or let the sites include both.",
            )  # fmt: skip
        for name in _details(item):
            if not re.fullmatch(r"[A-Za-z_][A-Za-z0-9_.-]{0,63}", name):
                raise EditRefused(
                    f"{{site.{name}}} names no detail of a site.", where=item.id, remedy="Write one like {site.phone}."
                )


def details_of(shared: MenuDocument) -> tuple[str, ...]:
    """The names of the details that it has filled in, each once, without those that every site has."""
    found = (name for _, item in walk(shared.items) for name in _details(item))
    return tuple(dict.fromkeys(name for name in found if name not in BUILT_IN))


def roles_of(shared: MenuDocument) -> tuple[str, ...]:
    """What the pages that it leads to, or lists what is under, are on their sites, each once: its `privacy` page."""
    found: list[str] = []
    for _, item in walk(shared.items):
        match item:
            case Link(target=PageTarget(page=role)):
                found.append(role)
            case Listing() if item.list.under is not None:
                found.append(item.list.under)
            case _:
                pass
    return tuple(dict.fromkeys(found))


def page_in_role(role: str, site: Particulars, pages: Iterable[PageName]) -> str | None:
    """The reference of the site's page that is this to it: the one that its settings name; else the one with this reference, with this
    as the end of its address, or with this title; of several the one with the shortest address."""
    return _Roles(site, pages).page(role)


class _Roles:
    def __init__(self, site: Particulars, pages: Iterable[PageName]) -> None:
        there = sorted(pages, key=lambda one: (len(one.path), one.path))
        self._refs = {page.ref for page in there}
        self._named = site.roles
        self._by_end = {_end(page.path): page.ref for page in reversed(there)}
        self._by_title = {slug(words): page.ref for page in reversed(there) for words in page.titles}

    def page(self, role: str) -> str | None:
        named = self._named.get(role)
        if named is not None:
            return named if named in self._refs else None
        if role in self._refs:
            return role
        wanted = slug(role)
        return (self._by_end.get(wanted) or self._by_title.get(wanted)) if wanted else None


def _end(path: str) -> str:
    last = path.partition("?")[0].partition("#")[0].rstrip("/").rpartition("/")[2]
    return slug(last.rpartition(".")[0] or last)


class _Filling:
    def __init__(self, key: str, site: Particulars, pages: Iterable[PageName]) -> None:
        self._key = key
        self._site = site
        self._roles = _Roles(site, pages)
        self._details: Mapping[str, str] = {
            "name": site.name, "host": urlsplit(site.base).hostname or "", "address": site.base
        } | site.details  # fmt: skip
        self._languages = {tag.partition("-")[0].lower() for tag in site.languages}
        self._notes: list[NotFilled] = []

    def of(self, shared: MenuDocument) -> Filled:
        return Filled(shared.with_items(self._tree(shared.items)), tuple(self._notes))

    def _tree(self, items: Tree) -> Tree:
        return tuple(one for one in map(self._item, items) if one is not None)

    def _item(self, item: AnyItem) -> AnyItem | None:
        details = _details(item)
        if unknown := [name for name in details if name not in self._details]:
            self._leave_out(item, f"The site's settings have no {unknown[0]} for {{site.{unknown[0]}}}.")
            return None
        fields: dict[str, object] = {"origin": f"{self._key}/{item.id}"}
        if isinstance(item, Labelled):
            fields["label"] = {tag: self._put(words) for tag, words in self._spoken(item.label).items()}
            if item.look.badge is not None:
                badge = {tag: self._put(words) for tag, words in self._spoken(item.look.badge.label).items()}
                fields["look"] = item.look.model_copy(
                    update={"badge": item.look.badge.model_copy(update={"label": badge})}
                )
        if isinstance(item, Link):
            fields |= self._led(item)
        if isinstance(item, Listing) and item.list.under is not None:
            under = self._roles.page(item.list.under)
            if under is None:
                self._leave_out(item, f"No page here is its {item.list.under} page.")
                return None
            fields["list"] = item.list.model_copy(update={"under": under})
        made = item.model_copy(update=fields)
        if details:
            try:
                # Read again: a detail may be longer than a label, or no address.
                made = _ITEM.validate_python(own_json(made))
            except ValidationError as exc:
                said = str(exc.errors()[0]["msg"]).removeprefix("Value error, ")
                self._leave_out(item, f"With the site's {details[0]} in it, it cannot be: {said}.")
                return None
        return with_children(made, self._tree(children(item)))

    def _leave_out(self, item: AnyItem, says: str) -> None:
        self._notes.append(NotFilled(item.id, title(item), says, leaves_out=True))

    def _spoken(self, label: Mapping[str, str]) -> Mapping[str, str]:
        """In the site's languages; where it is in none of them, as it is."""
        return {tag: words for tag, words in label.items() if tag.partition("-")[0].lower() in self._languages} or label

    def _led(self, item: Link) -> dict[str, object]:
        match item.target:
            case PageTarget(page=role):
                there = self._roles.page(role)
                if there is not None:
                    return {"target": item.target.model_copy(update={"page": there})}
                says = f"No page here is its {role} page."
                self._notes.append(NotFilled(item.id, title(item), says, leaves_out=False))
                label = {} if item.label else {"label": {self._site.languages[0]: role.replace("-", " ").capitalize()}}
                return {"target": PendingTarget(pending=Pending(note=says)), **label}
            case UrlTarget(url=url) if "{" in url:
                made = _DETAIL.sub(lambda name: quote(self._details[name[1]], safe=""), url)
                return {"target": item.target.model_copy(update={"url": made})}
            case EmailTarget(email=email) if "{" in email:
                return {"target": item.target.model_copy(update={"email": self._put(email)})}
            case PhoneTarget(phone=phone) if "{" in phone:
                return {"target": item.target.model_copy(update={"phone": self._put(phone)})}
            case _:
                return {}

    def _put(self, words: str) -> str:
        return _DETAIL.sub(lambda name: self._details[name[1]], words)


def _details(item: AnyItem) -> list[str]:
    texts: list[str] = []
    if isinstance(item, Labelled):
        texts += item.label.values()
        texts += item.look.badge.label.values() if item.look.badge is not None else ()
    match item:
        case Link(target=UrlTarget(url=text) | EmailTarget(email=text) | PhoneTarget(phone=text)):
            texts.append(text)
        case _:
            pass
    return [name for text in texts for name in _DETAIL.findall(text)]

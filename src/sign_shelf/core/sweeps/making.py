"""The edits that a sweep makes, the same of every entry that was found."""

from collections.abc import Collection
from dataclasses import dataclass, field
from typing import Annotated, Literal, assert_never

from pydantic import Field, TypeAdapter, ValidationError

from sign_shelf.core.basics.languages import language_name
from sign_shelf.core.basics.text import Language, RuleText, WallTime
from sign_shelf.core.checks.mending import target_for
from sign_shelf.core.compare import diff
from sign_shelf.core.compare.edits import alone
from sign_shelf.core.errors import EditRefused, Refusal
from sign_shelf.core.model.menu import (
    AnyItem,
    Divider,
    EmailTarget,
    IconName,
    Include,
    Item,
    Labelled,
    Link,
    LinkTarget,
    MenuDocument,
    Model,
    PageTarget,
    Pending,
    PendingTarget,
    PhoneTarget,
    UrlTarget,
    walk,
)
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.model.tree import rebuilt, remove
from sign_shelf.core.rules import RuleRefused, read_rule
from sign_shelf.core.sweeps.query import pattern


class Retarget(Model):
    """`to`: an address or a path, `mailto:…`, `tel:…`, or `pending`. A path that a page of the site has leads to that page, so that
    it follows when the page moves."""

    do: Literal["retarget"]
    to: str = Field(min_length=1, max_length=2_000)


class Relabel(Model):
    """`label` None takes the label of that language away."""

    do: Literal["relabel"]
    language: Language
    label: str | None = Field(default=None, max_length=500)


class Replace(Model):
    """Within labels, or within addresses. As a `pattern` (RE2), `by` takes up captured groups as `\\1`."""

    do: Literal["replace"]
    within: Literal["label", "address"] = "label"
    find: str = Field(min_length=1, max_length=500)
    by: str = Field(default="", max_length=500)
    pattern: bool = False
    language: Language | None = None
    """Of labels; None: in every language."""


class Dress(Model):
    """What is not given stays as it is."""

    do: Literal["look"]
    emphasis: Literal["plain", "strong", "button"] | None = None
    size: Literal["s", "m", "l", "xl"] | None = None
    icon: IconName | Literal[""] | None = None
    """An empty text takes it away."""


class Rule(Model):
    """`when` None: everybody sees it."""

    do: Literal["rule"]
    when: RuleText | None = None


class Window(Model):
    """None: open to that side."""

    do: Literal["window"]
    from_: WallTime | None = Field(default=None, alias="from")
    until: WallTime | None = None


class Remove(Model):
    """With what stands below it."""

    do: Literal["remove"]


Making = Annotated[Retarget | Relabel | Replace | Dress | Rule | Window | Remove, Field(discriminator="do")]
_ITEM: TypeAdapter[AnyItem] = TypeAdapter(Item)


def asks_for_pages(making: Making) -> bool:
    """Whether the site's pages count for it: what leads to an address of theirs leads to the page."""
    return isinstance(making, Retarget) or (isinstance(making, Replace) and making.within == "address")


@dataclass(frozen=True)
class Swept:
    """The menu with what could be done. `does` says by item what is done to it, `refused` why nothing is."""

    menu: MenuDocument
    does: dict[str, tuple[str, ...]] = field(default_factory=dict)
    refused: dict[str, str] = field(default_factory=dict)


def swept(site: SiteDocument, key: str, items: Collection[str], making: Making) -> Swept:
    """These items of the site's menu with the edit made. Raises Refusal where it could be made of no entry at all: a pattern that is
    none."""
    menu = site.menus[key]
    language = site.site.languages[0]
    there = {item.id: item for _, item in walk(menu.items) if item.id in items}
    after: dict[str, AnyItem] = {}
    does: dict[str, tuple[str, ...]] = {}
    refused: dict[str, str] = {}
    tree = menu.items
    for item in there.values():
        if isinstance(making, Remove):
            below = sum(1 for _ in walk((item,))) - 1
            with_it = f", with {below} below it" if below else ""
            does[item.id] = (
                f"Removed {diff((alone(item),), (), language=language)[0].says.removeprefix('Removed ')}{with_it}",
            )
            continue
        try:
            made = _made(site, alone(item), making)
        except (EditRefused, RuleRefused) as exc:
            refused[item.id] = exc.says
            continue
        except ValidationError as exc:
            refused[item.id] = str(exc.errors()[0]["msg"]).removeprefix("Value error, ")
            continue
        edits = diff((alone(item),), (made,), language=language)
        if edits:
            after[item.id], does[item.id] = made, tuple(edit.says for edit in edits)
        else:
            refused[item.id] = "It is so already."
    if isinstance(making, Remove):
        for one in does:
            if any(item.id == one for _, item in walk(tree)):
                tree = remove(tree, one)
    elif after:
        tree = tuple(rebuilt(item, lambda one: _fields(after[one.id]) if one.id in after else {}) for item in tree)
    return Swept(menu.with_items(tree), does, refused)


def _fields(item: AnyItem) -> dict[str, object]:
    return {name: getattr(item, name) for name in type(item).model_fields if name != "items"}


def _made(site: SiteDocument, item: AnyItem, making: Retarget | Relabel | Replace | Dress | Rule | Window) -> AnyItem:
    match making:
        case Retarget(to=to):
            if not isinstance(item, Link):
                article = "an" if item.kind[0] in "aeiou" else "a"
                raise EditRefused(f"Only links are led elsewhere, and this is {article} {item.kind}.")
            return _with(item, target=_target(site, to))
        case Relabel(language=language, label=label):
            labels = dict(_labelled(item).label)
            if label is None:
                labels.pop(language, None)
            else:
                labels[language] = label
            return _with(item, label=labels)
        case Replace():
            return _replaced(site, item, making)
        case Dress():
            return _dressed(item, making)
        case Rule(when=when):
            if when is not None:
                read_rule(when, site.all_facts(), site.rules)
            return _with(item, when=when)
        case Window(from_=from_, until=until):
            return _with(item, from_=from_, until=until)
        case _:
            assert_never(making)


def _with(item: AnyItem, **fields: object) -> AnyItem:
    """Read again, so that what an item may not be is refused."""
    whole = item.model_copy(update=fields)
    return _ITEM.validate_python(whole.model_dump(mode="json", by_alias=True, exclude_defaults=True))


def _labelled(item: AnyItem) -> Labelled:
    if isinstance(item, Divider | Include):
        raise EditRefused(f"A {item.kind if isinstance(item, Divider) else 'menu that is included'} has no label.")
    return item


def _target(site: SiteDocument, to: str) -> LinkTarget:
    to = to.strip()
    if to == "pending":
        return PendingTarget(pending=Pending())
    if to.startswith("mailto:"):
        return EmailTarget(email=to.removeprefix("mailto:"))
    if to.startswith("tel:"):
        return PhoneTarget(phone=to.removeprefix("tel:"))
    return _led(site, to)


def _led(site: SiteDocument, to: str) -> PageTarget | UrlTarget:
    """A path that no page has stays a path: the site may move."""
    found = target_for(site, to)
    within = to.startswith("/") and not to.startswith("//")
    return UrlTarget(url=to) if within and isinstance(found, UrlTarget) else found


def _replaced(site: SiteDocument, item: AnyItem, making: Replace) -> AnyItem:
    if making.within == "label":
        labels = dict(_labelled(item).label)
        if making.language is not None and making.language not in labels:
            raise EditRefused(f"It has no label in {language_name(making.language)}.")
        wanted = [making.language] if making.language is not None else list(labels)
        replaced = {tag: _text(labels[tag], making) if tag in wanted else labels[tag] for tag in labels}
        if replaced == labels:
            raise EditRefused("The text is in none of its labels.")
        return _with(item, label=replaced)
    target = getattr(item, "target", None)
    match target:
        case UrlTarget(url=url):
            address = url
        case PageTarget(page=ref):
            address = next((page.path for page in site.pages if page.ref == ref), "")
        case _:
            raise EditRefused("It leads to no address.")
    if (now := _text(address, making)) == address:
        raise EditRefused("The text is not in its address.")
    return _with(item, target=_led(site, now))


def _text(text: str, making: Replace) -> str:
    if not making.pattern:
        return text.replace(making.find, making.by)
    try:
        return str(pattern(making.find, where="find").sub(making.by, text))
    except Refusal:
        raise
    except Exception as failed:  # RE2 raises its own kinds where a group is taken up that there is none of.
        raise Refusal(
            f'"{making.by}" cannot be put in its place: {failed}.', where="by",
            remedy="Take up groups that the pattern has: \\1 is the first.",
        ) from failed  # fmt: skip


def _dressed(item: AnyItem, making: Dress) -> AnyItem:
    look = _labelled(item).look
    given: dict[str, object] = {}
    if making.emphasis is not None:
        given["emphasis"] = making.emphasis
        if making.emphasis != "button":
            given["size"] = None
    if making.size is not None:
        given |= {"size": making.size, "emphasis": "button"}
    if making.icon is not None:
        given |= {"icon": making.icon or None} | ({} if making.icon else {"icon_only": False})
    return _with(item, look=look.model_copy(update=given))

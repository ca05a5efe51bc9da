"""A menu document as an outline."""

from sign_shelf.core.model.menu import (
    AnyItem,
    Badge,
    Divider,
    EmailTarget,
    Heading,
    Include,
    Labelled,
    Link,
    LinkTarget,
    Listing,
    Look,
    MenuDocument,
    Opener,
    OverlayTarget,
    PageTarget,
    PartTarget,
    PendingTarget,
    PhoneTarget,
    Query,
    UrlTarget,
    walk,
)
from sign_shelf.core.outline.quoting import find_outside_quotes, label_text, quote, split_outside_quotes

NO_NAME = "Menu"
"""The name of a document whose outline gives none."""

_NEEDS_BRACKETS = ("@", "#", "!", "*", "+", "<", "?", "mailto:", "tel:", "{")


def format_outline(document: MenuDocument, *, language: str = "en") -> str:
    """The outline in its normal form, ending with a newline; empty for a document with neither name nor items.

    Bare labels are those in `language`; all others stand in the braces.
    """
    lines = [] if document.name == NO_NAME else [f"{{menu {quote(document.name)}}}"]
    lines += ["  " * (depth - 1) + _line(item, language) for depth, item in walk(document.items)]
    return "".join(line + "\n" for line in lines)


def _line(item: AnyItem, language: str) -> str:
    tail = f" {{{settings}}}" if (settings := settings_text(item, language)) else ""
    match item:
        case Divider():
            return f"---{tail}"
        case Include():
            return f"+ {item.menu}{tail}"
        case Heading():
            return f"{_label(item, language) or quote('')}:{tail}"
        case Link() | Opener() | Listing():
            return f"{_before_arrow(item, language)}-> {goal_text(item)}{tail}"


def goal_text(item: AnyItem) -> str:
    """What stands behind the arrow, or behind the + of an include; empty for headings and dividers."""
    match item:
        case Listing():
            return query_text(item.list)
        case Link() | Opener():
            return target_text(item.target)
        case Include():
            return item.menu
        case Heading() | Divider():
            return ""


def settings_text(item: AnyItem, language: str, *, without: frozenset[str] = frozenset()) -> str:
    """What stands in the braces, without the settings named (a label's name is its language)."""
    return "; ".join(text for name, text in _settings(item, language) if name not in without)


def _label(item: Labelled, language: str) -> str:
    return label_text(item.label[language]) if language in item.label else ""


def _before_arrow(item: Labelled, language: str) -> str:
    label = _label(item, language)
    return f"{label} " if label else ""


def target_text(target: LinkTarget | OverlayTarget) -> str:
    match target:
        case PageTarget(page=page, part=part):
            return f"@{page}#{part}" if part else f"@{page}"
        case UrlTarget(url=url):
            return f"<{url}>" if url.lower().startswith(_NEEDS_BRACKETS) else url
        case PartTarget(part=part):
            return f"#{part}"
        case EmailTarget(email=email):
            return f"mailto:{email}"
        case PhoneTarget(phone=phone):
            return f"<tel:{phone}>" if " " in phone else f"tel:{phone}"
        case PendingTarget():
            return "?"
        case OverlayTarget(overlay=overlay):
            return f"!{overlay}"


def query_text(query: Query) -> str:
    words = [f"*{query.type}" if query.type else "*"]
    words += ["rest"] if query.rest else []
    if query.under:
        words.append(f"under @{query.under}")
    if query.order != "inventory":
        words.append(f"by {query.order}")
    if query.limit is not None:
        words.append(f"max {query.limit}")
    if query.except_:
        words.append("except " + ", ".join(f"@{ref}" for ref in query.except_))
    return " ".join(words)


def _free(text: str) -> str:
    """Running text in braces: bare where the braces' own marks do not stand in it."""
    bare = (
        not text.startswith('"')
        and text == text.strip()
        and "{" not in text
        and len(split_outside_quotes(text, ";")) == 1
        and find_outside_quotes(text + "}", "}") == len(text)
    )
    return text if bare else quote(text)


def _settings(item: AnyItem, language: str) -> list[tuple[str, str]]:
    """Settings in their order, each with its name."""
    found: list[tuple[str, str]] = []
    if isinstance(item, Labelled):
        found += [(tag, f"{tag} {quote(words)}") for tag, words in sorted(item.label.items()) if tag != language]
    if isinstance(item, Link) and isinstance(item.target, PendingTarget):
        pending = item.target.pending
        found += [("due", f"due {pending.due}")] if pending.due else []
        found += [("owner", f"owner {_free(pending.owner)}")] if pending.owner else []
        found += [("note", f"note {_free(pending.note)}")] if pending.note else []
    found += [("from", f"from {item.from_}")] if item.from_ else []
    found += [("until", f"until {item.until}")] if item.until else []
    found += [("when", f"when {_free(item.when)}")] if item.when else []
    found += [("on", f"on {', '.join(item.devices)}")] if item.devices else []
    found += [("origin", f"origin {item.origin}")] if item.origin else []
    if isinstance(item, Labelled):
        found += _look(item.look, language)
    if isinstance(item, Link):
        found += [("new tab", "new tab")] if item.new_tab else []
        found += [("rel", "rel " + ", ".join(item.rel))] if item.rel else []
    return found


def _look(look: Look, language: str) -> list[tuple[str, str]]:
    found: list[tuple[str, str]] = []
    if look.emphasis == "button":
        found.append(("button", f"button {look.size}" if look.size else "button"))
    elif look.emphasis == "strong":
        found.append(("strong", "strong"))
    found += [("icon", f"icon {look.icon}")] if look.icon else []
    found += [("icon alone", "icon alone")] if look.icon_only else []
    found += [("badge", _badge(look.badge, language))] if look.badge else []
    found += [("picture", f"picture {_free(look.picture)}")] if look.picture else []
    found += [("hooks", "hooks " + ", ".join(look.hooks))] if look.hooks else []
    return found


def _badge(badge: Badge, language: str) -> str:
    words = ["badge"]
    words += [quote(badge.label[language])] if language in badge.label else []
    words += [f"{tag} {quote(text)}" for tag, text in sorted(badge.label.items()) if tag != language]
    words += [badge.tone] if badge.tone != "plain" else []
    words += [f"until {badge.until}"] if badge.until else []
    return " ".join(words)

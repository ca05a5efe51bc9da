"""An outline as a menu document. Every refusal names line and column, counted from 1 in characters."""

import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from difflib import get_close_matches
from typing import NoReturn

from pydantic import TypeAdapter, ValidationError

from sign_shelf.core.basics.ids import ReadableIds
from sign_shelf.core.errors import OutlineRefused
from sign_shelf.core.model.documents import problems_of
from sign_shelf.core.model.menu import (
    DEVICES,
    MAX_DEPTH,
    MAX_ITEMS,
    AnyItem,
    Item,
    MenuDocument,
    Parent,
    menu_document,
)
from sign_shelf.core.outline.quoting import (
    BULLET,
    closing_quote,
    find_outside_quotes,
    quote,
    split_outside_quotes,
    unquote,
)
from sign_shelf.core.outline.writing import NO_NAME

MAX_LINE = 100_000
_TAB = 4
_ITEM: TypeAdapter[AnyItem] = TypeAdapter(Item)
_LANGUAGE = re.compile(r"^([a-z]{2,3}(?:-[A-Za-z0-9]{1,8})*)\s*(?=\")")
_CONTROL = re.compile(r"[\x00-\x08\x0a-\x1f\x7f]")
_BARE_ADDRESS = re.compile(r"^https?://\S+$", re.IGNORECASE)
_QUERY_STEP = re.compile(r"\s+(under|by|max|except)\s+")

Raw = dict[str, object]


@dataclass
class _Line:
    """One line while it is read. `column` is where its content begins."""

    number: int
    indent: int
    column: int
    text: str

    def refuse(self, says: str, at: int = 0, remedy: str | None = None) -> NoReturn:
        raise OutlineRefused(says, line=self.number, column=self.column + at, remedy=remedy)


@dataclass
class _Branch:
    line: _Line
    raw: Raw
    depth: int
    below: list["_Branch"] = field(default_factory=list)


def parse_outline(text: str, *, language: str = "en") -> MenuDocument:
    """The document that an outline writes. Bare labels are in `language`; ids are made from the labels.

    Lists with tabs, bullets or other steps of indent are understood. A bare label is a pending link, or a heading
    where lines are indented below it. Raises OutlineRefused.
    """
    lines: list[_Line] = []
    name: str | None = None
    for line in _lines(text):
        if not lines and name is None and line.text.startswith("{"):
            name = _menu_name(line)
        elif len(lines) == MAX_ITEMS:
            line.refuse(f"a menu has at most {MAX_ITEMS} items")
        else:
            lines.append(line)
    top = _branches(lines, language)
    ids = ReadableIds()
    return menu_document(name or NO_NAME, tuple(_built(branch, language, ids) for branch in top))


def parse_item(
    kind: str, *, label: str, goal: str, settings: str, language: str, item_id: str, labels: Mapping[str, str] = {}
) -> AnyItem:
    """One item out of the pieces of its line, as other formats keep them. `labels` are those in further languages.

    Raises OutlineRefused, whose column counts in the line that the pieces make.
    """
    words = quote(label) if label else ""
    start = {
        "divider": "---",
        "include": f"+ {goal}",
        "heading": f"{words or quote('')}:",
    }.get(kind, f"{words} -> {goal}".lstrip())
    others = [f"{tag} {quote(text)}" for tag, text in labels.items()]
    inside = "; ".join([*others, settings] if settings else others)
    text = f"{start} {{{inside}}}" if inside else start
    line = _Line(1, 0, 1, text)
    raw = _read(line, language)
    try:
        return _ITEM.validate_python({"id": item_id} | raw)
    except ValidationError as exc:
        problem = problems_of(exc)[0]
        line.refuse(f"{problem.where}: {problem.says}" if problem.where else problem.says)


def _lines(text: str) -> Iterator[_Line]:
    """The lines with something on them."""
    for number, whole in enumerate(text.removeprefix("\ufeff").replace("\r\n", "\n").split("\n"), start=1):
        if len(whole) > MAX_LINE:
            raise OutlineRefused(
                f"the line has {len(whole)} characters; at most {MAX_LINE} are read", line=number, column=MAX_LINE + 1
            )
        if control := _CONTROL.search(whole):
            raise OutlineRefused(
                f"control character U+{ord(control[0]):04X}",
                line=number,
                column=control.start() + 1,
                remedy="Take it out.",
            )
        body = whole.lstrip(" \t")
        indent = len(whole[: len(whole) - len(body)].expandtabs(_TAB))
        bullet = BULLET.match(body)
        skipped = 0
        if bullet and not body.startswith("---"):
            skipped = len(body) - len(body[bullet.end() :].lstrip(" \t"))
        if content := body[skipped:].rstrip(" \t"):
            yield _Line(number, indent, len(whole) - len(body) + skipped + 1, content)


def _menu_name(line: _Line) -> str:
    inside = line.text[1:-1].strip() if line.text.endswith("}") else ""
    name = unquote(inside.removeprefix("menu").strip()) if inside.startswith("menu") else None
    if not name:
        line.refuse(
            "braces stand alone here", remedy='An outline may begin with {menu "Name"}; settings follow an item.'
        )
    return name


def _branches(lines: list[_Line], language: str) -> list[_Branch]:
    top: list[_Branch] = []
    above: list[_Branch] = []
    for line in lines:
        while above and above[-1].line.indent >= line.indent:
            above.pop()
        branch = _Branch(line, _read(line, language), len(above) + 1)
        if branch.depth > MAX_DEPTH:
            line.refuse(f"{branch.depth} levels deep; a menu has at most {MAX_DEPTH} levels")
        (above[-1].below if above else top).append(branch)
        above.append(branch)
    return top


def _built(branch: _Branch, language: str, ids: ReadableIds) -> AnyItem:
    raw, line = branch.raw, branch.line
    if raw.pop("bare", False):
        raw |= {"kind": "heading"} if branch.below else {"kind": "link", "target": {"pending": {}}}
    label = raw.get("label")
    words = next(iter(label.values()), "") if isinstance(label, dict) else ""
    item_id = ids.take(words, otherwise=str(raw["kind"]))
    below = tuple(_built(lower, language, ids) for lower in branch.below)
    try:
        item = _ITEM.validate_python({"id": item_id} | raw)
    except ValidationError as exc:
        problem = problems_of(exc)[0]
        where = f"{problem.where}: " if problem.where else ""
        line.refuse(where + problem.says)
    if below and not isinstance(item, Parent):
        branch.below[0].line.refuse(
            f"a {item.kind} cannot hold other items", remedy="Put the line under a link or a heading."
        )
    return item.model_copy(update={"items": below}) if below else item


def _read(line: _Line, language: str) -> Raw:
    text = line.text
    if text.startswith("---"):
        return {"kind": "divider"} | _settings(line, text[3:], 3, language, frozenset())
    if text.startswith("+"):
        key, rest, at = _word(text, 1)
        if not key:
            line.refuse("after + the key of a menu is missing", remedy="Write + and the key, such as + shared:legal.")
        return {"kind": "include", "menu": key} | _settings(line, rest, at, language, frozenset())
    if _BARE_ADDRESS.match(text):
        words = re.sub(r"^https?://|/$", "", text, flags=re.IGNORECASE)
        return {"kind": "link", "label": {language: words}, "target": {"url": text}}
    label, rest, at = _label(line)
    raw: Raw = {"label": {language: label} if label else {}}
    if rest.startswith("->"):
        raw |= _target(line, at + 2)
        rest, at = str(raw.pop("rest")), int(str(raw.pop("at")))
        settings_for = "pending" if raw.get("target") == {"pending": {}} else str(raw["kind"])
    elif rest.startswith(":"):
        raw["kind"] = settings_for = "heading"
        rest, at = rest[1:], at + 1
    else:
        raw["bare"] = True
        settings_for = "pending"
        raw["kind"] = "link"
    settings = _settings(line, rest, at, language, frozenset({settings_for, "labelled"}))
    others = settings.pop("label", {})
    raw["label"] = {**raw["label"], **others}  # type: ignore[dict-item]
    if "pending" in settings:
        raw |= {"kind": "link", "target": {"pending": settings.pop("pending")}}
        raw.pop("bare", None)
    return raw | settings


def _word(text: str, start: int) -> tuple[str, str, int]:
    """The next word from `start`, what follows it, and where that begins."""
    begin = start + len(text[start:]) - len(text[start:].lstrip(" \t"))
    found = re.match(r"\S*", text[begin:])
    end = begin + (found.end() if found else 0)
    return text[begin:end], text[end:], end


def _label(line: _Line) -> tuple[str, str, int]:
    """The label, what follows it without leading spaces, and where that begins."""
    text = line.text
    if text.startswith('"'):
        end = closing_quote(text, 0)
        if end is None:
            line.refuse("the quote is not closed", remedy='End the label with ", or write \\" for a quote inside it.')
        label, after = unquote(text[: end + 1]) or "", end + 1
        rest = text[after:].lstrip(" \t")
        at = len(text) - len(rest)
        if rest and not rest.startswith(("->", ":", "{")):
            line.refuse("after the quoted label comes ->, a colon or braces", at)
        return label, rest, at
    arrow = re.search(r"(?:^|(?<=\s))->", text)
    brace = text.find("{")
    ends = [found for found in (arrow.start() if arrow else -1, brace) if found >= 0]
    end = min(ends, default=len(text))
    label = text[:end].rstrip(" \t")
    stray = label.find("}")
    if stray >= 0:
        line.refuse("a closing brace without an opening one", stray, 'Put a label with braces in quotes: "…".')
    if label.endswith(":") and not (arrow and end == arrow.start()):
        return label[:-1].rstrip(" \t"), ":" + text[end:], end - 1
    return label, text[end:], end


def _target(line: _Line, start: int) -> Raw:
    """The fields that a target gives, with `rest` and `at` for what follows."""
    text = line.text
    word, rest, at = _word(text, start)
    begin = at - len(word)
    if word.startswith("<"):
        end = text.find(">", begin)
        if end < 0:
            line.refuse("the address is not closed", begin, "End it with >.")
        word, rest, at = text[begin + 1 : end], text[end + 1 :], end + 1
        bracketed = True
    else:
        bracketed = False
    where: Raw = {"rest": rest, "at": at}
    if not word:
        line.refuse("after -> the target is missing", begin, "Write @page, an address, #part, !overlay, *listing or ?.")
    if word.lower().startswith("tel:"):
        return {"kind": "link", "target": {"phone": word[4:]}} | where
    if bracketed:
        return {"kind": "link", "target": {"url": word}} | where
    if word == "?":
        return {"kind": "link", "target": {"pending": {}}} | where
    if word.startswith("*"):
        brace = find_outside_quotes(text, " {", begin)
        end = len(text) if brace is None else brace
        return {
            "kind": "listing",
            "list": _query(line, text[begin + 1 : end], begin + 1),
            "rest": text[end:],
            "at": end,
        }
    if word.startswith("!"):
        return {"kind": "opener", "target": {"overlay": word[1:]}} | where
    if word.startswith("@"):
        page, mark, part = word[1:].partition("#")
        return {"kind": "link", "target": {"page": page} | ({"part": part} if mark else {})} | where
    if word.startswith("#"):
        return {"kind": "link", "target": {"part": word[1:]}} | where
    if word.lower().startswith("mailto:"):
        return {"kind": "link", "target": {"email": word[7:]}} | where
    return {"kind": "link", "target": {"url": word}} | where


def _query(line: _Line, text: str, at: int) -> Raw:
    pieces = _QUERY_STEP.split(" " + text + " ")
    query: Raw = {}
    kind, *more = pieces[0].split() or [""]
    if more == ["rest"] or (kind == "rest" and text.startswith(" ")):
        query["rest"] = True
        kind = kind if more else ""
    elif more:
        line.refuse(f'"{more[0]}" is not understood in a listing', at, "Write *type rest under @page by title max 12.")
    if kind:
        query["type"] = kind
    for step, value in zip(pieces[1::2], pieces[2::2], strict=True):
        value = value.strip()
        if step in query or (step == "by" and "order" in query) or (step == "max" and "limit" in query):
            line.refuse(f"{step} stands twice in the listing", at)
        if step == "under":
            query["under"] = value.removeprefix("@")
        elif step == "by":
            query["order"] = value
        elif step == "max":
            if not re.fullmatch(r"[0-9]{1,6}", value):
                line.refuse(f'max is followed by a number, not "{value}"', at)
            query["limit"] = int(value)
        else:
            query["except"] = tuple(ref.strip().removeprefix("@") for ref in value.split(","))
    return query


def _unquoted(text: str) -> str:
    words = unquote(text)
    return text if words is None else words


def _list(value: str) -> tuple[str, ...]:
    return tuple(piece.strip() for piece in value.split(","))


Setting = Callable[[str], Raw]


def _settings(line: _Line, rest: str, at: int, language: str, groups: frozenset[str]) -> Raw:
    """What the braces at the end of a line set. `groups` says which settings the item takes."""
    begin = at + len(rest) - len(rest.lstrip(" \t"))
    text = rest.strip(" \t")
    if not text:
        return {}
    if not text.startswith("{"):
        line.refuse(f'"{text[:30]}" stands after the target', begin, "Settings go in braces: {…}.")
    end = find_outside_quotes(text, "}", 1)
    if end is None:
        line.refuse("the braces are not closed", begin, "End the settings with }.")
    if end != len(text) - 1:
        after = text[end + 1 :].lstrip(" \t")
        line.refuse(f'"{after[:30]}" stands after the braces', begin + len(text) - len(after))
    raw: Raw = {}
    look: Raw = {}
    for offset, piece in split_outside_quotes(text[1:end], ";"):
        words = piece.strip()
        if words:
            place = begin + 1 + offset + len(piece) - len(piece.lstrip())
            _set(line, place, words, language, groups, raw, look)
    if look:
        raw["look"] = look
    return raw


def _set(line: _Line, place: int, words: str, language: str, groups: frozenset[str], raw: Raw, look: Raw) -> None:
    labelled = "labelled" in groups
    tag = _LANGUAGE.match(words)
    if tag and labelled:
        text = unquote(words[tag.end() :])
        labels = raw.setdefault("label", {})
        assert isinstance(labels, dict)
        if text is None:
            line.refuse(f"the label in {tag[1]} is not one quoted text", place)
        if tag[1] in labels or tag[1] == language:
            line.refuse(f"the label in {tag[1]} is given twice", place)
        labels[tag[1]] = text
        return
    name, _, value = words.partition(" ")
    value = value.strip()
    target: Raw
    fields: Raw
    if name in {"from", "until", "when", "on", "origin"}:
        target, fields = raw, {name: _unquoted(value)} if name != "on" else {"devices": _list(value)}
        if name == "on" and (unknown := next((word for word in _list(value) if word not in DEVICES), None)) is not None:
            line.refuse(f'"{unknown}" is no device', place, f"Devices are {', '.join(DEVICES)}.")
    elif name in {"due", "owner", "note"} and "pending" in groups:
        target, fields = raw.setdefault("pending", {}), {name: _unquoted(value)}  # type: ignore[assignment]
    elif words == "new tab" and groups & {"link", "pending"}:
        target, fields = raw, {"new_tab": True}
    elif name == "rel" and groups & {"link", "pending"}:
        target, fields = raw, {"rel": _list(value)}
    elif words == "icon alone" and labelled:
        target, fields = look, {"icon_only": True}
    elif name == "button" and labelled:
        target, fields = look, {"emphasis": "button", **({"size": value} if value else {})}
    elif words == "strong" and labelled:
        target, fields = look, {"emphasis": "strong"}
    elif name in {"icon", "picture"} and labelled:
        target, fields = look, {name: _unquoted(value)}
    elif name == "hooks" and labelled:
        target, fields = look, {"hooks": _list(value)}
    elif name == "badge" and labelled:
        target, fields = look, {"badge": _badge(line, place, value, language)}
    else:
        known = _known_settings(groups)
        near = get_close_matches(name, known, 1)
        line.refuse(
            f'"{words[:40]}" is no setting here',
            place,
            f'Did you mean "{near[0]}"?' if near else f"Settings here are {', '.join(known)}.",
        )
    for key in fields:
        if key in target:
            line.refuse(f'"{name}" is set twice', place)
    target |= fields


def _known_settings(groups: frozenset[str]) -> list[str]:
    known = ["from", "until", "when", "on", "origin"]
    if "labelled" in groups:
        known += [
            "button",
            "strong",
            "icon",
            "icon alone",
            "badge",
            "picture",
            "hooks",
            'a language with its label (nl "…")',
        ]
    if groups & {"link", "pending"}:
        known += ["new tab", "rel"]
    return known + (["due", "owner", "note"] if "pending" in groups else [])


_BADGE_STEP = re.compile(
    r'\s*(?:(?P<tag>[a-z]{2,3}(?:-[A-Za-z0-9]{1,8})*)?\s*(?P<words>"(?:[^"\\]|\\.)*")'
    r"|until\s+(?P<until>\S+)|(?P<tone>plain|accent|warn))(?=\s|$)"
)


def _badge(line: _Line, place: int, value: str, language: str) -> Raw:
    badge: Raw = {}
    labels: dict[str, str] = {}
    at = 0
    while at < len(value):
        step = _BADGE_STEP.match(value, at)
        if step is None:
            line.refuse(
                f'"{value[at:].strip()[:30]}" is not understood in a badge',
                place,
                'Write badge "New" accent until 2027-01-31; the tones are plain, accent and warn.',
            )
        if step["words"]:
            labels[step["tag"] or language] = unquote(step["words"]) or ""
        elif step["until"]:
            badge["until"] = step["until"]
        else:
            badge["tone"] = step["tone"]
        at = step.end()
    return badge | {"label": labels}

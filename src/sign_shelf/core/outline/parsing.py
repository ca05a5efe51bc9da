"""An outline as a menu document. Every refusal names line and column, counted from 1 in characters."""

import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from difflib import get_close_matches
from typing import NoReturn

from pydantic import TypeAdapter, ValidationError

from sign_shelf.core.basics.ids import ReadableIds
from sign_shelf.core.basics.text import Words
from sign_shelf.core.errors import OutlineRefused, Problem
from sign_shelf.core.model.documents import problems_of
from sign_shelf.core.model.menu import (
    DEVICES,
    HOLDERS,
    MAX_DEPTH,
    MAX_ITEMS,
    AnyItem,
    Item,
    MenuDocument,
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
_ITEMS: TypeAdapter[tuple[AnyItem, ...]] = TypeAdapter(tuple[Item, ...])
_NAME: TypeAdapter[str] = TypeAdapter(Words)
_LANGUAGE = re.compile(r"^([a-z]{2,3}(?:-[A-Za-z0-9]{1,8})*)\s*(?=\")")
_CONTROL = re.compile(r"[\x00-\x08\x0a-\x1f\x7f]")
_BARE_ADDRESS = re.compile(r"^https?://\S+$", re.IGNORECASE)
_STEPS = re.compile(r"(?:\[\d+\](?:\.items(?=\[))?)*")
_USUAL = re.compile(r"""([^\s"{}>+-][^"{}>]*?)[ \t]+->[ \t]*(/[^\s{}]*)""")
"""A label without quotes and an address of the site: most lines are no more."""
_WORD = re.compile(r"[ \t]*(\S*)")
_QUERY_STEP = re.compile(r"\s+(under|by|max|except)\s+")

Raw = dict[str, object]


@dataclass(slots=True)
class _Line:
    """One line while it is read. `column` is where its content begins."""

    number: int
    indent: int
    column: int
    text: str

    def refuse(self, says: str, at: int = 0, remedy: str | None = None) -> NoReturn:
        raise OutlineRefused(says, line=self.number, column=self.column + at, remedy=remedy)


@dataclass(slots=True)
class _Branch:
    line: _Line
    raw: Raw
    depth: int
    below: list["_Branch"] = field(default_factory=list)
    as_it_stood: bool = False
    """Read as no more than its words, as something else in it was wrong."""


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
    whole = [_whole(branch, ids.take) for branch in top]
    try:
        return menu_document(name or NO_NAME, _ITEMS.validate_python(whole))
    except ValidationError as exc:
        _refuse_line(top, exc)


def read_lines(text: str, *, language: str, notes: list[Problem]) -> MenuDocument:
    """The document of lines as people have them: what `parse_outline` refuses is put into `notes` by its line, and comes
    in as a pending link that keeps its words. Raises OutlineRefused for more items than a menu takes, and for a line of
    which not even the words can be kept.
    """
    found: list[tuple[_Line, Raw]] = []
    name: str | None = None
    for line in _lines(_cleaned(text, notes)):
        try:
            if not found and name is None and line.text.startswith("{"):
                name = _menu_name(line)
                continue
            raw = _read(line, language)
        except OutlineRefused as exc:
            raw = _as_it_stood(line, language, exc.says, notes)
        if len(found) == MAX_ITEMS:
            line.refuse(f"a menu has at most {MAX_ITEMS} items")
        found.append((line, raw))
    top = _held(found, notes)
    return menu_document(name or NO_NAME, _valid(top, language, notes))


def _valid(top: list[_Branch], language: str, notes: list[Problem]) -> tuple[AnyItem, ...]:
    """The items; a line that cannot be one as it is, becomes one that holds no more than its words."""
    while True:
        ids = ReadableIds()
        whole = [_whole(branch, ids.take) for branch in top]
        try:
            return _ITEMS.validate_python(whole)
        except ValidationError as exc:
            wrong: dict[int, tuple[_Branch, str, Problem]] = {}
            for problem in problems_of(exc):
                branch, where = _at(top, problem.where)
                wrong.setdefault(id(branch), (branch, where, problem))
            for branch, where, problem in wrong.values():
                if branch.as_it_stood:
                    # Its words alone are no item either: each line is mended once, so that this ends.
                    branch.line.refuse(problem.says)
                # The line names its address itself: where in a document it would stand is of no use to who pasted it.
                says = f"{where}: {problem.says}" if where and where != "target.url" else problem.says
                branch.raw = _as_it_stood(branch.line, language, says, notes)
                branch.as_it_stood = True


_UNSEEN = re.compile(r"[\x00-\x08\x0b-\x1f\x7f-\x9f\u2028-\u202e\u2066-\u2069\ud800-\udfff]")


def _cleaned(text: str, notes: list[Problem]) -> str:
    lines = text.removeprefix("\ufeff").replace("\r\n", "\n").replace("\r", "\n").split("\n")
    for at, line in enumerate(lines):
        where = f"line {at + 1}"
        if len(line) > MAX_LINE:
            notes.append(Problem(where=where, says=f"has {len(line)} characters; the first {MAX_LINE} were read"))
        lines[at] = line[:MAX_LINE]
        if odd := _UNSEEN.search(line):
            notes.append(Problem(where=where, says=f"U+{ord(odd[0]):04X}, which nobody can see, was taken out"))
            lines[at] = _UNSEEN.sub("", lines[at])
    return "\n".join(lines)


def _as_it_stood(line: _Line, language: str, says: str, notes: list[Problem]) -> Raw:
    """The line as a link that waits for its address, with its words for a label."""
    notes.append(Problem(where=f"line {line.number}", says=says))
    arrow = _arrow(line.text)
    words = " ".join((line.text[:arrow] if arrow > 0 else line.text).split()).strip('"').strip()
    goal = " ".join(line.text[arrow + 2 :].split())[:200] if arrow >= 0 else ""
    note = f"was not understood: {goal}" if goal else "was not understood"
    label = {language: words[:500]} if words and any(letter.isprintable() for letter in words) else {language: "?"}
    return {"kind": "link", "label": label, "target": {"pending": {"note": note}}}


def _held(lines: list[tuple[_Line, Raw]], notes: list[Problem]) -> list[_Branch]:
    """As `_branches`; what stands too deep, or below what cannot hold anything, comes after that on its level."""
    top: list[_Branch] = []
    above: list[_Branch] = []
    for line, raw in lines:
        while above and above[-1].line.indent >= line.indent:
            above.pop()
        if above and above[-1].raw["kind"] not in HOLDERS:
            kind = above.pop().raw["kind"]
            notes.append(Problem(where=f"line {line.number}", says=f"a {kind} cannot hold other items; put after it"))
        if len(above) >= MAX_DEPTH:
            notes.append(
                Problem(where=f"line {line.number}", says=f"a menu has at most {MAX_DEPTH} levels; put on the last")
            )
            del above[MAX_DEPTH - 1 :]
        branch = _Branch(line, raw, len(above) + 1)
        (above[-1].below if above else top).append(branch)
        above.append(branch)
    return top


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
    text = text.removeprefix("\ufeff").replace("\r\n", "\n")
    # Asked once of all lines: hardly any outline has one.
    controls = _CONTROL.search(text.replace("\n", "")) is not None
    for number, whole in enumerate(text.split("\n"), start=1):
        if len(whole) > MAX_LINE:
            raise OutlineRefused(
                f"the line has {len(whole)} characters; at most {MAX_LINE} are read", line=number, column=MAX_LINE + 1
            )
        if controls and (control := _CONTROL.search(whole)):
            raise OutlineRefused(
                f"control character U+{ord(control[0]):04X}",
                line=number,
                column=control.start() + 1,
                remedy="Take it out.",
            )
        body = whole.lstrip(" \t")
        margin = len(whole) - len(body)
        indent = len(whole[:margin].expandtabs(_TAB)) if "\t" in whole else margin
        skipped = 0
        if body and not body[0].isalpha() and not body.startswith("---") and (bullet := BULLET.match(body)):
            skipped = len(body) - len(body[bullet.end() :].lstrip(" \t"))
        if content := body[skipped:].rstrip(" \t"):
            yield _Line(number, indent, margin + skipped + 1, content)


def _menu_name(line: _Line) -> str:
    inside = line.text[1:-1].strip() if line.text.endswith("}") else ""
    name = unquote(inside.removeprefix("menu").strip()) if inside.startswith("menu") else None
    if not name:
        line.refuse(
            "braces stand alone here", remedy='An outline may begin with {menu "Name"}; settings follow an item.'
        )
    try:
        return _NAME.validate_python(name)
    except ValidationError as exc:
        line.refuse(f"the menu's name: {problems_of(exc)[0].says}")


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


def _whole(branch: _Branch, taken: Callable[..., str]) -> Raw:
    """The item as a document has it, with all below it."""
    raw = dict(branch.raw)
    if raw.pop("bare", False):
        raw |= {"kind": "heading"} if branch.below else {"kind": "link", "target": {"pending": {}}}
    label = raw.get("label")
    words = next(iter(label.values())) if label else ""  # type: ignore[attr-defined]
    raw["id"] = taken(words, otherwise=raw["kind"])
    if branch.below:
        raw["items"] = [_whole(lower, taken) for lower in branch.below]
    return raw


def _refuse_line(top: list[_Branch], exc: ValidationError) -> NoReturn:
    """What is wrong first, at its line."""
    problem = problems_of(exc)[0]
    branch, where = _at(top, problem.where)
    if where == "items":
        kind = branch.raw["kind"]
        branch.below[0].line.refuse(
            f"a {kind} cannot hold other items", remedy="Put the line under a link or a heading."
        )
    branch.line.refuse(f"{where}: {problem.says}" if where else problem.says)


def _at(top: list[_Branch], where: str) -> tuple[_Branch, str]:
    """The branch that a problem's path leads to, and the rest of the path within it."""
    path = _STEPS.match(where)
    assert path is not None
    branch, below = top[0], top
    for step in re.findall(r"\d+", path[0]):
        branch = below[int(step)]
        below = branch.below
    return branch, where[path.end() :].removeprefix(".")


def _read(line: _Line, language: str) -> Raw:
    text = line.text
    if usual := _USUAL.fullmatch(text):
        return {"kind": "link", "label": {language: usual[1]}, "target": {"url": usual[2]}}
    first = text[0]
    if first == "-" and text.startswith("---"):
        return {"kind": "divider"} | _settings(line, text[3:], 3, language, _BARE)
    if first == "+":
        key, rest, at = _word(text, 1)
        if not key:
            line.refuse("after + the key of a menu is missing", remedy="Write + and the key, such as + shared:legal.")
        return {"kind": "include", "menu": key} | _settings(line, rest, at, language, _BARE)
    if first in "hH" and _BARE_ADDRESS.match(text):
        words = re.sub(r"^https?://|/$", "", text, flags=re.IGNORECASE)
        return {"kind": "link", "label": {language: words}, "target": {"url": text}}
    label, rest, at = _label(line)
    raw: Raw
    if rest.startswith("->"):
        raw, rest, at = _target(line, at + 2)
        settings_for = "pending" if raw.get("target") == {"pending": {}} else str(raw["kind"])
    elif rest.startswith(":"):
        raw, settings_for = {"kind": "heading"}, "heading"
        rest, at = rest[1:], at + 1
    else:
        raw, settings_for = {"kind": "link", "bare": True}, "pending"
    labels: dict[str, str] = {language: label} if label else {}
    if rest and (settings := _settings(line, rest, at, language, _TAKES[settings_for])):
        labels |= settings.pop("label", {})  # type: ignore[call-overload]
        if "pending" in settings:
            raw |= {"kind": "link", "target": {"pending": settings.pop("pending")}}
            raw.pop("bare", None)
        raw |= settings
    raw["label"] = labels
    return raw


_BARE: frozenset[str] = frozenset()
_TAKES = {kind: frozenset({kind, "labelled"}) for kind in ("pending", "heading", "link", "listing", "opener")}
"""Which groups of settings a line of the kind takes."""


def _word(text: str, start: int) -> tuple[str, str, int]:
    """The next word from `start`, what follows it, and where that begins."""
    found = _WORD.match(text, start)
    assert found is not None
    return found[1], text[found.end() :], found.end()


def _arrow(text: str) -> int:
    """Where the first arrow stands that begins the line or follows a space; -1 where there is none."""
    at = text.find("->")
    while at > 0 and not text[at - 1].isspace():
        at = text.find("->", at + 2)
    return at


def _label(line: _Line) -> tuple[str, str, int]:
    """The label, what follows it without leading spaces, and where that begins."""
    text = line.text
    if text[0] == '"':
        end = closing_quote(text, 0)
        if end is None:
            line.refuse("the quote is not closed", remedy='End the label with ", or write \\" for a quote inside it.')
        label, after = unquote(text[: end + 1]) or "", end + 1
        rest = text[after:].lstrip(" \t")
        at = len(text) - len(rest)
        if rest and not rest.startswith(("->", ":", "{")):
            line.refuse("after the quoted label comes ->, a colon or braces", at)
        return label, rest, at
    arrow, brace = _arrow(text), text.find("{")
    end = min(arrow if arrow >= 0 else len(text), brace if brace >= 0 else len(text))
    label = text[:end].rstrip(" \t")
    stray = label.find("}")
    if stray >= 0:
        line.refuse("a closing brace without an opening one", stray, 'Put a label with braces in quotes: "…".')
    if end != arrow and label.endswith(":"):
        return label[:-1].rstrip(" \t"), ":" + text[end:], end - 1
    return label, text[end:], end


def _target(line: _Line, start: int) -> tuple[Raw, str, int]:
    """The fields that a target gives, what follows it, and where that begins."""
    text = line.text
    word, rest, at = _word(text, start)
    begin = at - len(word)
    if not word:
        line.refuse("after -> the target is missing", begin, "Write @page, an address, #part, !overlay, *listing or ?.")
    bracketed = word[0] == "<"
    if bracketed:
        end = text.find(">", begin)
        if end < 0:
            line.refuse("the address is not closed", begin, "End it with >.")
        word, rest, at = text[begin + 1 : end], text[end + 1 :], end + 1
        if not word:
            line.refuse(
                "after -> the target is missing", begin, "Write @page, an address, #part, !overlay, *listing or ?."
            )
    if word[0] == "*" and not bracketed:
        brace = find_outside_quotes(text, " {", begin)
        end = len(text) if brace is None else brace
        return {"kind": "listing", "list": _query(line, text[begin + 1 : end], begin + 1)}, text[end:], end
    if word[0] == "!" and not bracketed:
        return {"kind": "opener", "target": {"overlay": word[1:]}}, rest, at
    return {"kind": "link", "target": _leads_to(word, bracketed)}, rest, at


def _leads_to(word: str, bracketed: bool) -> Raw:
    if word[0] in "tT" and word[:4].lower() == "tel:":
        return {"phone": word[4:]}
    if bracketed:
        return {"url": word}
    if word == "?":
        return {"pending": {}}
    if word[0] == "@":
        page, mark, part = word[1:].partition("#")
        return {"page": page, "part": part} if mark else {"page": page}
    if word[0] == "#":
        return {"part": word[1:]}
    if word[0] in "mM" and word[:7].lower() == "mailto:":
        return {"email": word[7:]}
    return {"url": word}


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

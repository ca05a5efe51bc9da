"""Rules as written, read into trees: the grammar of docs/rules.md. What facts there are is no matter here."""

import unicodedata
from difflib import get_close_matches
from functools import lru_cache
from typing import Any, cast

from lark import Lark, Token, Transformer, UnexpectedCharacters, UnexpectedEOF, UnexpectedToken, v_args

from sign_shelf.core.rules.model import Const, FactTest, Not, Op, Rule, all_of, any_of
from sign_shelf.core.rules.refused import RuleProblem, RuleRefused

LONGEST = 4_000
"""Characters of a rule."""

DEEPEST = 50
"""Brackets within brackets."""

_GRAMMAR = r"""
rule: all_of ("or" all_of)*             -> any_of
all_of: negated ("and" negated)*
negated: test | "not" test              -> no
test: "(" rule ")"                      -> inside
    | "always"                          -> always
    | "never"                           -> never
    | WORD                              -> holds
    | WORD IS value                     -> compared
    | WORD IS "not" value               -> differs
    | WORD IN several                   -> compared
    | WORD HAS value                    -> compared
    | WORD HAS "any" several            -> has_any
    | WORD UNDER value                  -> compared
    | WORD LIKE value                   -> compared
    | WORD COMPARE value                -> compared
several: "(" value ("," value)* ")"
value: WORD | QUOTED

IS: "is"
IN: "in"
HAS: "has"
UNDER: "under"
LIKE: "like"
COMPARE: "<=" | ">=" | "<" | ">"
WORD: /[^\s()",<>=!&|'\\“”„«»‘’≤≥≠∧∨¬；，]+/
QUOTED: /"(\\.|[^"\\])*"/
%ignore /[ \t\n]+/
"""


class Written(str):
    """A value as it was written, with where and how long, and whether in quotes."""

    column: int
    length: int
    quoted: bool

    @classmethod
    def of(cls, token: Token) -> "Written":
        quoted = token.type == "QUOTED"
        text = _unescaped(token[1:-1]) if quoted else str(token)
        written = cls(text)
        written.column, written.length, written.quoted = token.start_pos or 0, len(token), quoted
        return written


def _unescaped(text: str) -> str:
    found, escaped = [], False
    for char in text:
        if char == "\\" and not escaped:
            escaped = True
        else:
            found.append(char)
            escaped = False
    return "".join(found)


@v_args(inline=True)
class _Trees(Transformer[Token, Any]):
    def any_of(self, *parts: Rule) -> Rule:
        return any_of(parts)

    def all_of(self, *parts: Rule) -> Rule:
        return all_of(parts)

    def negated(self, rule: Rule) -> Rule:
        return rule

    def no(self, rule: Rule) -> Rule:
        return Not(rule)

    def inside(self, rule: Rule) -> Rule:
        return rule

    def always(self) -> Rule:
        return Const(True)

    def never(self) -> Rule:
        return Const(False)

    def holds(self, name: Token) -> Rule:
        return FactTest(str(name), "holds", (), name.start_pos or 0)

    def compared(self, name: Token, op: Token, value: Written | tuple[Written, ...]) -> Rule:
        values = value if isinstance(value, tuple) else (value,)
        return FactTest(str(name), cast(Op, str(op)), values, name.start_pos or 0)

    def differs(self, name: Token, op: Token, value: Written) -> Rule:
        return Not(self.compared(name, op, value))

    def has_any(self, name: Token, _: Token, values: tuple[Written, ...]) -> Rule:
        return FactTest(str(name), "has any", values, name.start_pos or 0)

    def several(self, *values: Written) -> tuple[Written, ...]:
        return values

    def value(self, token: Token) -> Written:
        return Written.of(token)


@lru_cache(1)
def _parser() -> Lark:
    """Made when a rule is read for the first time: most commands read none."""
    return Lark(_GRAMMAR, start="rule", parser="lalr", transformer=_Trees(), propagate_positions=False)


_WORDS = {
    "AND": "and", "OR": "or", "__ANY": "any", "ANY": "any", "NOT": "not", "IS": "is", "IN": "in", "HAS": "has",
    "UNDER": "under", "LIKE": "like", "LPAR": "(", "RPAR": ")", "COMMA": ",", "COMPARE": "a comparison such as >=",
    "WORD": "a fact", "QUOTED": "a value", "ALWAYS": "always", "NEVER": "never", "$END": "the end",
}  # fmt: skip
_OTHERWISE = {
    "=": "is", "==": "is", "!=": "is not", "!": "not", "&": "and", "&&": "and", "|": "or", "||": "or", "=>": ">=",
    "=<": "<=", "<>": "is not", "AND": "and", "OR": "or", "NOT": "not", "contains": "has", "equals": "is",
}  # fmt: skip
_SIGNS = {
    "≤": "<=", "≥": ">=", "≠": "is not", "∧": "and", "∨": "or", "¬": "not", "“": '"', "”": '"', "„": '"', "«": '"',
    "»": '"', "‘": '"', "’": '"', "'": '"', "；": "and", "，": ",",
}  # fmt: skip


def parse(text: str) -> Rule:
    """The rule as a tree whose values are `Written`. Raises RuleRefused."""
    _refuse_long(text)
    try:
        return cast(Rule, _parser().parse(text))
    except UnexpectedCharacters as exc:
        raise _unreadable(text, exc.pos_in_stream or 0) from None
    except UnexpectedEOF as exc:
        raise _unexpected(text, len(text), "", set(exc.expected)) from None
    except UnexpectedToken as exc:
        at = len(text) if exc.token.type == "$END" else exc.token.start_pos or 0
        raise _unexpected(text, at, str(exc.token), set(exc.expected)) from None


def _refuse_long(text: str) -> None:
    if not text.strip():
        raise RuleRefused(text, [RuleProblem(0, 0, "the rule is empty", "write always, or a fact such as signed_in")])
    if len(text) > LONGEST:
        says = f"the rule has {len(text)} characters, {LONGEST} are the most"
        raise RuleRefused(text, [RuleProblem(LONGEST, 1, says, "give parts of it names, as rules of their own")])
    depth, quoted, skip = 0, False, False
    for at, char in enumerate(text):
        if quoted:
            quoted, skip = char != '"' or skip, char == "\\" and not skip
        elif char == '"':
            quoted = True
        elif char == "(":
            depth += 1
            if depth > DEEPEST:
                raise RuleRefused(text, [RuleProblem(at, 1, f"more than {DEEPEST} brackets within each other", None)])
        elif char == ")":
            depth -= 1


def _unreadable(text: str, at: int) -> RuleRefused:
    char = text[at]
    if char == '"':
        return RuleRefused(text, [RuleProblem(at, len(text) - at, "the quoted value does not end", 'close it with "')])
    run = next((sign for sign in ("==", "=>", "=<", "!=", "&&", "||") if text.startswith(sign, at)), char)
    meant = _OTHERWISE.get(run) or _SIGNS.get(char)
    return RuleRefused(
        text, [RuleProblem(at, len(run), f"{_named(run)} is no sign of the rule language", _write(meant), meant)]
    )


def _unexpected(text: str, at: int, found: str, expected: set[str]) -> RuleRefused:
    words = [_WORDS.get(name, name.lower()) for name in sorted(expected)]
    if "WORD" in expected and "QUOTED" in expected:
        words = ["a value", *(word for word in words if word not in {"a fact", "a value"})]
    meant = _OTHERWISE.get(found) or next((_SIGNS[char] for char in found if char in _SIGNS), None)
    if meant is None and found:
        close = get_close_matches(_plain(found), [word for word in words if word.isalpha()], 1, 0.6)
        meant = close[0] if close else None
    odd = next((char for char in found if ord(char) > 127), None)
    says = f"expected {_or(words)}, found " + (f"“{short(found)}”" if found else "the end of the rule")
    if odd:
        says += f" with {_named(odd)} in it"
    return RuleRefused(text, [RuleProblem(at, max(len(found), 1), says, _write(meant), meant)])


def _plain(word: str) -> str:
    """The word with letters that only look Latin brought near to those that they look like."""
    return unicodedata.normalize("NFKC", word).casefold().translate(LOOKALIKES)


LOOKALIKES = str.maketrans("аеіоорсухѕјдпһԁոαονρικ", "aeioopcyxsjdnhdnaovpik")
"""Cyrillic, Armenian and Greek letters, and the Latin ones that they look like (Unicode TR 39, a part)."""


def short(word: str) -> str:
    """A word of the input, as much of it as a sentence can hold."""
    return word if len(word) <= 60 else f"{word[:57]}…"


def _named(sign: str) -> str:
    """The sign, and its name where it is none that a keyboard has."""
    return f"“{sign}”" if sign.isascii() else f"“{sign}” ({unicodedata.name(sign[0], 'unnamed').lower()})"


def _or(words: list[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} or {words[-1]}" if words else "nothing more"


def _write(meant: str | None) -> str | None:
    return f"write {meant}" if meant else None

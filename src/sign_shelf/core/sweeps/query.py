"""The query of a sweep: terms with spaces between them, all of which must hold.

A term is a word, or `name:value`; a `-` before it turns it round. A value is held by what is looked at, whatever the case of its
letters; with `=` before it it is the whole of that, with `~` a pattern (RE2). Spaces stand between double quotes.
"""

from dataclasses import dataclass
from difflib import get_close_matches
from functools import lru_cache
from typing import Literal, assert_never, cast, get_args

import re2

from sign_shelf.core.errors import Refusal
from sign_shelf.core.sweeps.entry import SweptEntry

Name = Literal["words", "label", "target", "host", "kind", "site", "menu", "place", "finding", "rule", "window"]
NAMES: tuple[Name, ...] = get_args(Name)
Form = Literal["holds", "is", "pattern"]
_MARKS: dict[str, Form] = {"=": "is", "~": "pattern"}
KINDS = ("link", "heading", "divider", "opener", "listing", "include")
WINDOWS = ("any", "none", "ahead", "open", "over")
MOST_TERMS = 20
MOST_LETTERS = 1_000


class QueryRefused(Refusal):
    """`where` says at which letter, counted from 1."""

    code = "query-refused"


@dataclass(frozen=True)
class Term:
    name: Name
    value: str
    form: Form = "holds"
    negated: bool = False

    def holds(self, entry: SweptEntry) -> bool:
        return self._held(entry) != self.negated

    def _held(self, entry: SweptEntry) -> bool:
        match self.name:
            case "words":
                return self._any((entry.label, *entry.goals))
            case "label":
                return self._any(entry.label.split("\n") if self.form != "holds" else (entry.label,))
            case "target":
                if self.value == "pending":
                    return entry.leads_nowhere_yet
                return self._any(entry.goals)
            case "host":
                return entry.host is not None and self._is_host(entry.host)
            case "kind":
                return entry.kind == self.value
            case "site":
                return self._any((entry.site, entry.site_name))
            case "menu":
                return self._any((entry.menu, entry.menu_name))
            case "place":
                return self._any(entry.places)
            case "finding":
                return bool(entry.findings) if self.value == "any" else self._any(entry.findings)
            case "rule":
                if self.value in {"any", "none"}:
                    return (entry.rule is not None) == (self.value == "any")
                return entry.rule is not None and self._any((entry.rule,))
            case "window":
                return self._in_window(entry)
            case _:
                assert_never(self.name)

    def is_in(self, text: str) -> bool:
        """Whether what one looks at may be held: labels in several languages are looked at one by one."""
        return any(self._text(one) for one in text.split("\n"))

    def _any(self, texts: "tuple[str, ...] | list[str] | frozenset[str]") -> bool:
        return any(self._text(one) for one in texts)

    def _text(self, text: str) -> bool:
        match self.form:
            case "holds":
                return self.value.lower() in text.lower()
            case "is":
                return text.lower() == self.value.lower()
            case "pattern":
                return pattern(self.value).search(text) is not None
            case _:
                assert_never(self.form)

    def _is_host(self, host: str) -> bool:
        if self.form == "holds":
            wanted = self.value.lower()
            return host == wanted or host.endswith(f".{wanted}")
        return self._text(host)

    def _in_window(self, entry: SweptEntry) -> bool:
        has = entry.opens is not None or entry.closes is not None
        ahead = entry.opens is not None and entry.opens[:16] > entry.now[:16]
        over = entry.closes is not None and entry.closes[:16] <= entry.now[:16]
        return {
            "any": has, "none": not has, "ahead": ahead, "over": over, "open": has and not ahead and not over,
        }[self.value]  # fmt: skip


@dataclass(frozen=True)
class Sought:
    terms: tuple[Term, ...]

    def finds(self, entry: SweptEntry) -> bool:
        return all(term.holds(entry) for term in self.terms)


def read_query(text: str) -> Sought:
    """Raises QueryRefused with the letter at which it goes wrong. A query without a term is refused: it would be everything."""
    if len(text) > MOST_LETTERS:
        raise QueryRefused(f"A query has at most {MOST_LETTERS} letters.", where="query")
    terms = []
    at = 0
    while at < len(text):
        if text[at].isspace():
            at += 1
            continue
        term, at = _term(text, at)
        terms.append(term)
    if not terms:
        raise QueryRefused(
            "Nothing is looked for.", where="query", remedy="Write a word of a label, or such as host:old.example."
        )
    if len(terms) > MOST_TERMS:
        raise QueryRefused(f"A query has at most {MOST_TERMS} terms.", where="query")
    return Sought(tuple(terms))


def _term(text: str, at: int) -> tuple[Term, int]:
    begun = at
    negated = text[at] == "-" and at + 1 < len(text) and not text[at + 1].isspace()
    at += negated
    head = at
    while head < len(text) and (text[head].isalnum() or text[head] == "_"):
        head += 1
    name: Name = "words"
    if head > at and text[head : head + 1] == ":" and text[head + 1 : head + 3] != "//":
        name, at = _name(text[at:head], at), head + 1
    form, value, at = _value(text, at, named=name != "words")
    if not value:
        raise QueryRefused(
            f'Nothing stands after "{name}:".', where=_where(begun), remedy="Write a value after the colon."
        )
    return _checked(Term(name, value, form, negated), begun), at


def _name(given: str, at: int) -> Name:
    if given in NAMES and given != "words":
        return cast(Name, given)
    near = get_close_matches(given, NAMES[1:], n=1)
    known = ", ".join(NAMES[1:])
    raise QueryRefused(
        f'Entries are not looked for by "{given}".', where=_where(at),
        remedy=f"Did you mean {near[0]}:?" if near else f"Known are {known}. Words with a colon stand in double quotes.",
    )  # fmt: skip


def _value(text: str, at: int, *, named: bool) -> tuple[Form, str, int]:
    form: Form = "holds"
    if named and (marked := _MARKS.get(text[at : at + 1])) is not None:
        form, at = marked, at + 1
    if text[at : at + 1] == '"':
        end = _closing(text, at)
        if end is None:
            raise QueryRefused(
                "The double quote is not closed.", where=_where(at), remedy='Write a " where the words end.'
            )
        return form, text[at + 1 : end].replace('\\"', '"'), end + 1
    end = at
    while end < len(text) and not text[end].isspace():
        end += 1
    return form, text[at:end], end


def _closing(text: str, at: int) -> int | None:
    end = at + 1
    while end < len(text):
        if text[end] == "\\":
            end += 1
        elif text[end] == '"':
            return end
        end += 1
    return None


def _checked(term: Term, at: int) -> Term:
    known = {"kind": KINDS, "window": WINDOWS}.get(term.name)
    if known is not None and term.value not in known:
        near = get_close_matches(term.value, known, n=1)
        raise QueryRefused(
            f'"{term.name}:{term.value}" is none that there is.', where=_where(at),
            remedy=f"Did you mean {near[0]}?" if near else f"Known are {', '.join(known)}.",
        )  # fmt: skip
    if term.form == "pattern":
        pattern(term.value, where=_where(at))
    return term


def _where(at: int) -> str:
    return f"query, letter {at + 1}"


@lru_cache(maxsize=100)
def _compiled(text: str) -> "re2._Regexp[str]":
    return re2.compile(text, _OPTIONS)


def pattern(text: str, where: str = "pattern") -> "re2._Regexp[str]":
    """The compiled pattern, whatever the case of letters. RE2 takes a time that grows with the text alone, whatever is asked of it.
    Raises QueryRefused."""
    try:
        return _compiled(text)
    except re2.error as failed:
        raise QueryRefused(
            f'"{text}" is no pattern: {_says(failed)}.', where=where,
            remedy="Patterns are those of RE2: no looking back or ahead, groups as (…), taken up again as \\1.",
        ) from failed  # fmt: skip


def _says(failed: Exception) -> str:
    told = failed.args[0] if failed.args else ""
    return told.decode("utf-8", "replace") if isinstance(told, bytes) else str(told)


def _options() -> "re2.Options":
    options = re2.Options()
    options.case_sensitive = False
    options.log_errors = False
    options.max_mem = 8 * 1024 * 1024
    return options


_OPTIONS = _options()

"""What entries say: labels that are missing, too long, vague or shouted, that differ for one target, icons without a name."""

import re
from collections.abc import Iterator

from sign_shelf.core.basics.languages import language_name
from sign_shelf.core.checks.check import Check, Code, MenuCheck, SiteCheck, reads
from sign_shelf.core.checks.finding import Finding
from sign_shelf.core.checks.view import Line, SiteView
from sign_shelf.core.model.menu import Labelled, Link, PageTarget
from sign_shelf.core.model.template import Shape

MISSING = Code(
    "label-missing", "warn", "a label is there in some of the site's languages, not in all", "visitors read another language",
    "writing it",
)  # fmt: skip
VAGUE = Code(
    "label-vague", "warn", "the label does not say where it leads (WCAG 2.2, 2.4.9)", "whoever hears it alone learns nothing",
    "a label that names what is there",
)  # fmt: skip
CAPITALS = Code(
    "label-capitals", "note", "a label of several words, or of more than five letters, is typed in capitals",
    "readers of the screen spell it, and it cannot be set otherwise", "normal letters; the place's look may set capitals",
)  # fmt: skip
LONG = Code(
    "label-long", "note", "the label is longer than its place or the site's policy takes", "it is cut, or pushes others out",
    "a shorter one",
)  # fmt: skip
TITLE = Code(
    "title-long", "note", "the entry shows its page's title, which is longer than its place takes",
    "it is cut, or pushes others out", "a label of its own",
)  # fmt: skip
NAMELESS = Code(
    "icon-nameless", "stop", "an entry shows its icon alone and nothing says what it is (WCAG 2.2, 1.1.1)",
    "whoever does not see the icon finds nothing", "a label: it is read out, and not shown",
)  # fmt: skip

_VAGUE = re.compile(
    r"^(?:click|click here|here|read more|more|learn more|details|link|this|continue|go"
    r"|klik hier|hier|lees meer|meer|verder|cliciwch yma|yma|darllen mwy|mwy|kliknij|kliknij tutaj|tutaj|czytaj więcej|więcej"
    r"|hier klicken|mehr|mehr lesen|weiter|clique aqui|aqui|ler mais|mais|saiba mais)\W*$",
    re.IGNORECASE,
)
"""In the languages that the interface knows menus in; whole labels only."""

LONGEST: dict[Shape, int] = {
    "bar": 24, "strip": 28, "corner": 28, "line": 32, "columns": 40, "drawer": 40, "side": 40, "section": 40,
}  # fmt: skip
"""Characters of a label at the top of a place."""


def _labels(view: SiteView, menu: str) -> Iterator[Finding]:
    languages = view.site.site.languages
    for line in view.lines(menu):
        item = line.item
        if not isinstance(item, Labelled):
            continue
        name = view.called(item)
        if item.look.icon_only and not item.label and not (isinstance(item, Link) and _has_title(view, item)):
            yield NAMELESS.found(
                f"{name} shows its icon alone, and nothing says what it is", line=line, fix="Write a label."
            )
        if not item.label:
            continue
        for language in languages:
            if language not in item.label:
                says = f"{name} has no label in {language_name(language)}"
                yield MISSING.found(
                    says, line=line, language=language, fix="Write one.", cause=f"labels of {menu} in {language}"
                )
        for language, label in item.label.items():
            if _VAGUE.match(label):
                says = f"“{label}” does not say where it leads"
                yield VAGUE.found(says, line=line, language=language, fix="Name what is there.")
            if _shouted(label):
                says = f"“{label}” is typed in capitals"
                yield CAPITALS.found(
                    says, line=line, language=language, fix="Type normal letters; the look may set capitals."
                )


def _has_title(view: SiteView, item: Link) -> bool:
    page = view.pages.get(item.target.page) if isinstance(item.target, PageTarget) else None
    return page is not None and bool(page.title)


def _shouted(label: str) -> bool:
    """An abbreviation is none: FAQ, RSPCA."""
    letters = [letter for letter in label if letter.isalpha()]
    return (
        len(letters) > 5
        and all(letter.isupper() for letter in letters)
        and any(letter.islower() != letter.isupper() for letter in letters)
    )


def _lengths(view: SiteView, menu: str) -> Iterator[Finding]:
    own = view.site.site.policy.label_length
    places = view.places(menu)
    most = own or min((LONGEST[place.shape] for place in places), default=None)
    if most is None:
        return
    where = next((place for place in places if own is None and LONGEST[place.shape] == most), None)
    takes = f"{where.title} takes {most}" if where else f"the site's policy takes {most}"
    for line in view.lines(menu):
        item = line.item
        # Below the top, places show a list: there is room.
        if not isinstance(item, Labelled) or (line.depth > 1 and own is None):
            continue
        for language in view.site.site.languages:
            label = view.called(item, language) if not item.label else item.label.get(language, "")
            if len(label) > most:
                says = f"“{label}” has {len(label)} characters; {takes}"
                code, fix = (LONG, "Shorten it.") if item.label else (TITLE, "Give it a label of its own.")
                location = where.key if where else None
                yield code.found(says, line=line, language=language, location=location, fix=fix)


DIFFERS = Code(
    "label-differs", "note", "entries that lead to the same are called differently in different places",
    "visitors take them for two things", "one name for it",
)  # fmt: skip


def _names(view: SiteView) -> Iterator[Finding]:
    by_goal: dict[str, dict[str, list[Line]]] = {}
    for key in view.menus:
        for line in view.lines(key) if view.hung[key] or key in view.included else ():
            goal = view.destination(line.item)
            if goal is not None and not goal.startswith("#"):
                label = view.called(line.item)
                by_goal.setdefault(goal, {}).setdefault(label.casefold(), []).append(line)
    for goal, names in by_goal.items():
        if len(names) < 2:
            continue
        usual = max(names.items(), key=lambda one: (len(one[1]), one[0]))[1]
        said = view.called(usual[0].item)
        for lines in names.values():
            for line in lines if lines is not usual else ():
                says = f"{view.called(line.item)} is called {said} in {view.site.menus[usual[0].menu].name}"
                yield DIFFERS.found(
                    says, line=line, fix=f"Call it {said}, or that one as here.", cause=f"target {goal}"
                )


CHECKS: tuple[Check, ...] = (
    MenuCheck("words", reads("tree", "arrangement", "inventory"), (MISSING, VAGUE, CAPITALS, NAMELESS), _labels),
    MenuCheck("words", reads("tree", "arrangement", "inventory"), (LONG, TITLE), _lengths),
    SiteCheck("words", reads("trees", "arrangement", "inventory"), (DIFFERS,), _names),
)

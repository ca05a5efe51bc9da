"""docs/checks.md, as the registry has it."""

from itertools import groupby

from sign_shelf.core.checks import CHECKS, Check

_READS = {
    "tree": "the menu", "trees": "all menus", "arrangement": "what hangs where and how the site is set", "inventory": "the pages",
    "links": "what addresses answered", "clock": "the day", "live": "the home page as crawlers get it",
    "live drift": "what the places were read to show", "shared": "the shared menus that it follows",
}  # fmt: skip
_HEAD = """# Checks

<!-- Written by `make types` from `src/sign_shelf/core/checks`. -->

What is found, how, and what mends it: by `sign-shelf check`, at the foot of the bench, and before anything goes live.
Severities: `stop` (a visitor runs into it, and it keeps a change from going live), `warn`, `note`. A check is run again only
where something that it reads has changed.

`javascript:` and other addresses that browsers run are refused when they are typed or brought in, so that no check can meet
one. A finding keeps its fingerprint (SHA-256 over code, cause and place, in RFC 8785 form) however its menu is rearranged.
"""


def checks_told() -> str:
    parts = [_HEAD]
    for family, checks in groupby(
        sorted(CHECKS, key=lambda one: _FAMILIES.index(one.family)), key=lambda one: one.family
    ):
        parts.append(f"\n## {family.capitalize()}\n")
        parts.append(
            "| code | severity | found when | matters because | mended by | looks at |\n|---|---|---|---|---|---|"
        )
        parts += [_row(check, at) for check in checks for at in range(len(check.codes))]
    return "\n".join(parts) + "\n"


_FAMILIES = ["targets", "structure", "words", "look", "visibility", "time", "crawlers", "sync"]


def _row(check: Check, at: int) -> str:
    code = check.codes[at]
    looks = ", ".join(says for what, says in _READS.items() if what in check.reads)
    return f"| `{code.name}` | {code.severity} | {code.when} | {code.matters} | {code.mend} | {looks} |"

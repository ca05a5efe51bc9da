"""All checks, family by family."""

from collections.abc import Mapping

from sign_shelf.core.checks import crawlers, links, look, structure, sync, targets, time, visibility, words
from sign_shelf.core.checks.check import Check, Code, Family

CHECKS: tuple[Check, ...] = (
    *targets.CHECKS, *links.CHECKS, *structure.CHECKS, *words.CHECKS, *look.CHECKS, *visibility.CHECKS, *time.CHECKS, *crawlers.CHECKS, *sync.CHECKS,
)  # fmt: skip
CODES: Mapping[str, Code] = {code.name: code for check in CHECKS for code in check.codes}
FAMILY_OF: Mapping[str, Family] = {code.name: check.family for check in CHECKS for code in check.codes}

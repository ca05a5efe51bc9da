"""Whose edits they are, of several people who saved one menu in turn."""

from collections.abc import Sequence
from dataclasses import dataclass

from sign_shelf.core.compare import Edit, diff
from sign_shelf.core.model.tree import Tree


@dataclass(frozen=True, slots=True)
class Turn:
    """What one person saved while nobody else did: the items before and after."""

    author: str
    before: Tree
    after: Tree


def whose(edits: Sequence[Edit], turns: Sequence[Turn]) -> list[str | None]:
    """For each edit, who made it: who made the same last, else who last did anything to its item, else who was last.

    Taking an edit back and making it again by another makes it theirs.
    """
    made: dict[str, str] = {}
    touched: dict[str | None, str] = {}
    authors = {turn.author for turn in turns}
    if len(authors) <= 1:
        return [next(iter(authors), None)] * len(edits)
    for turn in turns:
        for edit in diff(turn.before, turn.after):
            made[edit.key] = touched[edit.id] = turn.author
    last = turns[-1].author
    return [made.get(edit.key) or touched.get(edit.id) or last for edit in edits]

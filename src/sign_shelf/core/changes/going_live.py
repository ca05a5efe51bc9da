"""What goes live, what a future moment shows, what a return or an undo gives back: each is a three-way merge."""

from collections.abc import Sequence
from dataclasses import dataclass

from sign_shelf.core.changes.arrangement import fields_of
from sign_shelf.core.changes.merging import Merged, Templates, merge_states
from sign_shelf.core.changes.state import Contents
from sign_shelf.core.compare import diff_documents
from sign_shelf.core.model.menu import menu_document


def target(base: Contents, head: Contents, live: Contents, *, templates: Templates) -> Merged:
    """What is live once the change is: its edits on top of what is live by then."""
    return merge_states(base, head, live, templates=templates)


def given_back(made: Contents, live: Contents, before: Contents, *, templates: Templates) -> Merged:
    """A return, or an undo: what was live `before` again, without what was edited since the change `made` what it did."""
    return merge_states(made, live, before, templates=templates)


@dataclass(frozen=True, kw_only=True)
class Planned:
    """A change of one site that is approved and has its moment."""

    change: str
    base: Contents
    head: Contents


@dataclass(frozen=True, kw_only=True)
class Future:
    """`stuck` are the changes that will not go on by themselves, with what they collide in; they are left out."""

    contents: Contents
    stuck: tuple[tuple[str, Merged], ...]


def future(live: Contents, planned: Sequence[Planned], *, templates: Templates) -> Future:
    """Live, then every planned change in the order of their moments, merged in turn."""
    stuck: list[tuple[str, Merged]] = []
    for one in planned:
        merged = target(one.base, one.head, live, templates=templates)
        if merged.conflicts:
            stuck.append((one.change, merged))
        else:
            live = merged.contents
    return Future(contents=live, stuck=tuple(stuck))


def as_reviewed(base: Contents, head: Contents, live: Contents, goes_live: Contents) -> bool:
    """Whether the edits that would go live are those that were reviewed, entry by entry and field by field."""
    return _edits(base, head) == _edits(live, goes_live)


def _edits(before: Contents, after: Contents) -> list[object]:
    was, now = fields_of(before.arrangement), fields_of(after.arrangement)
    fields: list[object] = [
        (name, was.get(name), now.get(name), name in was, name in now)
        for name in sorted({*was, *now})
        if (name in was, was.get(name)) != (name in now, now.get(name))
    ]
    for key in sorted({*before.menus, *after.menus}):
        one, two = before.menus.get(key), after.menus.get(key)
        if one is not two and one != two:
            edits = diff_documents(one or menu_document(key), two or menu_document(key))
            fields.append((key, one is None, two is None, [edit.to_json() for edit in edits]))
    return fields

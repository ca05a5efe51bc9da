"""What goes live, and what a return or an undo gives back: each is a three-way merge."""

from collections.abc import Mapping

from sign_shelf.core.changes.arrangement import fields_of
from sign_shelf.core.changes.merging import Merged, Templates, merge_states
from sign_shelf.core.changes.state import Contents
from sign_shelf.core.compare import Side, diff_documents
from sign_shelf.core.model.menu import menu_document


def target(base: Contents, head: Contents, live: Contents, *, templates: Templates) -> Merged:
    """What is live once the change is: its edits on top of what is live by then."""
    return merge_states(base, head, live, templates=templates)


def given_back(
    made: Contents,
    live: Contents,
    before: Contents,
    *,
    templates: Templates,
    choices: Mapping[str, Side] | None = None,
) -> Merged:
    """A return, or an undo: what was live `before` again, with what was edited since the change `made` what it did. Chosen as
    "ours" is what is live, as "theirs" what was before."""
    return merge_states(made, live, before, templates=templates, choices=choices or {})


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

"""What differs between two trees, and how two people's edits come together.

`core.compare.matching`, which needs numbers, is imported where items are matched by content.
"""

from sign_shelf.core.compare.apply import apply, apply_to_document, without
from sign_shelf.core.compare.diff import diff, diff_documents
from sign_shelf.core.compare.edits import AnyEdit, Edit
from sign_shelf.core.compare.merge import Conflict, Merge, Side, merge
from sign_shelf.core.compare.patch import json_patch

__all__ = [
    "AnyEdit",
    "Conflict",
    "Edit",
    "Merge",
    "Side",
    "apply",
    "apply_to_document",
    "diff",
    "diff_documents",
    "json_patch",
    "merge",
    "without",
]

"""The outline: a menu document as plain text, for typing, pasting and Git. See docs/outline.md."""

from sign_shelf.core.outline.parsing import parse_item, parse_outline
from sign_shelf.core.outline.writing import format_outline, goal_text, settings_text

__all__ = ["format_outline", "goal_text", "parse_item", "parse_outline", "settings_text"]

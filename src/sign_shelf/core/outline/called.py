"""What people call an item."""

from sign_shelf.core.model.menu import AnyItem, Divider, Heading, Include, Labelled, Link, Listing, Opener
from sign_shelf.core.outline.writing import target_text


def title(item: AnyItem, language: str = "en") -> str:
    """What people call the item: its label, else what it leads to."""
    if isinstance(item, Labelled) and item.label:
        return item.label.get(language) or next(iter(item.label.values()))
    match item:
        case Link() | Opener():
            return target_text(item.target)
        case Include():
            return f"+ {item.menu}"
        case Divider():
            return "a divider"
        case Listing() | Heading():
            return item.kind

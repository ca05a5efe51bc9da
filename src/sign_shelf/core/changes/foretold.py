"""What is ahead, in sentences."""

from collections.abc import Mapping

from sign_shelf.core.changes.arrangement import arrangement_name
from sign_shelf.core.changes.queue import Event
from sign_shelf.core.changes.state import Contents
from sign_shelf.core.compare import diff_documents
from sign_shelf.core.model.menu import menu_document


def foretold(event: Event, titles: Mapping[str, str]) -> str:
    """What stands in the way of a moment, by what is known now; empty where nothing does. `titles` are those of changes by their
    names."""
    other = titles.get(event.by or "")
    about = "; ".join(event.about[:3]) + (f" and {len(event.about) - 3} more" if len(event.about) > 3 else "")
    match event.outcome:
        case "goes" | "returns":
            return ""
        case "meets" if event.comes == "ends":
            return f"it cannot come back by itself: what goes live meanwhile builds on it ({about})"
        case "meets" if other is not None:
            return f"it will not go: {other} goes live before it, and they do not agree on {about}"
        case "meets":
            return f"it will not go: what is live moved on, and they do not agree on {about}"
        case "another" if other is not None:
            return f"it will not go: after {other} it would do another thing than was approved"
        case "another":
            return "it will not go: by then it would do another thing than was approved"
        case "nothing":
            return "by then all of it is live" if event.comes == "goes" else "by then nothing of it is live any more"
        case "frozen":
            return f"nothing goes live then: {event.why}"
        case "held":
            return "it is held: it is missed where nobody lets it go by then"
        case "unapproved":
            return "it is missed where it is not approved by then"


def brought(before: Contents, after: Contents, *, language: str) -> tuple[str, ...]:
    """What differs between two states of a site, edit by edit; what hangs where and how it looks as one sentence."""
    found: list[str] = []
    for key in sorted({*before.menus, *after.menus}):
        was, now = before.menus.get(key), after.menus.get(key)
        if was is not now and was != now:
            was, now = was or menu_document(key), now or menu_document(key)
            found += [f"{now.name}: {edit.says}" for edit in diff_documents(was, now, language=language)]
    if arrangement_name(before.arrangement) != arrangement_name(after.arrangement):
        found.append("What hangs where, how it looks or what is known of visitors is another")
    return tuple(found)

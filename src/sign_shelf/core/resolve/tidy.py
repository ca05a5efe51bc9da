"""What is done to a resolved level once it is known who is on it: dividers, the current page's marks, limits."""

from collections.abc import Iterable

from sign_shelf.core.resolve.resolved import Current, Hidden, Resolved


def tidy_dividers(items: Iterable[Resolved], hidden: list[Hidden]) -> list[Resolved]:
    """Without dividers at the start, at the end or doubled."""
    kept: list[Resolved] = []
    for item in items:
        if item.kind == "divider" and (not kept or kept[-1].kind == "divider"):
            hidden.append(Hidden(item.id, "tidy", "a divider with nothing before it"))
        else:
            kept.append(item)
    if kept and kept[-1].kind == "divider":
        hidden.append(Hidden(kept.pop().id, "tidy", "a divider with nothing after it"))
    return kept


def marked(items: tuple[Resolved, ...], page: str) -> tuple[Resolved, ...]:
    """With the entries that lead to the page marked, and the branches that hold them; the same tuple if none does."""
    found: list[Resolved] | None = None
    for at, item in enumerate(items):
        below = marked(item.items, page) if item.items else item.items
        here = item.page == page
        if here or below is not item.items:
            if found is None:
                found = list(items)
            found[at] = item._replace(items=below, current="page" if here else "branch")
    return items if found is None else tuple(found)


def unmarked(items: tuple[Resolved, ...], mark: Current) -> tuple[Resolved, ...]:
    """What was marked as the page itself becomes a branch that the page is in."""
    return tuple(
        item._replace(current="branch" if item.current == mark else item.current, items=unmarked(item.items, mark))
        for item in items
    )

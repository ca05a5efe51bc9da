"""Leaving a menu out of a change: what it does to that menu becomes a change of its own, and the rest goes without it."""

from sign_shelf.core.changes.state import Contents
from sign_shelf.core.errors import EditRefused
from sign_shelf.core.model.includes import included


def left_out(base: Contents, head: Contents, menu: str) -> tuple[Contents, Contents]:
    """The change without what it does to the menu, and that alone. Both set out from `base`; where the change newly hangs
    the menu goes with it.

    Law: merge(base, *left_out(base, head, menu)) is head, without conflicts. Raises EditRefused where the change does
    nothing to the menu, or where one of the two could not be without the other.
    """
    _refuse(base, head, menu)
    was, placed = base.arrangement.placed(), head.arrangement.placed()
    moved = {slot for slot, hung in placed.items() if hung == menu and was.get(slot, "") != menu}
    if moved and base.arrangement.template != head.arrangement.template:
        raise EditRefused("It hangs on the template that the change goes over to.", where=menu, remedy=_WHOLE)
    back = {slot: was[slot] for slot in moved if slot in was}
    for slot, hung in back.items():
        if hung is not None and hung not in head.menus:
            says = f"It hangs in place of {hung}, which the change removes."
            raise EditRefused(says, where="/".join(slot), remedy=_WHOLE)
    rest = {slot: hung for slot, hung in placed.items() if slot not in moved} | back
    kept = head.arrangement.hanging(rest)
    alone = base.arrangement.hanging(was | dict.fromkeys(moved, menu))
    menus = dict(head.menus)
    if menu in base.menus:
        menus[menu] = base.menus[menu]
    else:
        del menus[menu]
        away = [key for key in kept.archived if key == menu]
        kept = kept.model_copy(update={"archived": tuple(key for key in kept.archived if key != menu)})
        alone = alone.model_copy(update={"archived": (*alone.archived, *away)})
    return (
        Contents(arrangement=kept, menus=menus),
        Contents(arrangement=alone, menus={**base.menus, menu: head.menus[menu]}),
    )


_WHOLE = "Put all of the change live together."


def _refuse(base: Contents, head: Contents, menu: str) -> None:
    if menu not in head.menus:
        raise EditRefused("The change removes this menu.", where=menu, remedy=_WHOLE)
    if head.menus[menu] == base.menus.get(menu):
        raise EditRefused("The change does nothing to this menu.", where=menu, remedy="Look at what goes live again.")
    if menu in base.menus:
        return
    for document in head.menus.values():
        if menu in included(document.items):
            raise EditRefused(
                f"{document.name} holds this menu, which is new.", where=menu,
                remedy=f"Leave {document.name} out first, or put both live.",
            )  # fmt: skip

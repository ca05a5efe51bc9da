"""A change that is still to go live follows what is live: its edits, on top of what is live now."""

from datetime import datetime

from sign_shelf.core.changes.going_live import as_reviewed
from sign_shelf.core.changes.merging import merge_states
from sign_shelf.desk.on_top import templates_of
from sign_shelf.desk.review import moved_on, reviewed
from sign_shelf.desk.workplace import Workplace, put_state
from sign_shelf.store import menus, states
from sign_shelf.store.database import Session
from sign_shelf.store.tables import ChangePartRow, ChangeRow, SiteRow


async def move_on(session: Session, site: SiteRow, change: ChangeRow, part: ChangePartRow, now: datetime) -> None:
    """It sets out from what is live now. Where it does not agree with that, it stays as it is until somebody settles it."""
    if part.base == site.live_state:
        return
    base, head, live = [await states.contents(session, one) for one in (part.base, part.head, site.live_state)]
    merged = merge_states(base, head, live, templates=await templates_of(session, (base, head, live)))
    if merged.conflicts:
        return
    (before,) = await reviewed(session, [change])
    trees = {key: await menus.keep_tree(session, document) for key, document in merged.contents.menus.items()}
    # Nobody edited anything: what others put live is none of this change's edits.
    at = Workplace(site, change, part, author_id=None)
    await put_state(session, at, merged.contents.arrangement, trees, now=now)
    part.base = site.live_state
    session.add(part)
    await session.flush()
    await moved_on(session, before, as_it_was=as_reviewed(base, head, live, merged.contents), now=now)

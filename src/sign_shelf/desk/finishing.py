"""A change of several sites is live once it is at all of them, and over once it ended at all of them."""

from datetime import datetime
from typing import cast
from uuid import UUID

from sign_shelf.core.changes import life
from sign_shelf.store import changes, releases
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import ChangeRow


async def note_how_far(session: Session, change: ChangeRow, now: datetime) -> None:
    """The change stands where its parts say. Two that finish at the same moment do not see each other: `finish` looks again."""
    parts = await changes.parts_of(session, change.id)
    state = life.reached(
        cast(life.Life, change.state),
        live=[part.live_at is not None for part in parts],
        over=[part.over_at is not None for part in parts],
        by="undo" if await releases.last_reversal(session, change.id) == "undo" else "end",
    )
    if state == change.state:
        return
    if state == "live":
        change.live_at = now
    change.state = state
    session.add(change)


async def finish(database: Database, change_id: UUID, now: datetime) -> None:
    """Looks at the change once more, after what happened at a site is kept. One at a time: the last one sees all sites."""
    async with database.transaction() as session:
        change = await changes.change_by_id(session, change_id, lock=True)
        if change is not None:
            await note_how_far(session, change, now)


async def finish_all(database: Database, now: datetime) -> int:
    """Changes whose parts are further than they are themselves; how many there were."""
    async with database.transaction() as session:
        left = await changes.behind_their_parts(session)
    for change_id in left:
        await finish(database, change_id, now)
    return len(left)

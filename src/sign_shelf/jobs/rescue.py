"""Work that nobody does any more is taken up again.

What counts is not what the queue says of a job, nor when its worker was heard of last, but whether anybody holds the
lock under which it is done: a worker that is late is left alone, one that is dead holds nothing.
"""

import asyncio
from datetime import UTC, datetime, timedelta
from uuid import UUID

import structlog
from procrastinate import App

from sign_shelf.core.errors import Busy
from sign_shelf.desk import put_live, take_in
from sign_shelf.desk.finishing import finish_all
from sign_shelf.store import queue, releases, take_ins
from sign_shelf.store.database import Database

log = structlog.get_logger()


async def rescue(app: App, database: Database, stalled_after_s: float) -> None:
    """Looks for ever. A job is taken up again where it was found undone at two looks, one after the other: between being
    fetched and having its lock, one looks as if nobody did it."""
    before: set[int] = set()
    while True:
        try:
            before = await look(app, database, before, stalled_after_s)
        except Busy as away:
            log.warning("rescue_waits_for_the_database", says=str(away))
        await asyncio.sleep(stalled_after_s / 2)


async def look(app: App, database: Database, before: set[int], stalled_after_s: float) -> set[int]:
    """Takes up what nobody did at the last look either; the jobs that nobody does now."""
    async with database.transaction() as session:
        undone = await queue.nobody_does(session)
    for job in sorted(undone & before):
        log.warning("job_taken_up_again", job=job)
        await app.job_manager.retry_job_by_id_async(job, retry_at=datetime.now(UTC))
    async with database.transaction() as session:
        asked_before = datetime.now(UTC) - timedelta(seconds=stalled_after_s)
        left: list[tuple[str, UUID, str | None]] = [
            (take_in.TASK, row.id, None) for row in await take_ins.unfinished(session, asked_before)
        ]
        left += [
            (put_live.TASK, row.id, f"site:{row.site_id}") for row in await releases.unfinished(session, asked_before)
        ]
        for task, subject, lock in left:
            if not await queue.has_job(session, task, str(subject)):
                log.warning("work_queued_again", task=task, subject=str(subject))
                await queue.defer(session, task, lock=lock, subject=str(subject))
    finished = await finish_all(database, datetime.now(UTC))
    if finished:
        log.warning("changes_finished", many=finished)
    return undone - before

"""Deferring a job on the transaction of the write that it belongs to: both happen, or neither does."""

import json

from sqlalchemy import text

from sign_shelf.store.database import Session

_DEFER = text(
    "SELECT procrastinate_defer_jobs_v1(ARRAY["
    "ROW('default', :task, 0, :lock, NULL, CAST(:arguments AS jsonb), NULL)::procrastinate_job_to_defer_v1])"
)


async def defer(session: Session, task: str, *, lock: str | None = None, **arguments: str) -> None:
    """`task` runs once the transaction is committed; jobs with the same lock run one after the other."""
    await (await session.connection()).execute(_DEFER, {"task": task, "lock": lock, "arguments": json.dumps(arguments)})

"""The queue of jobs: deferring one on the transaction of the write that it belongs to, so that both happen or neither
does, and what it looks like from outside."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from procrastinate import PsycopgConnector
from procrastinate.manager import JobManager
from procrastinate.tasks import configure_task
from sqlalchemy import text

from sign_shelf.store.database import Session

QUEUE = "default"
_JOBS = JobManager(PsycopgConnector())
"""It has no connection of its own: a job is put on that of the write."""


async def defer(session: Session, task: str, *, subject: str, lock: str | None = None) -> None:
    """`task` is done for the subject once the transaction is committed; jobs with the same lock run one after the other."""
    await defer_all(session, task, {subject: lock})


async def defer_all(session: Session, task: str, locks: Mapping[str, str | None]) -> None:
    """For each of the subjects, with its lock."""
    raw = await (await session.connection()).get_raw_connection()
    jobs = [
        configure_task(
            name=task, job_manager=_JOBS, queue=QUEUE, lock=lock, task_kwargs={"subject": subject}
        ).job
        for subject, lock in locks.items()
    ]  # fmt: skip
    await _JOBS.batch_defer_jobs_async(jobs=jobs, connection=raw.driver_connection)


_DOING = text(
    """
    SELECT job.id, job.task_name, job.args, NOT EXISTS (
      SELECT 1 FROM pg_locks
      WHERE locktype = 'advisory' AND granted AND objsubid = 1
        AND (classid::bigint << 32 | objid::bigint)
            = hashtextextended(job.task_name || ' ' || (job.args ->> 'subject'), 0)
    ) AS nobody
    FROM procrastinate_jobs job WHERE job.status = 'doing'
    """
)


def work_name(task: str, subject: str) -> str:
    """The name under which a job does its work alone (`Database.alone`)."""
    return f"{task} {subject}"


async def nobody_does(session: Session) -> set[int]:
    """Jobs that are said to be under way and of which no process anywhere holds the lock."""
    return {row.id for row in await (await session.connection()).execute(_DOING) if row.nobody}


async def has_job(session: Session, task: str, subject: str) -> bool:
    """Whether a job for it waits or is under way."""
    found = await (await session.connection()).scalar(
        text(
            "SELECT EXISTS (SELECT 1 FROM procrastinate_jobs WHERE task_name = :task AND status IN ('todo', 'doing')"
            " AND args ->> 'subject' = :subject)"
        ),
        {"task": task, "subject": subject},
    )
    return bool(found)


@dataclass(frozen=True)
class QueueState:
    heard: datetime | None
    """When a worker was last heard of; None where there is none."""
    oldest: datetime | None
    """Since when the job that waits longest could have begun; None where none waits."""
    waiting: int


async def state(session: Session) -> QueueState:
    row = (
        await (await session.connection()).execute(
            text(
                "SELECT (SELECT max(last_heartbeat) FROM procrastinate_workers) AS heard,"
                " min(coalesce(job.scheduled_at, event.at)) AS oldest, count(*) AS waiting"
                " FROM procrastinate_jobs job LEFT JOIN procrastinate_events event"
                " ON event.job_id = job.id AND event.type = 'deferred'"
                " WHERE job.status = 'todo' AND (job.scheduled_at IS NULL OR job.scheduled_at <= now())"
            )
        )
    ).one()
    return QueueState(row.heard, row.oldest, row.waiting)

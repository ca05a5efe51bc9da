"""The worker: runs deferred tasks, each alone, and outlives a database that is away for a while."""

import asyncio
from collections.abc import Awaitable, Callable
from datetime import UTC, datetime
from uuid import UUID

import structlog
from procrastinate import App, BaseRetryStrategy, PsycopgConnector, RetryDecision
from procrastinate.exceptions import ProcrastinateException
from procrastinate.jobs import Job

from sign_shelf.core.errors import Busy
from sign_shelf.desk import put_live, sending, take_in
from sign_shelf.desk.posting import Post
from sign_shelf.jobs.rescue import rescue
from sign_shelf.jobs.rounds import go_round
from sign_shelf.jobs.watching import rounds
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.outside.mail import MailServer
from sign_shelf.settings import Settings
from sign_shelf.store import queue
from sign_shelf.store.database import DRIVER_ERROR, Database

log = structlog.get_logger()

_PAUSES_S = (1, 2, 4, 8, 15)
_AWAY = (DRIVER_ERROR, ProcrastinateException, Busy, OSError)
_LONGEST_PAUSE_S = 60


class _TriedAgain(BaseRetryStrategy):
    """Tries the same job again under the same lock, so that nothing that was asked for later overtakes it.

    A release counts its own tries and ends by itself; this only says when. The database may be away for as long as it likes.
    """

    def get_retry_decision(self, *, exception: BaseException, job: Job) -> RetryDecision | None:
        if not isinstance(exception, Busy):
            return None
        return RetryDecision(retry_in={"seconds": 1 + min(2 ** min(job.attempts + 1, 10), _LONGEST_PAUSE_S)})


def queue_app(settings: Settings, database: Database) -> App:
    """The queue with its tasks bound to this database."""
    app = App(connector=PsycopgConnector(conninfo=settings.database.get_secret_value(), min_size=1, max_size=4))

    @app.task(name=put_live.TASK, queue="default", retry=_TriedAgain())
    async def run_put_live(subject: str) -> None:
        async def work() -> None:
            async with Fetcher.configured(settings) as fetcher:
                await sending.carry_out(database, fetcher, UUID(subject), lambda: datetime.now(UTC))

        await _alone(database, put_live.TASK, subject, work)

    @app.task(name=take_in.TASK, queue="default", retry=_TriedAgain())
    async def run_take_in(subject: str) -> None:
        async def work() -> None:
            async with Fetcher.configured(settings) as fetcher:
                await take_in.carry_out(database, fetcher, UUID(subject))

        await _alone(database, take_in.TASK, subject, work)

    return app


async def _alone(database: Database, task: str, subject: str, work: Callable[[], Awaitable[None]]) -> None:
    """Does the work unless somebody does it already. Where the database goes away meanwhile, the job is tried again; where
    not even that could be written down, `rescue` finds that nobody does it."""
    try:
        async with database.alone(queue.work_name(task, subject)) as alone:
            if not alone:
                log.warning("job_is_done_elsewhere", task=task, subject=subject)
                return
            await work()
    except Busy as away:
        log.warning("job_put_off", task=task, subject=subject, says=str(away))
        raise
    log.info("job_carried_out", task=task, subject=subject)


async def run_worker(settings: Settings) -> None:
    """Works until it is told to stop by a signal. While the database is away it waits for it."""
    async with Database.configured(settings) as database:
        await _outlast(settings, database)


async def _outlast(settings: Settings, database: Database) -> None:
    """Works again after each time that the database was away."""
    failed = 0
    while True:
        began = asyncio.get_running_loop().time()
        try:
            await _work(settings, database)
            return
        except (*_AWAY, ExceptionGroup) as exc:
            # What works side by side fails as a group; whatever else is in it is no outage.
            if isinstance(exc, ExceptionGroup) and exc.split(_AWAY)[1] is not None:
                raise
            if asyncio.get_running_loop().time() - began > 60:
                failed = 0
            pause = _PAUSES_S[min(failed, len(_PAUSES_S) - 1)]
            failed += 1
            log.warning(
                "worker_waits_for_the_database", seconds=pause, says=str(exc).splitlines()[0] if str(exc) else ""
            )
            await asyncio.sleep(pause)


async def _work(settings: Settings, database: Database) -> None:
    app = queue_app(settings, database)
    async with app.open_async(), Fetcher.configured(settings) as fetcher, asyncio.TaskGroup() as together:
        post = Post(fetcher=fetcher, mail=MailServer.configured(settings), shelf=settings.address)
        rescuing = together.create_task(rescue(app, database, settings.stalled_after_s))
        watching = together.create_task(go_round(database, settings.database, rounds(database, post)))
        await app.run_worker_async(
            queues=["default"],
            concurrency=4,
            # It is told of new jobs and of those that ended (migration 0032). It misses what it is told while it fetches one, and what is
            # to be tried again later comes without a word.
            fetch_job_polling_interval=1.0,
            update_heartbeat_interval=settings.heartbeat_s,
            stalled_worker_timeout=settings.stalled_after_s,
            shutdown_graceful_timeout=10.0,
        )
        rescuing.cancel()
        watching.cancel()

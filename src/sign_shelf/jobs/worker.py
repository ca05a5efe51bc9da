"""The worker: runs deferred tasks, and takes up again what a dead worker left in the middle."""

import asyncio
from datetime import UTC, datetime
from uuid import UUID

import structlog
from procrastinate import App, PsycopgConnector

from sign_shelf.desk import put_live, take_in
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.settings import Settings
from sign_shelf.store.database import Database

log = structlog.get_logger()


def queue_app(settings: Settings, database: Database) -> App:
    """The queue with its tasks bound to this database."""
    app = App(connector=PsycopgConnector(conninfo=settings.database.get_secret_value(), min_size=1, max_size=4))
    allowed = settings.allowed_private_hosts

    @app.task(name=put_live.TASK, queue="default")
    async def run_put_live(release: str) -> None:
        async with Fetcher(allowed) as fetcher:
            await put_live.carry_out(database, fetcher, UUID(release), datetime.now(UTC))
        log.info("release_carried_out", release=release)

    @app.task(name=take_in.TASK, queue="default")
    async def run_take_in(take_in: str) -> None:
        async with Fetcher(allowed) as fetcher:
            await _take_in(database, fetcher, take_in)
        log.info("site_read", take_in=take_in)

    return app


async def _take_in(database: Database, fetcher: Fetcher, take_in_id: str) -> None:
    await take_in.carry_out(database, fetcher, UUID(take_in_id))


async def run_worker(settings: Settings) -> None:
    """Works until it is told to stop by a signal."""
    database = Database(settings.database.get_secret_value(), pool_size=settings.pool_size)
    app = queue_app(settings, database)
    async with app.open_async():
        rescue = asyncio.create_task(_rescue(app, settings.stalled_after_s))
        try:
            await app.run_worker_async(
                queues=["default"],
                concurrency=4,
                fetch_job_polling_interval=2.0,
                update_heartbeat_interval=settings.heartbeat_s,
                stalled_worker_timeout=settings.stalled_after_s,
                shutdown_graceful_timeout=10.0,
            )
        finally:
            rescue.cancel()
    await database.close()


async def _rescue(app: App, stalled_after_s: float) -> None:
    while True:
        for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=stalled_after_s):
            log.warning("job_taken_up_again", job=job.id, task=job.task_name)
            await app.job_manager.retry_job(job)
        await asyncio.sleep(stalled_after_s / 2)

"""Whether the server answers, and whether work gets done."""

from datetime import UTC, datetime, timedelta
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response

from sign_shelf.api.guards import Config, Db
from sign_shelf.api.loop_watch import REMEMBERED_S
from sign_shelf.api.models import Answer
from sign_shelf.core.errors import Busy
from sign_shelf.store import queue

router = APIRouter(prefix="/api/health", tags=["server"])


class Health(Answer):
    status: str


class Ready(Answer):
    """`worker_heard_s` is how long ago a worker was last heard of, `oldest_s` how long a job that could begin has
    waited; `status` is `ready`, or says what is not."""

    status: str
    worker: bool
    worker_heard_s: float | None
    waiting: int
    oldest_s: float | None
    loop_held_ms: float
    processes: dict[str, int]


@router.get("")
async def health(database: Db) -> Health:
    """Answers once the database does."""
    async with database.transaction() as session:
        await queue.state(session)
    return Health(status="ok")


@router.get("/ready")
async def ready(
    request: Request,
    response: Response,
    database: Db,
    settings: Config,
    within_s: Annotated[float, Query(ge=0, le=REMEMBERED_S)] = REMEMBERED_S,
) -> Ready:
    """503 while the database is away; the rest is told, and is for who runs it to judge. `loop_held_ms` looks back so
    many seconds."""
    watch, processes = request.app.state.watch, request.app.state.processes
    held = round(watch.longest_ms(within_s), 1) if watch else 0.0
    running = processes.state if processes else {}
    try:
        async with database.transaction() as session:
            found = await queue.state(session)
    except Busy:
        response.status_code = 503
        return Ready(
            status="the database does not answer", worker=False, worker_heard_s=None, waiting=0, oldest_s=None,
            loop_held_ms=held, processes=running,
        )  # fmt: skip
    now = datetime.now(UTC)
    heard = (now - found.heard).total_seconds() if found.heard else None
    worker = heard is not None and timedelta(seconds=heard) < timedelta(seconds=settings.stalled_after_s * 2)
    return Ready(
        status="ready" if worker else "no worker has been heard of",
        worker=worker,
        worker_heard_s=round(heard, 1) if heard is not None else None,
        waiting=found.waiting,
        oldest_s=round((now - found.oldest).total_seconds(), 1) if found.oldest else None,
        loop_held_ms=held,
        processes=running,
    )

"""Commands that run or prepare the server. What they run is imported when they do."""

import asyncio
import gc
import io
import logging
import os
import signal
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from types import FrameType
from typing import TYPE_CHECKING, Annotated

import structlog
import typer

if TYPE_CHECKING:
    from fastapi import FastAPI


def configure_logs() -> None:
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            # What strangers sent may hold signs that cannot be written: telling of it must not fail.
            stream.reconfigure(errors="backslashreplace")
    structlog.configure(
        processors=[
            structlog.contextvars.merge_contextvars,
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            structlog.processors.format_exc_info,
            structlog.processors.LogfmtRenderer(),
        ],
        logger_factory=structlog.PrintLoggerFactory(),
    )
    logging.basicConfig(level=logging.WARNING)


@contextmanager
def _loading() -> Iterator[None]:
    """What is imported stays: looking it through for garbage meanwhile is a third of the time that it takes."""
    gc.disable()
    try:
        yield
    finally:
        gc.freeze()
        gc.enable()


def serve(host: Annotated[str, typer.Option()] = "127.0.0.1", port: Annotated[int, typer.Option()] = 8400) -> None:
    """The web server. Any number of them may run against one database."""
    with _loading():
        import uvicorn

        from sign_shelf.api.app import create_app
        from sign_shelf.api.connection import Connection
        from sign_shelf.api.processes import Processes
        from sign_shelf.settings import configured

    configure_logs()
    settings = configured()
    app = create_app(settings, Processes(settings.processes, answer_within_s=settings.answer_within_s))

    class Server(uvicorn.Server):
        def handle_exit(self, sig: int, frame: FrameType | None) -> None:
            # What is streamed would go on for as long as it is waited for.
            app.state.streams.stop()
            super().handle_exit(sig, frame)

    Server(uvicorn.Config(
        app, host=host, port=port, http=Connection, log_level="warning", timeout_graceful_shutdown=5,
        limit_concurrency=1_000, backlog=512, timeout_keep_alive=10, h11_max_incomplete_event_size=32 * 1024,
        proxy_headers=False, server_header=False,
    )).run()  # fmt: skip


def serve_processes(ends_with: int) -> None:
    """The processes of a server, begun by it: one for each socket that it names on standard input, forked once all that
    they need is read. Each ends when the file descriptor `ends_with` is closed at its other end."""
    with _loading():
        import scipy.optimize  # noqa: F401 - what few requests use, and would read while somebody waits
        import uvicorn

        from sign_shelf.api.app import create_app
        from sign_shelf.settings import configured

        configure_logs()
        app = create_app(configured(), pool_size=2)
        # What a server is made of is read with it.
        uvicorn.Config(app).load()
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)
    for line in sys.stdin:
        # Forked before there is a thread or a loop.
        if os.fork() == 0:
            # Less urgent than the one that people are connected to, which waits for the reading that came before this.
            os.nice(5)
            signal.signal(signal.SIGCHLD, signal.SIG_DFL)
            asyncio.run(_serve_on(Path(line.strip()), app, ends_with))
            return


async def _serve_on(socket: Path, app: "FastAPI", ends_with: int) -> None:
    import uvicorn

    server = uvicorn.Server(uvicorn.Config(app, uds=str(socket), log_level="warning", timeout_keep_alive=3_600))
    loop = asyncio.get_running_loop()
    loop.add_reader(ends_with, lambda: os._exit(0))
    serving = loop.create_task(server.serve())
    while not socket.exists() and not serving.done():  # noqa: ASYNC110, ASYNC240 - uvicorn tells nobody
        await asyncio.sleep(0.005)
    print(os.getpid(), flush=True)
    await serving


serve_processes.__name__ = "serve-processes"


def worker() -> None:
    """The background worker. Any number of them may run against one database."""
    with _loading():
        from sign_shelf.jobs.worker import run_worker
        from sign_shelf.settings import configured

    configure_logs()
    asyncio.run(run_worker(configured()))


def migrate_(
    backed_up: Annotated[
        bool, typer.Option("--backed-up", help="There is a back-up: a filled database is changed.")
    ] = False,
    look: Annotated[bool, typer.Option("--look", help="Tells what would be done; nothing is.")] = False,
) -> None:
    """Brings the database to the newest schema, and tells which migrations servers and workers that run may go on beside; others are not
    made while any is connected. A database that holds data is changed only where it is said that it was backed up: an older schema is
    come back to in no other way."""
    from sign_shelf.core.errors import Refusal
    from sign_shelf.settings import configured
    from sign_shelf.store.migrate import ahead, migrate
    from sign_shelf.store.seals import Seals

    settings = configured()
    address = settings.database.get_secret_value()
    found = ahead(address)
    for step in found.steps if found.filled or look else ():
        print(
            f"{step.revision}  {step.says}  {'beside what runs' if step.beside else 'with servers and workers stopped'}"
        )
    if look:
        print(f"{len(found.steps)} to be made; {found.running} connections of servers and workers")
        return
    if found.steps and found.filled and not backed_up:
        raise Refusal(
            f"The database holds data in schema {found.now}, and what is older is come back to through a back-up alone.",
            remedy="Make one (sign-shelf backup FILE), then run: sign-shelf migrate --backed-up",
        )
    if found.in_the_way:
        raise Refusal(
            f"{found.running} connections of servers and workers are there, which would not go on with {found.in_the_way[0].revision}.",
            remedy="Stop them, migrate, and start the new ones: docs/running.md tells the order.",
        )
    migrate(address, Seals(settings.key))


migrate_.__name__ = "migrate"

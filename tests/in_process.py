"""A server and a worker in threads of the test's process: what a browser talks to. As processes of their own: `running.py`."""

import asyncio
import threading
from collections.abc import Awaitable, Callable, Iterator
from contextlib import contextmanager

import uvicorn

from sign_shelf.api.app import create_app
from sign_shelf.api.connection import Connection
from sign_shelf.demo.cluster import free_port
from sign_shelf.jobs.worker import run_worker
from sign_shelf.settings import Settings
from tests.waiting import eventually

STOPS_WITHIN_S = 90.0


@contextmanager
def in_thread(name: str, work: Callable[[], Awaitable[None]]) -> Iterator[threading.Thread]:
    """Does the work in a loop and thread of its own, and cancels it at the end. Raises what it ended with by itself."""
    ready = threading.Event()
    failed: list[BaseException] = []
    cancel: list[Callable[[], object]] = []

    async def main() -> None:
        task = asyncio.ensure_future(work())
        loop = asyncio.get_running_loop()
        cancel.append(lambda: loop.call_soon_threadsafe(task.cancel))
        ready.set()
        try:
            await task
        except asyncio.CancelledError:
            return
        except BaseException as exc:
            failed.append(exc)

    thread = threading.Thread(target=lambda: asyncio.run(main()), name=name, daemon=True)
    thread.start()
    ready.wait()
    try:
        yield thread
    finally:
        if thread.is_alive():
            cancel[0]()
        thread.join(STOPS_WITHIN_S)
    assert not thread.is_alive(), f"the {name} did not end"
    if failed:
        raise failed[0]


@contextmanager
def server_in_thread(settings: Settings, port: int) -> Iterator[None]:
    """One server that works on every request itself, once it answers."""
    app = create_app(settings)
    server = uvicorn.Server(uvicorn.Config(
        app, host="127.0.0.1", port=port, http=Connection, log_level="warning", timeout_graceful_shutdown=1,
        timeout_keep_alive=10, h11_max_incomplete_event_size=32 * 1024, proxy_headers=False, server_header=False,
    ))  # fmt: skip

    async def serve() -> None:
        async with app.state.streams.watching():
            await server.serve()

    with in_thread("server", serve) as thread:
        # A machine that has much else to do delays it; it fails only where it ends.
        eventually(lambda: server.started or not thread.is_alive(), within_s=170)
        assert server.started, "the server ended before it answered"
        try:
            yield
        finally:
            app.state.streams.stop()
            server.should_exit = True
            eventually(lambda: not thread.is_alive(), within_s=STOPS_WITHIN_S)


@contextmanager
def worker_in_thread(settings: Settings) -> Iterator[None]:
    with in_thread("worker", lambda: run_worker(settings)):
        yield


@contextmanager
def shelf_in_process(settings: Settings) -> Iterator[str]:
    """Server and worker over one database; their address."""
    port = free_port()
    with server_in_thread(settings, port), worker_in_thread(settings):
        yield f"http://127.0.0.1:{port}"

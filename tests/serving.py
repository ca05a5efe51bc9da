"""An application on a loopback port, in a thread of the test's process."""

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import uvicorn

from tests.waiting import eventually


@contextmanager
def serving(app: Any, port: int, certificate: tuple[Path, Path] | None = None) -> Iterator[str]:
    """The ASGI application, until the end; its address. With a `certificate` and its key: by TLS."""
    shown, key = certificate or (None, None)
    server = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=port, log_level="error", lifespan="off",
                                           timeout_graceful_shutdown=1, ssl_certfile=shown, ssl_keyfile=key))  # fmt: skip
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    eventually(lambda: server.started)
    yield f"http{'s' if certificate else ''}://127.0.0.1:{port}/"
    server.should_exit = True
    thread.join(10)

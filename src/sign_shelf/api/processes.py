"""Processes that requests are worked on in, so that the one which people are connected to is never held up.

Each is this very application on a Unix socket, and works on one request at a time. One that takes too long, that grows,
or whose asker is gone is ended and another one begun. Who waits, waits in a bounded line, and nobody can fill it alone.
"""

import asyncio
import contextlib
import os
import resource
import shutil
import signal
import sys
import tempfile
from collections import Counter
from collections.abc import AsyncIterator
from dataclasses import dataclass
from pathlib import Path

import httpx
import structlog
from starlette.types import ASGIApp, Receive, Scope, Send

from sign_shelf.api.problems import refusal_response
from sign_shelf.core.errors import Busy

log = structlog.get_logger()

MOST_WAITING = 200
MOST_OF_ONE = 40
"""Requests that wait, of all and of one asker."""
WAIT_S = 15.0
GROWN_BYTES = 150 * 1024 * 1024
"""By how much all processes together may grow before others take the place of those that grew most."""
ADDRESS_SPACE = 4 * 1024**3
_PIECE = 65_536
_STARTS_WITHIN_S = 180.0
"""The first one waits until everything was read, on a machine that has much else to do."""
_GRACE_S = 1.0
"""How long a request goes on whose asker is gone: most are done sooner than a process is begun."""
_STOPS = frozenset({"GET", "HEAD", "POST"})
"""Whose work stops when the asker is gone; creates among them are asked again by their key."""
_ONE_HOP = frozenset({b"connection", b"keep-alive", b"transfer-encoding", b"date", b"server", b"content-length"})


class Ended(Exception):
    """A process was ended in the middle of a request; `why` is for the asker."""

    def __init__(self, why: Busy | None) -> None:
        super().__init__(str(why))
        self.why = why


@dataclass(frozen=True)
class Answer:
    status: int
    headers: list[tuple[bytes, bytes]]
    body: list[bytes]


class _Process:
    """One process with its socket."""

    def __init__(self, pid: int, socket: Path) -> None:
        self.pid = pid
        self.client = httpx.AsyncClient(
            transport=httpx.AsyncHTTPTransport(uds=str(socket), verify=False, trust_env=False),
            timeout=None,
            base_url="http://shelf",
            trust_env=False,
        )
        self.rest = self.size()

    def size(self) -> int:
        """Bytes of memory that it holds; 0 where it is gone."""
        try:
            pages = int(Path(f"/proc/{self.pid}/statm").read_text().split()[1])
        except (OSError, IndexError):
            return 0
        return pages * os.sysconf("SC_PAGE_SIZE")

    @property
    def grown(self) -> int:
        return max(self.size() - self.rest, 0)

    async def end(self) -> None:
        with contextlib.suppress(ProcessLookupError):
            os.kill(self.pid, signal.SIGKILL)
        await self.client.aclose()


class _Nursery:
    """The process that processes are forked from: it has read everything that they need, so that one is there at once."""

    def __init__(self, running: asyncio.subprocess.Process) -> None:
        self._running = running

    @classmethod
    async def begin(cls, ends_with: int) -> "_Nursery":
        """Its processes end when the pipe that `ends_with` is the end of is closed at its other one."""
        running = await asyncio.create_subprocess_exec(
            sys.executable, "-m", "sign_shelf", "serve-processes", str(ends_with), pass_fds=(ends_with,),
            stdin=asyncio.subprocess.PIPE, stdout=asyncio.subprocess.PIPE, preexec_fn=_bounded,
        )  # fmt: skip
        return cls(running)

    @property
    def alive(self) -> bool:
        return self._running.returncode is None

    async def process(self, socket: Path) -> _Process:
        """A new one, once it listens. Raises Busy; then there is none to be had here any more."""
        assert self._running.stdin is not None
        assert self._running.stdout is not None
        try:
            async with asyncio.timeout(_STARTS_WITHIN_S):
                self._running.stdin.write(f"{socket}\n".encode())
                told = await self._running.stdout.readline()
        except (TimeoutError, OSError):
            told = b""
        if not told.strip().isdigit():
            # What it may still tell would be taken for the answer to the next asking.
            with contextlib.suppress(ProcessLookupError):
                self._running.kill()
            raise Busy("The server could not begin a process.")
        return _Process(int(told), socket)

    async def end(self) -> None:
        with contextlib.suppress(ProcessLookupError):
            self._running.kill()
        await self._running.wait()


def _bounded() -> None:
    """In the new process, and all that are forked from it: an end to its memory."""
    resource.setrlimit(resource.RLIMIT_AS, (ADDRESS_SPACE, ADDRESS_SPACE))


class Processes:
    """`how_many` of them. One asker has all but one at most, so that others are answered meanwhile."""

    def __init__(self, how_many: int, *, answer_within_s: float) -> None:
        self._how_many = how_many
        self._within_s = answer_within_s
        self._idle: list[_Process] = []
        self._all: set[_Process] = set()
        self._changed = asyncio.Condition()
        self._waiting: Counter[str] = Counter()
        self._working: Counter[str] = Counter()
        self._numbers = 0
        self._beginning: set[asyncio.Task[None]] = set()
        self._one_at_a_time = asyncio.Lock()
        self.folder = Path()
        self._nursery: _Nursery
        self._ends_with: int

    @contextlib.asynccontextmanager
    async def running(self) -> AsyncIterator[None]:
        self.folder = Path(tempfile.mkdtemp(prefix="sign-shelf-"))
        # Nobody writes to it: it is closed when we are gone, however we went.
        self._ends_with, held = os.pipe()
        self._nursery = await _Nursery.begin(self._ends_with)
        try:
            for _ in range(self._how_many):
                await self._begin()
            yield
        finally:
            for task in self._beginning:
                task.cancel()
            for one in list(self._all):
                await one.end()
            await self._nursery.end()
            os.close(held)
            os.close(self._ends_with)
            shutil.rmtree(self.folder, ignore_errors=True)

    @property
    def state(self) -> dict[str, int]:
        return {"running": len(self._all), "idle": len(self._idle), "waiting": self._waiting.total()}

    async def _begin(self) -> None:
        async with self._one_at_a_time:
            if not self._nursery.alive:
                await self._nursery.end()
                self._nursery = await _Nursery.begin(self._ends_with)
            self._numbers += 1
            one = await self._nursery.process(self.folder / str(self._numbers))
        self._all.add(one)
        await self._free(one)

    async def _begin_again(self) -> None:
        pause = 0.5
        while True:
            try:
                await self._begin()
            except (Busy, OSError) as exc:
                log.error("no_process_begun", says=str(exc))
                await asyncio.sleep(pause)
                pause = min(pause * 2, 10)
            else:
                return

    def _fits(self, one: _Process) -> bool:
        """Whether it is to go on: it is there, and has not grown by more than its share where all have grown too much."""
        if one.size() == 0:
            return False
        together = sum(other.grown for other in self._all)
        return together < GROWN_BYTES or one.grown < GROWN_BYTES / self._how_many

    async def _free(self, one: _Process) -> None:
        async with self._changed:
            self._idle.append(one)
            self._changed.notify_all()

    async def _replace(self, one: _Process) -> None:
        self._all.discard(one)
        await one.end()
        task = asyncio.create_task(self._begin_again())
        self._beginning.add(task)
        task.add_done_callback(self._beginning.discard)

    async def _taken(self, asker: str) -> _Process:
        """A process that is idle, in turn. Raises Busy."""
        if self._waiting.total() >= MOST_WAITING or self._waiting[asker] >= MOST_OF_ONE:
            raise Busy("Too much is asked for at the moment.")
        self._waiting[asker] += 1
        try:
            async with asyncio.timeout(WAIT_S):
                while True:
                    async with self._changed:
                        await self._changed.wait_for(
                            lambda: self._idle and self._working[asker] < max(1, self._how_many - 1)
                        )
                        one = self._idle.pop()
                        if one.size():
                            self._working[asker] += 1
                            return one
                    # It died while it had nothing to do.
                    await self._replace(one)
        except TimeoutError as exc:
            raise Busy("The server has too much to do at the moment.") from exc
        finally:
            self._waiting[asker] -= 1

    async def answer(self, scope: Scope, body: bytes, receive: Receive, asker: str) -> Answer | None:
        """What a process answers; None where the asker went away first. Raises Busy."""
        gone = asyncio.create_task(_gone(receive))
        try:
            one = await self._taken(asker)
            fit = False
            try:
                if gone.done() and scope["method"] in _STOPS:
                    fit = True
                    return None
                answer = await self._work(one, scope, body, gone)
                fit = self._fits(one)
                return answer
            except Ended as ended:
                if ended.why is not None:
                    raise ended.why from None
                return None
            finally:
                async with self._changed:
                    self._working[asker] -= 1
                    self._changed.notify_all()
                await (self._free(one) if fit else self._replace(one))
        finally:
            gone.cancel()

    async def _work(self, one: _Process, scope: Scope, body: bytes, gone: "asyncio.Task[None]") -> Answer:
        asked = asyncio.create_task(_ask(one.client, scope, body))
        # What is being kept is kept, though nobody waits for the answer.
        stops = {gone} if scope["method"] in _STOPS else set()
        try:
            await asyncio.wait({asked, *stops}, timeout=self._within_s, return_when=asyncio.FIRST_COMPLETED)
            if not asked.done() and gone.done() and stops:
                await asyncio.wait({asked}, timeout=_GRACE_S)
                if not asked.done():
                    raise Ended(None)
            if not asked.done():
                log.warning("answer_took_too_long", path=scope["path"], seconds=self._within_s)
                raise Ended(
                    Busy(
                        f"Working it out took more than {self._within_s:.0f} seconds and was given up.",
                        remedy="Ask for less at once: a smaller menu, fewer days, one language.", again_in_s=30,
                    )
                )  # fmt: skip
            return asked.result()
        except httpx.HTTPError as exc:
            log.error("process_died", path=scope["path"], says=str(exc))
            raise Ended(Busy("The server gave up in the middle of this request: it needed too much.")) from exc
        finally:
            asked.cancel()


async def _gone(receive: Receive) -> None:
    while (await receive())["type"] != "http.disconnect":
        pass


async def _ask(client: httpx.AsyncClient, scope: Scope, body: bytes) -> Answer:
    url = httpx.URL("http://shelf").copy_with(
        raw_path=scope["raw_path"] + (b"?" + scope["query_string"] if scope["query_string"] else b"")
    )
    headers = [(name, value) for name, value in scope["headers"] if name not in _ONE_HOP]
    if body:
        headers.append((b"content-length", str(len(body)).encode()))
    request = client.build_request(scope["method"], url, headers=headers, content=_pieces(body) if body else None)
    answer = await client.send(request, stream=True)
    try:
        pieces = [piece async for piece in answer.aiter_raw()]
    finally:
        await answer.aclose()
    kept = [(name.lower(), value) for name, value in answer.headers.raw if name.lower() not in _ONE_HOP]
    length = (b"content-length", str(sum(map(len, pieces))).encode())
    return Answer(answer.status_code, [*kept, length], pieces)


async def _pieces(body: bytes) -> AsyncIterator[bytes]:
    """So that what is large is passed on in turns with everything else."""
    for begin in range(0, len(body), _PIECE):
        yield body[begin : begin + _PIECE]


class Apart:
    """Hands requests to the processes, but for those that are quick for certain and those that last."""

    def __init__(self, app: ASGIApp, processes: Processes) -> None:
        self.app = app
        self.processes = processes

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or not scope["path"].startswith(_THERE) or scope["path"].startswith(_HERE):
            await self.app(scope, receive, send)
            return
        body = (await receive()).get("body", b"")
        person = scope.get("state", {}).get("person")
        try:
            answer = await self.processes.answer(scope, body, receive, str(person.id) if person else "")
        except Busy as busy:
            await refusal_response(busy)(scope, receive, send)
            return
        if answer is not None:
            await send({"type": "http.response.start", "status": answer.status, "headers": answer.headers})
            for piece in answer.body:
                await send({"type": "http.response.body", "body": piece, "more_body": True})
                await asyncio.sleep(0)
            await send({"type": "http.response.body", "body": b""})


_THERE = ("/api/", "/sign-off/")
_HERE = ("/api/there", "/api/session", "/api/people", "/api/health", "/api/schemas", "/api/ledger/export")

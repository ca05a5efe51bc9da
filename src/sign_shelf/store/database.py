"""The engine and its sessions."""

import asyncio
from collections.abc import AsyncIterator, Iterator
from contextlib import asynccontextmanager, contextmanager, suppress
from typing import Self

import psycopg
from sqlalchemy import text
from sqlalchemy.exc import DataError, DBAPIError, IntegrityError, InterfaceError, OperationalError
from sqlalchemy.exc import TimeoutError as NoConnection
from sqlalchemy.ext.asyncio import AsyncEngine, create_async_engine
from sqlmodel.ext.asyncio.session import AsyncSession

from sign_shelf.core.errors import Busy, Clash, Refusal
from sign_shelf.settings import Settings
from sign_shelf.store.seals import Seals
from sign_shelf.store.tables import TAKEN

Session = AsyncSession
RUNS = "sign-shelf"
"""What the connections of our servers and workers are called in PostgreSQL."""
DRIVER_ERROR = psycopg.Error
"""What the queue's own connection raises."""

_LAST_USE_S = 5.0


def driver_address(address: str) -> str:
    """The address with psycopg 3 named as its driver."""
    scheme, _, rest = address.partition("://")
    return f"postgresql+psycopg://{rest}" if scheme in {"postgresql", "postgres"} else address


class DatabaseAway(Busy):
    """PostgreSQL does not answer, or gave up what was under way; nothing of it was kept."""


@contextmanager
def _told() -> Iterator[None]:
    """What the driver raises, as refusals."""
    try:
        yield
    except DataError as exc:
        raise Refusal("A value in the request is larger than can be kept.", remedy="Send a smaller one.") from exc
    except IntegrityError as exc:
        says = TAKEN.get(getattr(getattr(exc.orig, "diag", None), "constraint_name", None) or "")
        if says is None:
            raise
        # Whoever was a moment earlier has it: it was looked for, and was not there yet.
        raise Clash(says, remedy="Choose another.") from exc
    except (OperationalError, InterfaceError, NoConnection) as exc:
        raise DatabaseAway("The database does not answer at the moment.") from exc
    except DBAPIError as exc:
        if exc.connection_invalidated:
            raise DatabaseAway("The database does not answer at the moment.") from exc
        raise


class Database:
    def __init__(self, address: str, seals: Seals, *, pool_size: int = 10) -> None:
        self.seals = seals
        self._users, self._unused = 0, asyncio.Event()
        self._unused.set()
        self.engine: AsyncEngine = create_async_engine(
            driver_address(address), pool_size=pool_size, max_overflow=5, pool_pre_ping=True, pool_timeout=10,
            hide_parameters=True,
            # Our queries are short: compiling one takes longer than any of them.
            connect_args={"connect_timeout": 5, "options": "-c jit=off", "application_name": RUNS},
        )  # fmt: skip

    @classmethod
    def configured(cls, settings: Settings, *, pool_size: int | None = None) -> Self:
        return cls(settings.database.get_secret_value(), Seals(settings.key), pool_size=pool_size or settings.pool_size)

    @classmethod
    def of_replica(cls, settings: Settings) -> Self | None:
        """Where there is one."""
        address = settings.replica.get_secret_value()
        return cls(address, Seals(settings.key), pool_size=settings.pool_size) if address else None

    @asynccontextmanager
    async def transaction(self) -> AsyncIterator[Session]:
        """A session whose work is committed at the end, or rolled back by any exception. Raises DatabaseAway."""
        with _told(), self._used():
            async with AsyncSession(self.engine, expire_on_commit=False) as session, session.begin():
                yield session

    @asynccontextmanager
    async def alone(self, name: str) -> AsyncIterator[bool]:
        """Whether nobody else, in any process on any machine, does what has this name; nobody begins while this lasts.

        The lock belongs to a connection: it ends with the process that holds it, however that ends. Raises
        DatabaseAway.
        """
        with _told(), self._used():
            async with self.engine.connect() as connection:
                await connection.execution_options(isolation_level="AUTOCOMMIT")
                held = bool(await connection.scalar(_LOCK, {"name": name}))
                try:
                    yield held
                finally:
                    if held:
                        await connection.execute(_UNLOCK, {"name": name})

    @contextmanager
    def _used(self) -> Iterator[None]:
        self._users += 1
        self._unused.clear()
        try:
            yield
        finally:
            self._users -= 1
            if not self._users:
                self._unused.set()

    async def __aenter__(self) -> Self:
        return self

    async def __aexit__(self, *_: object) -> None:
        await self.close()

    async def close(self) -> None:
        """Waits up to five seconds for transactions that still run: a closed pool never closes their connections."""
        with suppress(TimeoutError):
            await asyncio.wait_for(self._unused.wait(), _LAST_USE_S)
        await self.engine.dispose()


_LOCK = text("SELECT pg_try_advisory_lock(hashtextextended(:name, 0))")
_UNLOCK = text("SELECT pg_advisory_unlock(hashtextextended(:name, 0))")

"""The engine and its sessions."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from sqlalchemy.ext.asyncio import AsyncEngine, create_async_engine
from sqlmodel.ext.asyncio.session import AsyncSession

Session = AsyncSession


def driver_address(address: str) -> str:
    """The address with psycopg 3 named as its driver."""
    scheme, _, rest = address.partition("://")
    return f"postgresql+psycopg://{rest}" if scheme in {"postgresql", "postgres"} else address


class Database:
    def __init__(self, address: str, *, pool_size: int = 10) -> None:
        self.engine: AsyncEngine = create_async_engine(
            driver_address(address), pool_size=pool_size, max_overflow=5, pool_pre_ping=True
        )

    @asynccontextmanager
    async def transaction(self) -> AsyncIterator[Session]:
        """A session whose work is committed at the end, or rolled back by any exception."""
        async with AsyncSession(self.engine, expire_on_commit=False) as session, session.begin():
            yield session

    async def close(self) -> None:
        await self.engine.dispose()

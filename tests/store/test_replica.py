"""Delivery reads from a streaming replica, and never what was live before it was told of something else."""

import asyncio
from collections.abc import Iterator

import httpx
import pytest
from pydantic import SecretStr

from sign_shelf.api.app import create_app
from sign_shelf.api.delivery import Delivery
from sign_shelf.core.outline import parse_outline
from sign_shelf.demo import cluster as clusters
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk.permission import Person
from sign_shelf.settings import Settings
from sign_shelf.store.database import Database
from tests.accounts import site_key
from tests.constants import KEY, SEALS
from tests.databases import cluster_folder
from tests.live_sites import make_live


@pytest.fixture
def replica(cluster: clusters.Cluster) -> Iterator[clusters.Cluster]:
    folder = cluster_folder("replica")
    running = clusters.follow(cluster, folder)
    yield running
    running.stop()


async def until(true: object) -> None:
    for _ in range(2_000):
        if true():  # type: ignore[operator]
            return
        await asyncio.sleep(0.01)
    raise AssertionError("it never came to be")


async def test_what_is_delivered_from_a_replica_is_never_behind_what_was_told(
    configured: Settings, database: Database, replica: clusters.Cluster, cluster: clusters.Cluster, brackwater: StandIn, ines: Person
) -> None:  # fmt: skip
    name = configured.database.get_secret_value().rpartition("/")[2]
    app = create_app(
        Settings(
            database=configured.database, key=KEY, private_hosts="127.0.0.1", replica=SecretStr(replica.address(name))
        )
    )
    delivery: Delivery = next(one for one in app.user_middleware if "delivery" in one.kwargs).kwargs["delivery"]  # type: ignore[assignment]
    shown = {"authorization": f"Bearer {await site_key(database, ines, 'brackwater', 'delivery')}"}
    from_replica = Database(replica.address(name), SEALS)
    async with delivery.watching(database, from_replica):
        assert delivery.replica is not None
        await until(lambda: delivery.replica is not None and delivery.replica.caught_up)
        transport = httpx.ASGITransport(app=app)
        async with httpx.AsyncClient(transport=transport, base_url="http://shelf.example") as client:

            async def labels() -> list[str]:
                answer = await client.get("/live/brackwater/header", headers=shown)
                assert answer.status_code == 200, answer.text
                return [one["label"] for one in answer.json()["items"]]

            # It replays nothing while we hold it: what is told then is read from the database itself.
            async with from_replica.transaction() as session:
                connection = await session.connection()
                await connection.exec_driver_sql("SELECT pg_wal_replay_pause()")
            for number in range(3):
                told = delivery._told
                await make_live(database, "brackwater", {"header": parse_outline(f"Number {number} -> /n")})
                await until(lambda told=told: delivery._told > told)
                assert await labels() == [f"Number {number}"]
                assert not delivery.replica.caught_up
            async with from_replica.transaction() as session:
                connection = await session.connection()
                await connection.exec_driver_sql("SELECT pg_wal_replay_resume()")
            await until(lambda: delivery.replica is not None and delivery.replica.caught_up)
            # From now on it is read: the database itself is not asked for what is delivered.
            delivery._forget()
            delivery._live.clear()
            before, database.engine = database.engine, None  # type: ignore[assignment]
            try:
                assert await labels() == ["Number 2"]
            finally:
                database.engine = before
            # And without it, the database itself is.
            replica.process.kill()
            replica.process.wait()
            delivery._forget()
            delivery._live.clear()
            assert await labels() == ["Number 2"]
            assert not delivery.replica.caught_up

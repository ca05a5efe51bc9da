"""Bringing a database to the newest schema with Alembic, while servers and workers of the version before run where that can be."""

import time
from dataclasses import dataclass
from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from psycopg.errors import DeadlockDetected, LockNotAvailable
from sqlalchemy import create_engine, text
from sqlalchemy.exc import OperationalError

from sign_shelf.store.database import RUNS, driver_address
from sign_shelf.store.seals import Seals

MIGRATIONS = Path(__file__).parent / "migrations"
_TRIES, _PAUSE_S = 40, 0.5


def alembic_config(address: str, seals: Seals) -> Config:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.set_main_option("path_separator", "os")
    config.attributes["address"] = driver_address(address)
    config.attributes["seals"] = seals
    return config


@dataclass(frozen=True)
class Step:
    """A migration that is still to be made. `beside`: servers and workers of the version before may run while it is made, and go on."""

    revision: str
    says: str
    beside: bool


@dataclass(frozen=True)
class Ahead:
    """What would be done to a database. `now`: the schema that it has; None: none. `filled`: there are sites in it. `running`: how many
    connections of servers and workers it has at the moment."""

    now: str | None
    steps: tuple[Step, ...]
    filled: bool
    running: int

    @property
    def in_the_way(self) -> tuple[Step, ...]:
        """What those that run would not go on with."""
        return tuple(step for step in self.steps if not step.beside) if self.running else ()


def ahead(address: str) -> Ahead:
    scripts = ScriptDirectory(str(MIGRATIONS))
    engine = create_engine(driver_address(address))
    try:
        with engine.connect() as connection:
            now = MigrationContext.configure(connection).get_current_revision()
            filled = now is not None and bool(connection.scalar(text("SELECT EXISTS (SELECT 1 FROM site)")))
            running = connection.scalar(_RUNNING, {"runs": RUNS}) or 0
    finally:
        engine.dispose()
    todo = scripts.iterate_revisions("head", now or "base")
    steps = [
        Step(one.revision, (one.doc or "").partition("\n")[0], getattr(one.module, "beside", False))
        for one in todo
        if one is not None and one.revision != now
    ]
    return Ahead(now=now, steps=tuple(reversed(steps)), filled=filled, running=running)


_RUNNING = text("SELECT count(*) FROM pg_stat_activity WHERE datname = current_database() AND application_name = :runs")


def migrate(address: str, seals: Seals) -> None:
    """`seals` seals what an older schema kept open."""
    upgrade(alembic_config(address, seals))


def upgrade(config: Config) -> None:
    """A table that somebody holds is waited for again and again, each time for a moment: whoever wants it next waits behind us, and
    where they and we wait for each other PostgreSQL ends one of us, after a second."""
    for tries in range(_TRIES):
        try:
            command.upgrade(config, "head")
            return
        except OperationalError as exc:
            if not isinstance(exc.orig, LockNotAvailable | DeadlockDetected) or tries == _TRIES - 1:
                raise
            time.sleep(_PAUSE_S)

"""Bringing a database to the newest schema with Alembic."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import create_engine, text

from sign_shelf.store.database import driver_address
from sign_shelf.store.seals import Seals

MIGRATIONS = Path(__file__).parent / "migrations"


def alembic_config(address: str, seals: Seals) -> Config:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.set_main_option("path_separator", "os")
    config.attributes["address"] = driver_address(address)
    config.attributes["seals"] = seals
    return config


def older_with_data(address: str) -> str | None:
    """The schema that the database has, where it is an older one and there are sites in it."""
    engine = create_engine(driver_address(address))
    try:
        with engine.connect() as connection:
            now = MigrationContext.configure(connection).get_current_revision()
            if now is None or now == ScriptDirectory(str(MIGRATIONS)).get_current_head():
                return None
            return now if connection.execute(text("SELECT EXISTS (SELECT 1 FROM site)")).scalar() else None
    finally:
        engine.dispose()


def migrate(address: str, seals: Seals) -> None:
    """`seals` seals what an older schema kept open."""
    command.upgrade(alembic_config(address, seals), "head")

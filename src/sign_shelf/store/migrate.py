"""Bringing a database to the newest schema with Alembic."""

from pathlib import Path

from alembic import command
from alembic.config import Config

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


def migrate(address: str, seals: Seals) -> None:
    """`seals` seals what an older schema kept open."""
    command.upgrade(alembic_config(address, seals), "head")

"""Bringing a database to the newest schema with Alembic."""

from pathlib import Path

from alembic import command
from alembic.config import Config

from sign_shelf.store.database import driver_address

MIGRATIONS = Path(__file__).parent / "migrations"


def alembic_config(address: str) -> Config:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.set_main_option("path_separator", "os")
    config.attributes["address"] = driver_address(address)
    return config


def migrate(address: str) -> None:
    command.upgrade(alembic_config(address), "head")

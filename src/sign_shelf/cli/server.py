"""Commands that run or prepare the server."""

import asyncio
import getpass
import logging
from datetime import UTC, datetime
from typing import Annotated

import structlog
import typer
import uvicorn

from sign_shelf.api.app import create_app
from sign_shelf.desk.sign_in import add_person
from sign_shelf.jobs.worker import run_worker
from sign_shelf.settings import Settings
from sign_shelf.store.database import Database
from sign_shelf.store.migrate import migrate

person = typer.Typer(no_args_is_help=True, help="Accounts.")


def configure_logs() -> None:
    structlog.configure(
        processors=[
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            structlog.processors.format_exc_info,
            structlog.processors.LogfmtRenderer(),
        ],
        logger_factory=structlog.PrintLoggerFactory(),
    )
    logging.basicConfig(level=logging.WARNING)


def serve(host: Annotated[str, typer.Option()] = "127.0.0.1", port: Annotated[int, typer.Option()] = 8400) -> None:
    """The web server. Any number of them may run against one database."""
    configure_logs()
    uvicorn.run(create_app(Settings()), host=host, port=port, log_level="warning", timeout_graceful_shutdown=5)


def worker() -> None:
    """The background worker. Any number of them may run against one database."""
    configure_logs()
    asyncio.run(run_worker(Settings()))


def migrate_() -> None:
    """Brings the database to the newest schema."""
    migrate(Settings().database.get_secret_value())


migrate_.__name__ = "migrate"


@person.command("add")
def add(email: str, name: str, role: Annotated[str, typer.Option()] = "editor") -> None:
    """A new account; the password is asked for."""

    async def run(password: str) -> None:
        database = Database(Settings().database.get_secret_value())
        await add_person(database, email=email, name=name, password=password, role=role, now=datetime.now(UTC))
        await database.close()

    asyncio.run(run(getpass.getpass("Password, at least 10 characters: ")))

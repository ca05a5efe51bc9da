"""Commands that run or prepare the server. What they run is imported when they do."""

import asyncio
import getpass
import logging
from datetime import UTC, datetime
from typing import Annotated

import structlog
import typer

from sign_shelf.settings import Settings

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
    import uvicorn

    from sign_shelf.api.app import create_app

    configure_logs()
    uvicorn.run(create_app(Settings()), host=host, port=port, log_level="warning", timeout_graceful_shutdown=5)


def worker() -> None:
    """The background worker. Any number of them may run against one database."""
    from sign_shelf.jobs.worker import run_worker

    configure_logs()
    asyncio.run(run_worker(Settings()))


def migrate_() -> None:
    """Brings the database to the newest schema."""
    from sign_shelf.store.migrate import migrate

    migrate(Settings().database.get_secret_value())


migrate_.__name__ = "migrate"


@person.command("add")
def add(email: str, name: str, role: Annotated[str, typer.Option()] = "editor") -> None:
    """A new account; the password is asked for."""

    from sign_shelf.desk.sign_in import add_person
    from sign_shelf.store.database import Database

    async def run(password: str) -> None:
        database = Database(Settings().database.get_secret_value())
        await add_person(database, email=email, name=name, password=password, role=role, now=datetime.now(UTC))
        await database.close()

    asyncio.run(run(getpass.getpass("Password, at least 10 characters: ")))

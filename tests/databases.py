"""PostgreSQL for tests: a cluster for each test process, copied from one that is made once for each schema; databases that are copied
from one with the newest schema instead of being migrated."""

import fcntl
import hashlib
import os
import shutil
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import psycopg

from sign_shelf import store
from sign_shelf.demo import cluster as clusters
from tests.constants import SEALS

LOCAL = Path.cwd() / ".local"
MIGRATED = "migrated"
"""The database with the newest schema and nothing in it. Nobody connects to it: it is only copied."""


def cluster_folder(name: str) -> Path:
    """A folder for a cluster of this process's own: other runs of tests in the same checkout have theirs. What runs that were killed
    left is removed."""
    folder, _ = clusters.cluster_folder(LOCAL / f"test-pg-{name}-{os.getpid()}")
    for left in folder.parent.glob("test-pg-*-*"):
        if not Path(f"/proc/{left.name.rpartition('-')[2]}").exists():
            shutil.rmtree(left, ignore_errors=True)
    return folder


@contextmanager
def test_cluster() -> Iterator[clusters.Cluster]:
    """A running cluster of one's own that has the database `migrated`; it is gone at the end."""
    folder = cluster_folder("all")
    copy_cluster(folder)
    running = clusters.start(folder, for_tests=True)
    try:
        yield running
    finally:
        running.stop()
        shutil.rmtree(folder, ignore_errors=True)


def copy_cluster(folder: Path) -> None:
    """Puts a stopped cluster that has the database `migrated` into the folder, in place of what was there."""
    shutil.rmtree(folder, ignore_errors=True)
    subprocess.run(["cp", "-a", "--reflink=auto", _prepared(), folder], check=True)


def _prepared() -> Path:
    """A stopped cluster with the newest schema. Whoever needs it first makes it, for all test processes and later runs."""
    folder, _ = clusters.cluster_folder(LOCAL / f"test-schema-{_schema()}")
    with (folder.parent / f".{folder.name}.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not (folder / "PG_VERSION").exists():
            draft = folder.with_name(f"{folder.name}.draft")
            shutil.rmtree(draft, ignore_errors=True)
            running = clusters.start(draft, for_tests=True)
            _migrated(running, MIGRATED)
            running.stop()
            draft.rename(folder)
    return folder


def _schema() -> str:
    """Changes with whatever the schema is made by."""
    of_store = Path(*store.__path__)
    made_by = [*of_store.glob("migrations/**/*.py"), of_store / "seals.py", Path(clusters.__file__), Path(__file__)]
    return hashlib.sha256(b"".join(file.read_bytes() for file in sorted(made_by))).hexdigest()[:12]


def _migrated(running: clusters.Cluster, name: str) -> None:
    from sign_shelf.store.migrate import migrate

    migrate(bare_database(running, name), SEALS)


def make_database(running: clusters.Cluster, name: str) -> str:
    """The address of a new database with the newest schema; migrated where the cluster has none to copy."""
    with psycopg.connect(running.address("postgres"), autocommit=True) as connection:
        known = connection.execute("SELECT 1 FROM pg_database WHERE datname = %s", [MIGRATED]).fetchone()
    if known:
        return copy_database(running, MIGRATED, name)
    _migrated(running, name)
    return running.address(name)


def bare_database(running: clusters.Cluster, name: str) -> str:
    """The address of a new database without any table."""
    with psycopg.connect(running.address("postgres"), autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name}")
    return running.address(name)


def copy_database(running: clusters.Cluster, of: str, name: str) -> str:
    """The address of a new database with all that is in another, to which nobody is connected."""
    with psycopg.connect(running.address("postgres"), autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name} TEMPLATE {of} STRATEGY {_STRATEGY}")
    return running.address(name)


def drop_database(running: clusters.Cluster, name: str) -> None:
    with psycopg.connect(running.address("postgres"), autocommit=True) as connection:
        connection.execute(f"DROP DATABASE {name} WITH (FORCE)")


_STRATEGY = "wal_log"


def empty_database(address: str) -> None:
    """Nothing is left in it but its schema."""
    with psycopg.connect(address, autocommit=True) as connection:
        connection.execute(_EMPTIED)


_EMPTIED = """
DO $$ DECLARE one record; BEGIN
  PERFORM set_config('session_replication_role', 'replica', true);
  FOR one IN SELECT tablename FROM pg_tables WHERE schemaname = 'public' AND tablename <> 'alembic_version' LOOP
    EXECUTE format('DELETE FROM %I', one.tablename);
  END LOOP;
  FOR one IN SELECT sequencename, start_value FROM pg_sequences WHERE schemaname = 'public' LOOP
    PERFORM setval(quote_ident(one.sequencename), one.start_value, false);
  END LOOP;
END $$
"""
"""Without references and triggers. Truncating makes files anew for every table and index: a quarter of a second each time."""

"""Backup, wipe, restore: what is exported afterwards is the same, byte for byte, and the ledger still holds."""

import asyncio
import os
from pathlib import Path

import httpx
import psycopg
import pytest

from sign_shelf.demo.stand_ins.server import StandIn
from tests import command_line
from tests.api.test_changes import begin, relabelled
from tests.command_line import Done, at


async def run(address: str, *words: str) -> Done:
    return await asyncio.to_thread(command_line.run, *words, env=at(address))


async def test_a_backup_put_back_exports_the_same_byte_for_byte(
    address: str, as_ines: httpx.AsyncClient, brackwater: StandIn, tmp_path: Path
) -> None:
    change = await begin(as_ines, "Kept as well")
    await relabelled(as_ines, change, "Sail early")
    kept = tmp_path / "kept" / "shelf.dump"
    before = (await run(address, "export", "brackwater")).out
    told = await run(address, "ledger", "verify")
    assert before.startswith("{")
    assert told.returncode == 0, told.err
    done = await run(address, "backup", str(kept))
    assert done.returncode == 0, done.err
    assert "SIGN_SHELF_KEY" in done.out

    name = f"restored_{os.getpid()}"
    with psycopg.connect(address, autocommit=True) as making:
        making.execute(f"DROP DATABASE IF EXISTS {name}")
        making.execute(f"CREATE DATABASE {name}")
    other = f"{address.rpartition('/')[0]}/{name}"
    try:
        assert (await run(other, "export", "brackwater")).returncode != 0
        assert (await run(other, "restore", str(kept))).returncode == 0
        assert (await run(other, "export", "brackwater")).out == before
        assert (await run(other, "ledger", "verify")).out == told.out
        # What is there is not taken away unless that is said, and stays where the backup is none.
        refused = await run(other, "restore", str(kept))
        assert (refused.returncode, "--over" in refused.err) == (2, True)
        broken = tmp_path / "broken.dump"
        broken.write_bytes(kept.read_bytes()[:-2_000])
        failed = await run(other, "restore", "--over", str(broken))
        assert (failed.returncode, len(failed.err.splitlines())) == (2, 1), failed.err
        assert (await run(other, "export", "brackwater")).out == before
        assert (await run(other, "restore", "--over", str(kept))).returncode == 0
        assert (await run(other, "export", "brackwater")).out == before
    finally:
        with psycopg.connect(address, autocommit=True) as making:
            making.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")


@pytest.mark.parametrize("words", [("restore", "nowhere.dump"), ("backup", "/proc/nowhere/shelf.dump")])
async def test_what_cannot_be_kept_is_told_in_a_line(address: str, words: tuple[str, ...]) -> None:
    done = await run(address, *words)
    assert done.returncode == 2, done.err
    assert len(done.err.splitlines()) == 1

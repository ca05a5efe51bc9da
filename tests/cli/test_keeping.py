"""Backup, wipe, restore: what is exported afterwards is the same, byte for byte, and the ledger still holds."""

import os
import subprocess
import sys
from pathlib import Path

import httpx
import psycopg
import pytest

from sign_shelf.demo.stand_ins.server import StandIn
from tests.api.test_changes import begin, relabelled
from tests.running import environment


def run(address: str, *words: str) -> subprocess.CompletedProcess[str]:
    line = [sys.executable, "-m", "sign_shelf", *words]
    return subprocess.run(line, env=os.environ | environment(address), capture_output=True, text=True, check=False)


async def test_a_backup_put_back_exports_the_same_byte_for_byte(
    address: str, as_ines: httpx.AsyncClient, brackwater: StandIn, tmp_path: Path
) -> None:
    change = await begin(as_ines, "Kept as well")
    await relabelled(as_ines, change, "Sail early")
    kept = tmp_path / "kept" / "shelf.dump"
    before = run(address, "export", "brackwater").stdout
    told = run(address, "ledger", "verify")
    assert before.startswith("{")
    assert told.returncode == 0, told.stderr
    done = run(address, "backup", str(kept))
    assert done.returncode == 0, done.stderr
    assert "SIGN_SHELF_KEY" in done.stdout

    name = f"restored_{os.getpid()}"
    with psycopg.connect(address, autocommit=True) as making:
        making.execute(f"DROP DATABASE IF EXISTS {name}")
        making.execute(f"CREATE DATABASE {name}")
    other = f"{address.rpartition('/')[0]}/{name}"
    try:
        assert run(other, "export", "brackwater").returncode != 0
        assert run(other, "restore", str(kept)).returncode == 0
        assert run(other, "export", "brackwater").stdout == before
        assert run(other, "ledger", "verify").stdout == told.stdout
        # What is there is not taken away unless that is said, and stays where the backup is none.
        refused = run(other, "restore", str(kept))
        assert (refused.returncode, "--over" in refused.stderr) == (2, True)
        broken = tmp_path / "broken.dump"
        broken.write_bytes(kept.read_bytes()[:-2_000])
        failed = run(other, "restore", "--over", str(broken))
        assert (failed.returncode, len(failed.stderr.splitlines())) == (2, 1), failed.stderr
        assert run(other, "export", "brackwater").stdout == before
        assert run(other, "restore", "--over", str(kept)).returncode == 0
        assert run(other, "export", "brackwater").stdout == before
    finally:
        with psycopg.connect(address, autocommit=True) as making:
            making.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")


@pytest.mark.parametrize("words", [("restore", "nowhere.dump"), ("backup", "/proc/nowhere/shelf.dump")])
def test_what_cannot_be_kept_is_told_in_a_line(address: str, words: tuple[str, ...]) -> None:
    done = run(address, *words)
    assert done.returncode == 2, done.stderr
    assert len(done.stderr.splitlines()) == 1

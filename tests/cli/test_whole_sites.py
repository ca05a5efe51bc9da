"""Sites as files: generated, put on the shelf, taken out byte for byte; and a shelf of many asks no more than one of few."""

import asyncio
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import httpx
from sqlalchemy import event

from sign_shelf.demo.portfolio import portfolio
from sign_shelf.desk.whole_sites import put_on_shelf
from sign_shelf.store.database import Database
from tests.command_line import at, run


def test_generated_sites_come_out_as_they_were_put_in(address: str, tmp_path: Path) -> None:
    for folder in ("one", "two"):
        made = run("portfolio", "--sites", "3", "--seed", "1", "--to", str(tmp_path / folder))
        assert made.returncode == 0
    files = sorted((tmp_path / "one").iterdir())
    assert [file.read_bytes() for file in files] == [file.read_bytes() for file in sorted((tmp_path / "two").iterdir())]
    other = run("portfolio", "--sites", "3", "--seed", "2", "--to", str(tmp_path / "three"))
    assert other.returncode == 0
    assert {file.read_bytes() for file in (tmp_path / "three").iterdir()}.isdisjoint(
        {file.read_bytes() for file in files}
    )
    (tmp_path / "one" / "broken.json").write_text("{}")
    done = run("import", str(tmp_path / "one"), env=at(address))
    assert (done.returncode, b"3 of 4 sites" in done.stdout, b"broken.json" in done.stderr) == (1, True, True)
    for file in files:
        assert run("export", file.stem, env=at(address)).stdout == file.read_bytes()
    again = run("import", str(files[0]), env=at(address))
    assert (again.returncode, b"has this key or address already" in again.stderr) == (1, True)
    assert run("export", "nowhere", env=at(address)).returncode == 2


async def test_a_shelf_of_forty_sites_is_read_with_as_many_statements_as_one_of_four(
    as_ines: httpx.AsyncClient, database: Database
) -> None:
    statements: list[str] = []

    def told(*given: Any) -> None:
        statements.append(given[2])

    async def shelf(sites: int) -> tuple[int, int]:
        """For the lines, and for signs of which nothing is known yet, nor of their pages."""
        statements.clear()
        answer = await as_ines.get("/api/shelf")
        assert len(answer.json()) == sites
        lines = len(statements)
        boards = [line["key"] for line in answer.json()][:30]
        statements.clear()
        signs = await as_ines.get("/api/shelf/signs", params={"site": boards})
        assert [len(board["signs"]) for board in signs.json()] == [6] * len(boards)
        assert not any("page.position" in one and "tree_item" not in one for one in statements)
        return lines, len(statements)

    assert (await as_ines.get("/api/shelf")).json() == []
    documents = await asyncio.to_thread(lambda: list(portfolio(40, 1)))
    for document in documents[:4]:
        await put_on_shelf(database, document, datetime.now(UTC))
    event.listen(database.engine.sync_engine, "before_cursor_execute", told)
    few = await shelf(4)
    event.remove(database.engine.sync_engine, "before_cursor_execute", told)
    for document in documents[4:]:
        await put_on_shelf(database, document, datetime.now(UTC))
    event.listen(database.engine.sync_engine, "before_cursor_execute", told)
    many = await shelf(40)
    assert (many[0] <= few[0], many[1] <= few[1]) == (True, True), (many, few)

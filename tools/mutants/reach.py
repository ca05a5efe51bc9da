"""A plugin for pytest that writes down which functions of ours each test calls, and how long the test takes.

`pytest -p tools.mutants.reach` with REACH=FOLDER writes one file for each test process. Functions that run in other threads or
processes are not seen.
"""

import cProfile
import json
import os
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

SOURCE = str(Path("src").resolve()) + os.sep
_called: dict[str, tuple[float, list[str]]] = {}


@pytest.hookimpl(wrapper=True)
def pytest_runtest_protocol(item: pytest.Item) -> Iterator[None]:
    profile, began = cProfile.Profile(), time.perf_counter()
    profile.enable()
    try:
        return (yield)
    finally:
        profile.disable()
        took = time.perf_counter() - began
        profile.create_stats()
        called = {
            f"{file[len(SOURCE) :]}:{line}"
            for file, line, _ in profile.stats  # type: ignore[attr-defined]
            if file.startswith(SOURCE)
        }
        _called[item.nodeid] = (round(took, 3), sorted(called))


def pytest_sessionfinish() -> None:
    if _called:
        folder = Path(os.environ["REACH"])
        folder.mkdir(parents=True, exist_ok=True)
        name = os.environ.get("PYTEST_XDIST_WORKER", "alone")
        (folder / f"{name}.json").write_text(json.dumps(_called))

"""`python -m tools.mutants [--seed N] [--many N] [--only K]`: see the package."""

import argparse
import hashlib
import json
import os
import shutil
import subprocess
import sys
import time
from collections import defaultdict
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from random import Random
from threading import Lock

from tools.mutants.outline_faults import outline_faults
from tools.mutants.python_faults import Fault, python_faults

ROOT = Path.cwd()
WORK = ROOT / ".local" / "mutants"
AREAS = {"core": 16, "desk": 10, "store": 5, "api": 4, "outline": 5}
"""How many of 40 faults there are in each."""
LONGEST_S = 60.0
AT_ONCE = 2


@dataclass(frozen=True)
class Tried:
    fault: Fault
    caught_by: str | None
    """A test, or None where the fault was missed."""
    seconds: float
    reached: int
    """How many tests call the changed function."""


def candidates(area: str) -> list[Fault]:
    if area == "outline":
        folder = ROOT / "frontend" / "src" / "outline"
        files = [(file, file.read_text("utf-8")) for file in sorted(folder.glob("*.ts"))]
        return [fault for file, text in files for fault in outline_faults(str(file.relative_to(ROOT)), text)]
    folder = ROOT / "src" / "sign_shelf" / area
    files = [(file, file.read_text("utf-8")) for file in sorted(folder.rglob("*.py")) if "migrations" not in file.parts]
    return [fault for file, text in files for fault in python_faults(str(file.relative_to(ROOT)), text)]


def planned(seed: int, many: int) -> list[Fault]:
    """As many as wanted, of all areas and of as many kinds as there are."""
    random = Random(seed)
    found: list[Fault] = []
    for area, share in AREAS.items():
        kinds = defaultdict(list)
        for fault in candidates(area):
            kinds[fault.kind].append(fault)
        turns = sorted(kinds)
        random.shuffle(turns)
        for at in range(max(1, round(share * many / 40))):
            of_kind = kinds[turns[at % len(turns)]]
            found.append(of_kind.pop(random.randrange(len(of_kind))))
            if not of_kind:
                turns = [kind for kind in turns if kinds[kind]]
    return found[:many]


def reach() -> dict[str, list[tuple[float, str]]]:
    """The tests that call each function, by its file and line, the quickest first; found by running all of them once for these
    sources and tests."""
    files = [file for folder in ("src", "tests") for file in sorted(Path(folder).rglob("*.py"))]
    mark = hashlib.sha256(b"".join(file.read_bytes() for file in files)).hexdigest()[:12]
    folder = ROOT / ".local" / f"reach-{mark}"
    if not list(folder.glob("*.json")):
        parts = [str(one) for one in sorted(Path("tests").iterdir()) if one.is_dir() and one.name not in _APART]
        line = [
            sys.executable,
            *[
                "-m",
                "pytest",
                "-q",
                "-n",
                "3",
                "--dist",
                "worksteal",
                "-p",
                "no:cacheprovider",
                "-p",
                "tools.mutants.reach",
            ],
            *parts,
        ]
        subprocess.run(line, env=os.environ | {"REACH": str(folder), "PYTHONPATH": str(ROOT)}, check=False)
    by_function = defaultdict(list)
    for file in folder.glob("*.json"):
        for test, (seconds, functions) in json.loads(file.read_text()).items():
            for function in functions:
                by_function[f"src/{function}"].append((seconds, test))
    return {function: sorted(tests) for function, tests in by_function.items()}


_APART = {"browser", "attack", "__pycache__"}


def sandbox(number: int) -> Path:
    """A checkout whose sources are its own and whose rest is ours."""
    folder = WORK / str(number)
    shutil.rmtree(folder, ignore_errors=True)
    (folder / "frontend").mkdir(parents=True)
    shutil.copytree(ROOT / "src", folder / "src")
    shutil.copytree(ROOT / "frontend" / "src", folder / "frontend" / "src")
    # Copied as well: pytest names tests by where they really are.
    shutil.copytree(ROOT / "tests", folder / "tests")
    for name in ("tools", "docs", "kit", "bench", "pyproject.toml", "Makefile", ".local"):
        (folder / name).symlink_to(ROOT / name)
    for name in ("node_modules", "package.json", "tsconfig.json"):
        (folder / "frontend" / name).symlink_to(ROOT / "frontend" / name)
    return folder


def tried(fault: Fault, folder: Path, tests: Sequence[str]) -> Tried:
    file = folder / fault.file
    text = file.read_text("utf-8")
    file.write_text(text[: fault.begin] + fault.instead + text[fault.end :], "utf-8")
    began = time.monotonic()
    caught: str | None = None
    try:
        if tests:
            listed = folder / "tests-to-run"
            listed.write_text("\n".join(tests))
            line = [
                sys.executable,
                "-m",
                "pytest",
                "-x",
                "-q",
                "-p",
                "no:cacheprovider",
                "--no-header",
                "-rfE",
                f"@{listed}",
            ]
            env = os.environ | {
                "PYTHONPATH": f"{folder / 'src'}{os.pathsep}{folder}", "PYTHONDONTWRITEBYTECODE": "1",
            }  # fmt: skip
            done = subprocess.run(
                line, cwd=folder, env=env, capture_output=True, text=True, timeout=LONGEST_S, check=False
            )
            if done.returncode != 0:
                said = [row for row in done.stdout.splitlines() if row.startswith(("FAILED", "ERROR"))]
                caught = said[0][:150] if said else f"pytest ended with {done.returncode}"
    except subprocess.TimeoutExpired:
        pass
    finally:
        file.write_text(text, "utf-8")
    return Tried(fault, caught, time.monotonic() - began, len(tests))


def main() -> None:
    asked = argparse.ArgumentParser(prog="python -m tools.mutants")
    asked.add_argument("--seed", type=int, default=11)
    asked.add_argument("--many", type=int, default=40)
    asked.add_argument("--only", type=int, action="append", help="the number of a fault, instead of all")
    given = asked.parse_args()
    faults = dict(enumerate(planned(given.seed, given.many)))
    by_function = reach()
    free, lock = [sandbox(number) for number in range(AT_ONCE)], Lock()

    def one(number: int) -> Tried:
        fault = faults[number]
        with lock:
            folder = free.pop()
        try:
            if fault.function is None:
                tests = ["tests/interface"]
            else:
                tests = [test for _, test in by_function.get(f"{fault.file}:{fault.function}", [])]
            found = tried(fault, folder, tests)
        finally:
            with lock:
                free.append(folder)
        said = f"caught  {found.caught_by}" if found.caught_by else f"MISSED  {found.reached} tests reach it"
        print(f"{number:3} {fault.file}:{fault.line} {fault.kind}: {said} ({found.seconds:.0f} s)", flush=True)
        return found

    with ThreadPoolExecutor(AT_ONCE) as pool:
        done = list(pool.map(one, given.only or faults))
    caught = sum(one.caught_by is not None for one in done)
    print(f"{caught} of {len(done)} caught (seed {given.seed})")
    sys.exit(0 if caught * 40 >= 34 * len(done) else 1)


if __name__ == "__main__":
    main()

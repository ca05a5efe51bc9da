"""What the interface works out by itself, run by Node as it is written, so that laws hold it against the core."""

import json
import subprocess
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

FRONTEND = Path(__file__).parents[2] / "frontend"
MODULES = (
    "outline/block", "outline/brought", "outline/choices", "outline/drop", "outline/history", "outline/tree", "parts/readings",
    "parts/days", "parts/rule/complete", "parts/rule/written", "incoming/taken", "outline/replace", "lens/lens", "views/setup/known", "views/changes/rails",
)  # fmt: skip


class Interface:
    def __init__(self, folder: Path) -> None:
        answering = ["node", str(Path(__file__).with_name("answer.cjs")), str(folder)]
        self.process = subprocess.Popen(answering, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)

    def __call__(self, file: str, name: str, *given: object) -> Any:
        """What the module's function gives for these values."""
        assert self.process.stdin is not None
        assert self.process.stdout is not None
        self.process.stdin.write(json.dumps({"file": file, "name": name, "given": given}) + "\n")
        self.process.stdin.flush()
        answer = json.loads(self.process.stdout.readline())
        assert "throws" not in answer, answer["throws"]
        return answer["gives"]


@pytest.fixture(scope="session")
def interface(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Interface]:
    folder = tmp_path_factory.mktemp("interface")
    sources = [str(FRONTEND / "src" / f"{module}.ts") for module in MODULES]
    compiler = [str(FRONTEND / "node_modules/.bin/tsc"), "--noCheck", "--skipLibCheck"]
    into = ["--module", "commonjs", "--target", "es2023", "--rootDir", str(FRONTEND / "src"), "--outDir", str(folder)]
    subprocess.run([*compiler, *into, *sources], check=True, timeout=60)
    running = Interface(folder)
    yield running
    assert running.process.stdin is not None
    running.process.stdin.close()
    running.process.wait(10)
    assert running.process.stdout is not None
    running.process.stdout.close()

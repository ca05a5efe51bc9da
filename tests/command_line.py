"""The command line in the test's own process, which has everything loaded already; `apart` runs it as a process of its own."""

import io
import os
import subprocess
import sys
import traceback
from collections.abc import Mapping
from contextlib import redirect_stderr, redirect_stdout
from dataclasses import dataclass

import pytest

from sign_shelf.cli import main
from tests.constants import KEY


def at(address: str, **more: str) -> dict[str, str]:
    """What the environment of a command says of the database at the address."""
    settings = {"DATABASE": address, "KEY": KEY.get_secret_value(), "PRIVATE_HOSTS": "127.0.0.1"} | more
    return {f"SIGN_SHELF_{name}": value for name, value in settings.items()}


@dataclass(frozen=True)
class Done:
    returncode: int
    stdout: bytes
    stderr: bytes

    @property
    def out(self) -> str:
        return self.stdout.decode()

    @property
    def err(self) -> str:
        return self.stderr.decode()


def run(*words: str, given: str | bytes = "", env: Mapping[str, str | None] | None = None) -> Done:
    """`env`: what is otherwise in the environment; None takes a name out of it."""
    out, err = (io.TextIOWrapper(io.BytesIO(), encoding="utf-8", write_through=True) for _ in range(2))
    with pytest.MonkeyPatch.context() as patch:
        data = given.encode() if isinstance(given, str) else given
        patch.setattr(sys, "stdin", io.TextIOWrapper(io.BytesIO(data), encoding="utf-8"))
        patch.setattr(sys, "argv", ["sign-shelf", *words])
        for name, value in (env or {}).items():
            patch.delenv(name, raising=False) if value is None else patch.setenv(name, value)
        with redirect_stdout(out), redirect_stderr(err):
            code = _ended_with()
    return Done(code, out.buffer.getvalue(), err.buffer.getvalue())  # type: ignore[attr-defined]


def _ended_with() -> int:
    try:
        main()
    except SystemExit as ended:
        return int(ended.code or 0)
    except Exception:
        # As the interpreter does at the end of a process.
        traceback.print_exc()
        return 1
    return 0


def apart(*words: str, given: str | bytes = "", env: Mapping[str, str] | None = None) -> Done:
    data = given.encode() if isinstance(given, str) else given
    line = [sys.executable, "-m", "sign_shelf", *words]
    done = subprocess.run(line, input=data, capture_output=True, check=False, timeout=120, env=os.environ | (env or {}))
    return Done(done.returncode, done.stdout, done.stderr)

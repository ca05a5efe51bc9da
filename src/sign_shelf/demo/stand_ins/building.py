"""A stand-in that is built from a Git repository: a bare one, whose hook puts what was pushed where the site takes it from."""

import os
import subprocess
from pathlib import Path

from sign_shelf.core.errors import InvalidDocument
from sign_shelf.core.model.documents import parse_json, read
from sign_shelf.core.model.menu import Device
from sign_shelf.core.protocol.placed import PlacedMenu

BRANCH = "main"
MENUS = "menus"
REPOSITORIES = "repositories"
_HOOK = """#!/bin/sh
# Builds the site from what was pushed: its menus, as they are on the branch now.
set -e
unset GIT_QUARANTINE_PATH
mkdir -p "{built}"
git --work-tree="{built}" checkout --force {branch} -- {menus}
"""


class Building:
    """`repository` is made the first time, empty."""

    def __init__(self, folder: Path, site: str) -> None:
        self.repository = (folder / REPOSITORIES / f"{site}.git").absolute()
        self._built = (folder / "built" / site).absolute()
        if not self.repository.exists():
            self.repository.mkdir(parents=True)
            clean = {"GIT_CONFIG_NOSYSTEM": "1", "GIT_CONFIG_GLOBAL": os.devnull}
            subprocess.run(
                ["git", "init", "--quiet", "--bare", f"--initial-branch={BRANCH}", "."],
                cwd=self.repository, check=True, env=os.environ | clean,
            )  # fmt: skip
        hook = self.repository / "hooks" / "post-receive"
        hook.write_text(_HOOK.format(built=self._built, branch=BRANCH, menus=MENUS), "utf-8")
        hook.chmod(0o755)

    def placed(self) -> dict[tuple[str, Device], PlacedMenu]:
        """What hangs where by what was built last."""
        found: dict[tuple[str, Device], PlacedMenu] = {}
        for file in sorted(self._built.glob(f"{MENUS}/*.json")):
            try:
                one = read(PlacedMenu, parse_json(file.read_bytes()))
            except (InvalidDocument, OSError):
                continue
            found[one.location, one.device] = one
        return found

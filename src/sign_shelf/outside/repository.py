"""A Git repository, through the git command: what stands in some of its files, and one commit of several, pushed and never forced.

Each act works in a folder of its own that is gone afterwards. Nothing of the machine's own configuration counts, no hook runs here and
nobody is asked for a password.
"""

import asyncio
import os
import re
import tempfile
from collections.abc import AsyncIterator, Mapping, Sequence
from contextlib import asynccontextmanager
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import urlsplit

from pydantic import SecretStr

from sign_shelf.core.errors import Refusal, SiteAway, SiteRefused
from sign_shelf.outside.dialling import CheckedResolver, is_address

WITHIN_S = 60.0
DEEP = 50
"""Commits that are looked through for one of our own that got there without our being told."""
TRIES = 4
"""How often the branch may move on while a commit is made."""
_SCP = re.compile(r"(?:[\w.-]+@)?([\w.-]+):(?!//)([\w./~-]+)$")
_BRANCH = re.compile(r"[A-Za-z0-9][\w./-]{0,99}$")
_AWAY = re.compile(
    r"resolve host|connect|timed out|timeout|reset by peer|unexpectedly|hung up|early EOF|returned error: 5|temporarily", re.IGNORECASE
)  # fmt: skip
_NOT_IN = re.compile(
    r"authentication failed|permission denied|could not read (user|pass)|returned error: 40[13]", re.IGNORECASE
)
_NONE = re.compile(r"not appear to be a git|not found|does not exist|no such file|returned error: 404", re.IGNORECASE)


@dataclass(frozen=True)
class Allowed:
    """Where repositories may be: on public hosts, on these private ones, in this folder."""

    hosts: frozenset[str] = frozenset()
    folder: Path | None = None


@dataclass(frozen=True)
class File:
    """`name` is its blob's."""

    name: str
    body: bytes


@dataclass(frozen=True)
class Author:
    name: str
    email: str


class ChangedThere(SiteRefused):
    """Somebody changed a file in the repository that we were to write."""


def checked_remote(remote: str, allowed: Allowed) -> str | None:
    """The host that it is at; None for one in the folder that is allowed. Raises Refusal for an address of another form."""
    if remote.startswith("-"):
        raise Refusal("An address does not begin with a hyphen.", where="remote")
    parts = urlsplit(remote)
    if parts.scheme in {"https", "ssh"} and parts.hostname:
        return parts.hostname
    if not parts.scheme and (found := _SCP.match(remote)):
        return found[1]
    path = Path(parts.path if parts.scheme == "file" else remote)
    if parts.scheme in {"", "file"} and allowed.folder is not None and path.is_absolute():
        if path.resolve().is_relative_to(allowed.folder.resolve()):
            return None
        raise Refusal(f"Repositories of this machine are in {allowed.folder} alone.", where="remote")
    raise Refusal(
        "This is no address of a repository that we can push to.", where="remote",
        remedy="Write it like https://git.example/client/site.git or git@git.example:client/site.git.",
    )  # fmt: skip


def without_secret(remote: SecretStr) -> str:
    return re.sub(r"//[^/@]*@", "//", remote.get_secret_value())


class Repository:
    """A branch of a remote. Raises SiteAway where it may pass, SiteRefused where it does not; neither names what is secret in the
    address."""

    def __init__(self, remote: SecretStr, branch: str, allowed: Allowed) -> None:
        self.remote = remote
        self._allowed = allowed
        self.branch = branch
        if not _BRANCH.match(branch) or ".." in branch:
            raise Refusal(f'"{branch}" is no name of a branch.', where="branch", remedy="Write one such as main.")

    @property
    def where(self) -> str:
        """The address without what is secret in it."""
        return without_secret(self.remote)

    async def read(self, paths: Sequence[str]) -> dict[str, File | None]:
        """What the branch has in these files; None where it has no such file, or there is no such branch yet."""
        async with self._opened() as git:
            head = await git.fetch()
            return {path: await git.file(head, path) for path in paths}

    async def refuse_no_push(self) -> None:
        """Raises SiteRefused where we may not push there, found out without pushing anything."""
        async with self._opened() as git:
            head = await git.fetch()
            commit = head or await git.commit(
                None, {"README": await git.keep(b"")}, "A trial", Author("-", "-@localhost")
            )
            assert commit is not None
            await git.try_push(commit)

    async def write(
        self, files: Mapping[str, bytes], message: str, author: Author, *, expects: Mapping[str, str | None], name: str
    ) -> dict[str, str]:
        """One commit of these files on top of what the branch has by then; the names of their blobs. Where a commit of this `name`
        (`Release: …` in its message) is there already, it is not made again. `expects`: the blobs that they still have, None for those that
        there are none of. Raises ChangedThere where one is neither that nor what is to be."""
        async with self._opened() as git:
            blobs = {path: await git.keep(body) for path, body in files.items()}
            for _ in range(TRIES):
                head = await git.fetch()
                if head is not None and await git.has(head, name):
                    return blobs
                for path, blob in blobs.items():
                    there = await git.blob(head, path)
                    if there not in {expects.get(path), blob}:
                        raise ChangedThere(
                            f"{path} was changed in the repository since it was last read.", where=self.where,
                            remedy="Read the site again: take over what is there into a change, or put back what was approved.",
                        )  # fmt: skip
                commit = await git.commit(head, blobs, f"{message.rstrip()}\n\nRelease: {name}\n", author)
                if commit is None or await git.push(commit):
                    return blobs
        raise SiteAway(f"The branch {self.branch} moves on faster than we can push to it.", where=self.where)

    @asynccontextmanager
    async def _opened(self) -> AsyncIterator["_Git"]:
        host = checked_remote(self.remote.get_secret_value(), self._allowed)
        if host is not None:
            names = CheckedResolver(self._allowed.hosts)
            if is_address(host):
                names.refuse_private(host, 0, [host])
            else:
                await names.resolve(host)
        with tempfile.TemporaryDirectory(prefix="sign-shelf-git-") as folder:
            git = _Git(Path(folder), self.remote, self.branch, self.where)
            await git.run("init", "--quiet", "--bare", ".")
            yield git


class _Git:
    def __init__(self, folder: Path, remote: SecretStr, branch: str, where: str) -> None:
        self.folder = folder
        self.remote = remote
        self.branch = branch
        self.where = where

    async def fetch(self) -> str | None:
        """The newest commit of the branch."""
        remote = self.remote.get_secret_value()
        told = (await self.run("ls-remote", "--heads", "--", remote, f"refs/heads/{self.branch}")).decode()
        if not told.strip():
            return None
        await self.run(
            "fetch",
            "--quiet",
            "--no-tags",
            f"--depth={DEEP}",
            "--",
            remote,
            f"+refs/heads/{self.branch}:refs/heads/there",
        )
        return (await self.run("rev-parse", "refs/heads/there")).decode().strip()

    async def has(self, head: str, name: str) -> bool:
        told = await self.run("log", f"-{DEEP}", "--format=%(trailers:key=Release,valueonly)", head)
        return name in told.decode("utf-8", "replace").split()

    async def blob(self, head: str | None, path: str) -> str | None:
        if head is None:
            return None
        told = (await self.run("ls-tree", head, "--", path)).decode()
        return told.split()[2] if told.strip() else None

    async def file(self, head: str | None, path: str) -> File | None:
        blob = await self.blob(head, path)
        return File(blob, await self.run("cat-file", "blob", blob)) if blob is not None else None

    async def keep(self, body: bytes) -> str:
        return (await self.run("hash-object", "-w", "--stdin", given=body)).decode().strip()

    async def commit(self, head: str | None, blobs: Mapping[str, str], message: str, author: Author) -> str | None:
        """None where the branch has all of it."""
        await self.run("read-tree", head if head is not None else "--empty")
        for path, blob in blobs.items():
            await self.run("update-index", "--add", "--cacheinfo", f"100644,{blob},{path}")
        tree = (await self.run("write-tree")).decode().strip()
        if head is not None and tree == (await self.run("rev-parse", f"{head}^{{tree}}")).decode().strip():
            return None
        parents = ("-p", head) if head is not None else ()
        who = {
            "GIT_AUTHOR_NAME": author.name, "GIT_AUTHOR_EMAIL": author.email,
            "GIT_COMMITTER_NAME": "Sign Shelf", "GIT_COMMITTER_EMAIL": "sign-shelf@localhost",
        }  # fmt: skip
        return (await self.run("commit-tree", tree, *parents, given=message.encode(), more=who)).decode().strip()

    async def push(self, commit: str) -> bool:
        """Whether it went; False where the branch moved on meanwhile. Never forced."""
        try:
            await self.run(
                "push", "--quiet", "--", self.remote.get_secret_value(), f"{commit}:refs/heads/{self.branch}"
            )
        except _Failed as failed:
            if "[remote rejected]" in failed.says and "cannot lock ref" not in failed.says:
                raise SiteRefused(
                    f"The repository does not take the commit: {failed.last}", where=self.where,
                    remedy="Ask whoever looks after it what the branch has to hold to.",
                ) from failed  # fmt: skip
            if "[rejected]" in failed.says or "cannot lock ref" in failed.says:
                return False
            raise failed.told(self.where) from failed
        return True

    async def try_push(self, commit: str) -> None:
        """As `push`, and nothing goes."""
        try:
            goal = f"{commit}:refs/heads/{self.branch}"
            await self.run("push", "--quiet", "--dry-run", "--", self.remote.get_secret_value(), goal)
        except _Failed as failed:
            raise failed.told(self.where) from failed

    async def run(self, *words: str, given: bytes | None = None, more: Mapping[str, str] | None = None) -> bytes:
        """What it says. Raises SiteAway and SiteRefused, of `push` _Failed."""
        line = ["git", "-c", "core.hooksPath=/dev/null", "-c", "protocol.ext.allow=never", "-c", "gc.auto=0", *words]
        env = {
            "PATH": os.environ.get("PATH", "/usr/bin:/bin"), "HOME": os.environ.get("HOME", str(self.folder)), "LC_ALL": "C",
            "GIT_TERMINAL_PROMPT": "0", "GIT_CONFIG_NOSYSTEM": "1", "GIT_CONFIG_GLOBAL": os.devnull,
            "GIT_SSH_COMMAND": "ssh -o BatchMode=yes -o ConnectTimeout=10", "GIT_ALLOW_PROTOCOL": "https:ssh:file",
        }  # fmt: skip
        try:
            process = await asyncio.create_subprocess_exec(
                *line, cwd=self.folder, env=env | dict(more or {}), stdin=asyncio.subprocess.PIPE, stdout=asyncio.subprocess.PIPE,
                stderr=asyncio.subprocess.PIPE,
            )  # fmt: skip
        except FileNotFoundError as missing:
            raise SiteRefused("git is not installed.", remedy="Install Debian's package git.") from missing
        try:
            async with asyncio.timeout(WITHIN_S):
                out, err = await process.communicate(given)
        except TimeoutError as slow:
            process.kill()
            await process.wait()
            raise SiteAway(f"The repository took more than {WITHIN_S:.0f} s.", where=self.where) from slow
        if process.returncode == 0:
            return out
        failed = _Failed(err.decode("utf-8", "replace").replace(self.remote.get_secret_value(), self.where))
        if words[0] == "push":
            raise failed
        raise failed.told(self.where)


class _Failed(Exception):
    def __init__(self, says: str) -> None:
        super().__init__(says)
        self.says = says

    @property
    def last(self) -> str:
        """What the other side said, else the first line that says what is wrong."""
        lines = [line.strip() for line in self.says.splitlines() if line.strip()]
        remote = [line.removeprefix("remote:").strip() for line in lines if line.startswith("remote:")]
        told = (
            [one for one in remote if one]
            or [line for line in lines if line.startswith(("fatal:", "error:", "!"))]
            or lines
        )
        return (told[0] if told else "it says nothing")[:300]

    def told(self, where: str) -> SiteRefused:
        if _NOT_IN.search(self.says):
            return SiteRefused(
                f"The repository does not let us in: {self.last}",
                where=where,
                remedy="Give us a key or a token that may push.",
            )
        if _NONE.search(self.says):
            return SiteRefused(f"There is no repository there: {self.last}", where=where, remedy="Check its address.")
        if _AWAY.search(self.says):
            return SiteAway(f"The repository does not answer: {self.last}", where=where)
        return SiteRefused(f"Git could not do it: {self.last}", where=where)

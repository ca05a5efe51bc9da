"""Sites that get their menus by commits to their repository: set up, read, written and read back."""

import asyncio
from collections.abc import Callable, Iterable, Sequence
from datetime import datetime
from typing import cast

from pydantic import SecretStr

from sign_shelf.core.changes.foretold import brought
from sign_shelf.core.errors import Clash, InvalidDocument, NotFound, Refusal, SiteRefused
from sign_shelf.core.model.documents import content_hash, parse_json, read
from sign_shelf.core.model.menu import Device
from sign_shelf.core.protocol.committed import commit_message, html_file, path_of, placed_file
from sign_shelf.core.protocol.placed import PlacedMenu
from sign_shelf.core.resolve import Prepared, find_placement
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import facts_of, site_row
from sign_shelf.desk.put_live import placed_at, whole
from sign_shelf.outside.endpoint import Slot
from sign_shelf.outside.repository import Allowed, Author, File, Repository, checked_remote
from sign_shelf.store import changes, drift, ledger, people, releases, repositories, sites, states
from sign_shelf.store.database import Database
from sign_shelf.store.tables import ReleaseRow, ReleaseStepRow, SiteRow


async def connect(
    database: Database, person: Person, site_key: str, *, remote: SecretStr, branch: str, folder: str, allowed: Allowed,
    now: datetime,
) -> None:  # fmt: skip
    """From now on the site gets its menus by commits there. Tried first: raises Refusal with what is wrong."""
    where = f"sites/{site_key}/repository"
    require(person, "keys", where, site_key)
    folder = folder.strip().strip("/")
    if any(part in {"", ".", ".."} for part in folder.split("/")) and folder:
        raise Refusal(
            f'"{folder}" is no folder of a repository.', where="folder", remedy="Write one such as data/menus."
        )
    checked_remote(remote.get_secret_value(), allowed)
    repository = Repository(remote, branch, allowed)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        document = await whole(session, site, site.live_state)
    try:
        files = await files_there(database, site, repository, folder)
    except SiteRefused as refused:
        raise Refusal(refused.says, where="remote", remedy=refused.remedy) from refused
    there = {place: found for place, found in files.items() if found is not None}
    async with database.transaction() as session:
        site = await site_row(session, person, site_key, lock=True)
        if await releases.last_waiting(session, site.id) is not None:
            raise Clash("Something goes live there just now.", where=where, remedy="Try it again once it has.")
        await repositories.keep(session, database.seals, site.id, repositories.Kept(remote, branch, folder))
        site.connection, site.endpoint = "repository", None
        session.add(site)
        await sites.forget_live(session, site.id)
        for (location, device), found in there.items():
            # What is live on the shelf is what is to stand there: where it does not, that is drift.
            hung = find_placement(document, location, device).menu
            hash = content_hash(placed_at(document, location, device, hung))
            await sites.saw_live(session, site.id, location, device, hash=hash, etag=found.name, at=now)
        await drift.forget(session, site.id)
        await drift.read_soon(session, site.id, now)
        ledger.write(
            session, "connect", f"{site.name} gets its menus by commits to {repository.where}", at=now, person_id=person.id,
            site_id=site.id,
        )  # fmt: skip


async def files_there(
    database: Database, site: SiteRow, repository: Repository, folder: str
) -> dict[tuple[str, Device], File | None]:
    """The file of each of the site's places, where the branch has one. Raises SiteRefused and SiteAway."""
    async with database.transaction() as session:
        template = (await whole(session, site, site.live_state)).template
    places = [(location.key, device) for location in template.locations for device in location.devices]
    files = await repository.read([path_of(folder, *place) for place in places])
    return {place: files[path_of(folder, *place)] for place in places}


def _slot(found: File | None) -> Slot | None:
    """What the file says hangs there; None where it is no placed menu."""
    if found is None:
        return None
    try:
        return Slot(etag=found.name, placed=read(PlacedMenu, parse_json(found.body)))
    except InvalidDocument:
        return None


async def _opened(database: Database, site: SiteRow, allowed: Allowed) -> tuple[Repository, str]:
    async with database.transaction() as session:
        kept = await repositories.repository_of(session, database.seals, site.id)
    if kept is None:
        raise NotFound(
            f"{site.name} has no repository.", where=f"sites/{site.key}", remedy="Set it up in the site's settings."
        )
    return Repository(kept.remote, kept.branch, allowed), kept.folder


async def read_places(
    database: Database, site: SiteRow, places: Iterable[tuple[str, str]], allowed: Allowed
) -> dict[tuple[str, str], Slot | None]:
    """What the branch has for each of these places. Raises SiteRefused for a file that is no placed menu."""
    repository, folder = await _opened(database, site, allowed)
    wanted = list(places)
    files = await repository.read([path_of(folder, *place) for place in wanted])
    found: dict[tuple[str, str], Slot | None] = {}
    for place in wanted:
        file = files[path_of(folder, *place)]
        found[place] = _slot(file)
        if file is not None and found[place] is None:
            raise SiteRefused(
                f"{path_of(folder, *place)} is no placed menu any more.", where=repository.where,
                remedy="Put it back in the repository as it was one commit before: until then nothing goes there.",
            )  # fmt: skip
    return found


async def commit(
    database: Database, site: SiteRow, release: ReleaseRow, steps: Sequence[ReleaseStepRow], allowed: Allowed,
    clock: Callable[[], datetime],
) -> None:  # fmt: skip
    """All places of the release in one commit, pushed, and read back. Taken up again it is the same commit. Raises ChangedThere where
    somebody changed a file meanwhile, SiteRefused and SiteAway."""
    repository, folder = await _opened(database, site, allowed)
    files, message, author = await _commit(database, site, release, steps, folder, clock())
    async with database.transaction() as session:
        seen = {(row.location, row.device): row for row in await sites.live_slots(session, [site.id])}
    expects: dict[str, str | None] = {}
    for step in steps:
        row = seen.get((step.location, step.device))
        expects[path_of(folder, step.location, step.device)] = row.etag if row is not None else None
    # What is drawn of a menu is ours to write over: it follows from the other.
    drawn = [path for path in files if path.endswith(".html")]
    for path, file in (await repository.read(drawn)).items():
        expects[path] = file.name if file is not None else None
    await repository.write(files, message, author, expects=expects, name=str(release.id))
    there = await repository.read([path_of(folder, step.location, step.device) for step in steps])
    for step in steps:
        file = there[path_of(folder, step.location, step.device)]
        slot = _slot(file)
        if file is None or slot is None or content_hash(slot.placed) != step.hash:
            raise SiteRefused(
                f"Read back, {step.location} for {step.device} is not what was committed.", where=repository.where,
                remedy="Look at the repository, then put the draft live again.",
            )  # fmt: skip
    async with database.transaction() as session:
        for step in steps:
            file = there[path_of(folder, step.location, step.device)]
            assert file is not None
            await sites.saw_live(
                session, site.id, step.location, step.device, hash=step.hash, etag=file.name, at=clock()
            )  # fmt: skip
            kept = await session.get(ReleaseStepRow, step.id)
            assert kept is not None
            kept.state, kept.etag_after, kept.sends = "verified", file.name, kept.sends + 1
            session.add(kept)
            step.state = "verified"


async def _commit(
    database: Database, site: SiteRow, release: ReleaseRow, steps: Sequence[ReleaseStepRow], folder: str, now: datetime
) -> tuple[dict[str, bytes], str, Author]:
    async with database.transaction() as session:
        document = await whole(session, site, release.target)
        sides = [await states.contents(session, name) for name in (release.before, release.target)]
        change = await changes.change_by_id(session, release.change_id)
        assert change is not None
        who = await people.person_by_id(session, change.author_id) if change.author_id is not None else None
    language = facts_of(site).languages[0]
    does = await asyncio.to_thread(brought, *sides, language=language)

    def written() -> dict[str, bytes]:
        prepared = Prepared(document)
        at = prepared.clock.now(now)
        files: dict[str, bytes] = {}
        for step in steps:
            device = cast(Device, step.device)
            files[path_of(folder, step.location, device)] = placed_file(read(PlacedMenu, step.placed))
            files[path_of(folder, step.location, device, "html")] = html_file(prepared, step.location, device, at)
        return files

    author = Author(who.name, who.email) if who is not None else Author("Sign Shelf", "sign-shelf@localhost")
    return await asyncio.to_thread(written), commit_message(change.title, change.why, does, str(change.id)), author

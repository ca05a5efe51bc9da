"""How a site gets its menus: each kind of connection tried before it is used, and told what is wrong with it."""

from collections.abc import AsyncIterator
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Any, Literal, cast

from pydantic import Field, SecretStr

from sign_shelf.core.errors import Clash, Refusal, SiteRefused, SourceRefused
from sign_shelf.core.model.documents import content_hash
from sign_shelf.core.model.menu import Device, Model
from sign_shelf.core.resolve import Prepared, find_placement
from sign_shelf.desk import committing, connect, live_reading
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import facts_of, site_row
from sign_shelf.desk.put_live import placed_at, whole
from sign_shelf.outside.conformance import Tried, try_site
from sign_shelf.outside.endpoint import Slot, discover, read_slot
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.outside.repository import Repository, checked_remote, without_secret
from sign_shelf.store import drift, keys, ledger, releases, repositories, sites
from sign_shelf.store.database import Database
from sign_shelf.store.tables import SiteRow


class BySending(Model):
    """We send, over the site protocol. Without `secret`, the signing key that is known counts."""

    kind: Literal["endpoint"]
    secret: SecretStr | None = None


class ByCommitting(Model):
    """We commit. Without `remote`, the repository that is known counts."""

    kind: Literal["repository"]
    remote: SecretStr | None = Field(default=None, max_length=2_000)
    branch: str = Field(default="main", min_length=1, max_length=100)
    folder: str = Field(default="menus", max_length=200)


class ByAsking(Model):
    """It asks us (docs/delivery.md). With a signing key it is told when something changed, where it wants to be."""

    kind: Literal["fetch"]
    secret: SecretStr | None = None


class ByLooking(Model):
    """We only look; a person carries out what goes live."""

    kind: Literal["observe"]


Wanted = Annotated[BySending | ByCommitting | ByAsking | ByLooking, Field(discriminator="kind")]


@dataclass(frozen=True)
class Known:
    """How the site gets its menus, and what is known for the other ways. `remote` without what is secret in it."""

    kind: Literal["endpoint", "repository", "fetch", "observe"]
    signing: bool
    delivery: bool
    remote: str | None
    branch: str | None
    folder: str | None
    ping: bool
    vouched: bool


async def known(database: Database, person: Person, site_key: str) -> Known:
    require(person, "edit", f"sites/{site_key}/connection", site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        signing, delivery = [await keys.has_key(session, site.id, kind) for kind in ("signing", "delivery")]
        kept = await repositories.repository_of(session, database.seals, site.id)
    can = facts_of(site).can
    return Known(
        kind=cast(Any, site.connection), signing=signing, delivery=delivery,
        remote=without_secret(kept.remote) if kept is not None else None, branch=kept.branch if kept is not None else None,
        folder=kept.folder if kept is not None else None, ping=can.ping is not None, vouched=can.vouched,
    )  # fmt: skip


async def try_out(
    database: Database, fetcher: Fetcher, person: Person, site_key: str, wanted: Wanted, now: datetime
) -> list[Tried]:
    """What such a connection needs, each with how it came out. Nothing is another afterwards, here or there."""
    require(person, "keys", f"sites/{site_key}/connection", site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
    match wanted:
        case BySending():
            secret = await _signing(database, site, wanted.secret, now)
            tries = _sending(fetcher, site, secret, now)
        case ByCommitting():
            tries = _committing(database, fetcher, site, wanted)
        case ByAsking():
            secret = await _signing(database, site, wanted.secret, now)
            tries = _asking(database, fetcher, site, secret, now)
        case ByLooking():
            tries = _looking(database, fetcher, site, now)
    return [one async for one in tries]


async def _signing(database: Database, site: SiteRow, given: SecretStr | None, now: datetime) -> SecretStr | None:
    if given is not None and given.get_secret_value().strip():
        return connect.checked_secret(given)
    async with database.transaction() as session:
        known = await keys.keys_of(session, database.seals, site.id, ["signing"], now)
    return known[0].secret if known else None


async def _sending(fetcher: Fetcher, site: SiteRow, secret: SecretStr | None, now: datetime) -> AsyncIterator[Tried]:
    async for one in try_site(fetcher, site.base, secret, now):
        yield one
    found = await discover(fetcher, site.base)
    if found is not None and found.asks:
        yield Tried("take menus that are sent", "fails", "It says of itself that it asks for them.")
    if secret is None:
        yield Tried(
            "know its signing key", "fails", "Enter the one that its back office shows: nothing is sent without."
        )


async def _committing(
    database: Database, fetcher: Fetcher, site: SiteRow, wanted: ByCommitting
) -> AsyncIterator[Tried]:
    has_address, answers, push = (
        "have an address that we may reach",
        f"answer, with a branch {wanted.branch}",
        "take a push",
    )
    try:
        repository = await _repository(database, fetcher, site, wanted)
    except Refusal as refusal:
        yield Tried(has_address, "fails", f"{refusal.says} {refusal.remedy or ''}".strip())
        return
    yield Tried(has_address, "ok")
    try:
        there = await committing.files_there(database, site, repository, wanted.folder)
    except SiteRefused as refused:
        yield Tried(answers, "fails", f"{refused.says} {refused.remedy or ''}".strip())
        return
    has = sum(file is not None for file in there.values())
    yield Tried(answers, "ok", f"{has} of {len(there)} places have a file there already.")
    try:
        await repository.refuse_no_push()
    except SiteRefused as refused:
        yield Tried(push, "fails", f"{refused.says} {refused.remedy or ''}".strip())
        return
    yield Tried(push, "ok", "Tried without pushing anything.")


async def _repository(database: Database, fetcher: Fetcher, site: SiteRow, wanted: ByCommitting) -> Repository:
    remote = wanted.remote
    if remote is None:
        async with database.transaction() as session:
            known = await repositories.repository_of(session, database.seals, site.id)
        if known is None:
            raise Refusal("No repository is known.", where="remote", remedy="Write its address.")
        remote = known.remote
    checked_remote(remote.get_secret_value(), fetcher.repositories)
    return Repository(remote, wanted.branch, fetcher.repositories)


async def _asking(
    database: Database, fetcher: Fetcher, site: SiteRow, secret: SecretStr | None, now: datetime
) -> AsyncIterator[Tried]:
    async with database.transaction() as session:
        has_key = await keys.has_key(session, site.id, "delivery")
    yield Tried(
        "have a key to ask with", "ok" if has_key else "fails",
        "" if has_key else "Make its delivery key on the site's page, and give it to whoever builds the site.",
    )  # fmt: skip
    found = await discover(fetcher, site.base)
    if found is None:
        yield Tried("say of itself that it asks", "not tried", "It has no discovery, and needs none to ask.")
    elif found.asks:
        async for one in try_site(fetcher, site.base, secret, now):
            yield one
    else:
        yield Tried("say of itself that it asks", "fails", "Its discovery says that menus are sent to it.")
    async for one in _looking(database, fetcher, site, now):
        yield one


async def _looking(database: Database, fetcher: Fetcher, site: SiteRow, now: datetime) -> AsyncIterator[Tried]:
    """Whether each place is found in the page's HTML. One that shows something else is found all the same: that is drift."""
    async with database.transaction() as session:
        document = await whole(session, site, site.live_state)
    opens = "be read as its visitors get it"
    try:
        found = await live_reading.as_read(database, fetcher, site, Prepared(document), now)
    except (SourceRefused, SiteRefused) as away:
        yield Tried(opens, "fails", away.says)
        return
    yield Tried(opens, "ok")
    if not found:
        yield Tried("show a menu", "fails", "Nothing hangs in a place that its page has from the start.")
    known_at = document.site.seen_at
    for (location, device, audience), read in found.items():
        place = document.template.location(location)
        check = f"show {place.title if place is not None else location} on the {device}{f' to {audience}' if audience else ''}"
        how = f"Found at {known_at[location]}" if read.surely else "Found by its likeness"
        if location in known_at and not read.surely:
            how += f", as nothing stands at {known_at[location]}"
        drifted = read.drifted
        if drifted is None:
            yield Tried(check, "ok", f"{how}; as verified.")
        elif drifted.sure > 0:
            edits = f"{len(drifted.edits)} edit{'s' if len(drifted.edits) != 1 else ''}"
            yield Tried(check, "ok", f"{how}; it differs in {edits}, which Sync will tell.")
        else:
            says = "No navigation of the page is like it. Say in the site's settings where it stands; what a script makes nobody can verify."
            yield Tried(check, "fails", says)


async def use(
    database: Database, fetcher: Fetcher, person: Person, site_key: str, wanted: Wanted, now: datetime
) -> None:
    """From now on the site gets its menus so. Raises Refusal where that cannot be, with why; Clash while something goes live there."""
    where = f"sites/{site_key}/connection"
    require(person, "keys", where, site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        document = await whole(session, site, site.live_state)
    if isinstance(wanted, ByCommitting):
        repository = await _repository(database, fetcher, site, wanted)
        await repository.refuse_no_push()
        remote = repository.remote
        await committing.connect(
            database, person, site_key, remote=remote, branch=wanted.branch, folder=wanted.folder,
            allowed=fetcher.repositories, now=now,
        )  # fmt: skip
        return
    found = None if isinstance(wanted, ByLooking) else await discover(fetcher, site.base)
    slots: dict[tuple[str, Device], Slot] = {}
    if isinstance(wanted, BySending):
        if found is None or found.asks:
            raise Refusal(
                "The site does not answer in the site protocol, or says that it asks for its menus.", where=where,
                remedy="Try it out first: it tells what is wrong. See docs/site-protocol.md.",
            )  # fmt: skip
        secret = await _signing(database, site, wanted.secret, now)
        if secret is None:
            raise Refusal("The site's signing key is missing.", where="secret", remedy="Copy it from its back office.")
        called = facts_of(site).places
        for location in document.template.locations:
            for device in location.devices:
                slot = await read_slot(fetcher, found.menus, location.key, device, called=called.get(location.key))
                if slot is not None:
                    slots[location.key, device] = slot
        for place in found.template.locations[:1]:
            await connect.try_secret(fetcher, found.menus, (place.key, place.devices[-1]), secret, now)
    given = getattr(wanted, "secret", None)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key, lock=True)
        if await releases.last_waiting(session, site.id) is not None:
            raise Clash("Something goes live there just now.", where=where, remedy="Try it again once it has.")
        if given is not None and given.get_secret_value().strip():
            secret = connect.checked_secret(given)
            await keys.keep_key(
                session, database.seals, site.id, "signing", secret, now=now, old_until=now + connect.OLD_COUNTS
            )
        site.connection = wanted.kind
        site.endpoint = found.menus if found is not None and isinstance(wanted, BySending) else None
        if found is not None:
            site.particulars = facts_of(site).model_copy(update={"can": found.can}).to_json()
        session.add(site)
        await sites.forget_live(session, site.id)
        for (key, device), slot in slots.items():
            # What is live on the shelf is what is to hang there: where it does not, that is drift.
            hash = content_hash(placed_at(document, key, device, find_placement(document, key, device).menu))
            await sites.saw_live(session, site.id, key, device, hash=hash, etag=slot.etag, at=now)
        await drift.forget(session, site.id)
        await drift.read_soon(session, site.id, now)
        ledger.write(
            session, "connect", f"{site.name} gets its menus otherwise: {_SAYS[wanted.kind]}", at=now, person_id=person.id, site_id=site.id
        )  # fmt: skip


_SAYS = {"endpoint": "we send", "fetch": "it asks us", "observe": "we only look"}

"""Taking a site in: read by a job, proposed, and kept once a person confirms."""

import asyncio
import time
from datetime import datetime
from typing import Any
from uuid import UUID

import structlog
from pydantic import SecretStr

from sign_shelf.core.basics.text import Key, Language, Words
from sign_shelf.core.changes.arrangement import Arrangement, TemplateVersion
from sign_shelf.core.errors import Busy, Clash, NotFound, Refusal
from sign_shelf.core.formats.html_tree import tidy_words
from sign_shelf.core.model.documents import content_hash, read
from sign_shelf.core.model.facts import FactSet
from sign_shelf.core.model.menu import Model
from sign_shelf.core.model.site import Particulars, Policy, Zone
from sign_shelf.core.protocol.placed import placed_menu
from sign_shelf.desk import connect
from sign_shelf.desk.permission import Person, require
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.outside.reading import ReadSite, read_site
from sign_shelf.store import keys, ledger, menus, queue, requests, sites, states, take_ins
from sign_shelf.store.database import Database, Session
from sign_shelf.store.requests import RequestKey
from sign_shelf.store.seals import Seals
from sign_shelf.store.tables import SiteRow, TakeInRow

log = structlog.get_logger()

TASK = "take_in"
MOST_TRIES = 3
LONGEST_READING_S = 900.0


class Confirmation(Model):
    """What the person settles before the site is kept; what is absent stays as proposed."""

    key: Key | None = None
    name: Words | None = None
    zone: Zone | None = None
    languages: tuple[Language, ...] | None = None
    secret: SecretStr | None = None
    menus: tuple[Key, ...] | None = None
    """The proposed menus to keep; absent: all of them."""
    facts: FactSet = FactSet()
    """What is known of visitors, for rules and for addresses of their own pages."""
    policy: Policy = Policy()


async def begin(database: Database, person: Person, url: str, *, request_key: RequestKey, now: datetime) -> UUID:
    """Defers the reading of a site. The id of the take-in; the same for the same key."""
    require(person, "take in", "take-ins")
    async with database.transaction() as session:

        async def act() -> dict[str, Any]:
            row = TakeInRow(
                url=url[:2_000], state="reading", progress={"doing": "waiting for a worker", "done": 0, "of": None},
                asked_by=person.id, asked_at=now,
            )  # fmt: skip
            session.add(row)
            await session.flush()
            await queue.defer(session, TASK, subject=str(row.id))
            return {"take_in": str(row.id)}

        answer = await requests.once(session, person.id, request_key, act, at=now)
        return UUID(answer["take_in"])


async def carry_out(database: Database, fetcher: Fetcher, take_in_id: UUID) -> None:
    """Reads the site and keeps the proposal. Reading again after a crash does no harm; but it is tried three times at
    most, and whatever happens it ends, read or failed with the reason. Raises DatabaseAway alone."""
    async with database.transaction() as session:
        row = await _row(session, take_in_id, lock=True)
        if row.state != "reading":
            return
        row.tries += 1
        session.add(row)
    if row.tries > MOST_TRIES:
        says = f"Reading was begun {MOST_TRIES} times and never came to an end."
        await _update(database, take_in_id, state="failed", says=f"{says} The site may be too much for this machine.")
        return
    try:
        async with asyncio.timeout(LONGEST_READING_S):
            await _read(database, fetcher, take_in_id, row.url)
    except Busy:
        raise
    except Refusal as refusal:
        await _update(database, take_in_id, state="failed", says=plain(str(refusal)))
    except TimeoutError:
        says = f"Reading took longer than {LONGEST_READING_S / 60:.0f} minutes and was given up."
        await _update(database, take_in_id, state="failed", says=says)
    except Exception as exc:
        # Whatever a stranger's site can make go wrong ends its own reading, and nothing else.
        says = f"Reading ended at something that it does not understand: {type(exc).__name__}: {exc}"
        await _update(database, take_in_id, state="failed", says=plain(says))
        log.error("reading_failed", take_in=str(take_in_id), says=plain(repr(exc)))


def plain(says: str) -> str:
    """What strangers' pages made us say, as text that can be kept and shown."""
    return tidy_words(says.encode("utf-8", "replace").decode())


async def _read(database: Database, fetcher: Fetcher, take_in_id: UUID, url: str) -> None:
    told = 0.0

    async def progress(doing: str, done: int, of: int | None) -> None:
        nonlocal told
        # Told at most three times a second: it is for eyes.
        if time.monotonic() - told > 0.33:
            told = time.monotonic()
            await _update(database, take_in_id, progress={"doing": doing, "done": done, "of": of})

    found = await read_site(fetcher, url, progress=progress)
    proposal = await asyncio.to_thread(found.model_dump, mode="json", by_alias=True)
    await _update(
        database, take_in_id, state="ready", proposal=proposal,
        progress={"doing": "read", "done": len(found.pages), "of": len(found.pages)},
    )  # fmt: skip


async def look(database: Database, person: Person, take_in_id: UUID) -> TakeInRow:
    require(person, "look", f"take-ins/{take_in_id}")
    async with database.transaction() as session:
        return await _row(session, take_in_id)


async def confirm(
    database: Database, fetcher: Fetcher, person: Person, take_in_id: UUID, settled: Confirmation, now: datetime
) -> str:
    """Keeps the site with its pages, template, menus and placements. Its key; again the same when asked again. A signing key
    is tried first: Raises Refusal where the site does not know it."""
    require(person, "take in", f"take-ins/{take_in_id}")
    async with database.transaction() as session:
        row = await _row(session, take_in_id)
    if row.state == "ready" and settled.secret is not None:
        found = read(ReadSite, row.proposal)
        place = next(iter(found.template.locations), None)
        if found.connection == "endpoint" and found.endpoint is not None and place is not None:
            await connect.try_secret(fetcher, found.endpoint, (place.key, place.devices[-1]), settled.secret, now)
    async with database.transaction() as session:
        row = await _row(session, take_in_id, lock=True)
        if row.state == "confirmed":
            site = await session.get(SiteRow, row.site_id)
            assert site is not None
            return site.key
        if row.state != "ready":
            raise Clash("The site has not been read yet.", where=f"take-ins/{take_in_id}", remedy="Wait until it has.")
        proposal = read(ReadSite, row.proposal)
        site = await keep_site(session, database.seals, proposal, settled, person.id, now)
        row.state, row.site_id = "confirmed", site.id
        session.add(row)
        return site.key


async def keep_site(
    session: Session, seals: Seals, proposal: ReadSite, settled: Confirmation, person_id: UUID | None, now: datetime
) -> SiteRow:
    facts = Particulars(
        key=settled.key or proposal.key,
        name=settled.name or proposal.name,
        base=proposal.url,
        zone=settled.zone or proposal.zone,
        languages=settled.languages or proposal.languages,
        policy=settled.policy,
        can=proposal.can,
        seen_at=proposal.seen_at,
    )
    if clash := await sites.site_clash(session, facts.key, facts.base):
        same = f'the key "{facts.key}"' if clash.key == facts.key else f"the address {facts.base}"
        raise Clash(f"{clash.name} has {same} already.", where="key", remedy="Choose another key, or open that site.")
    await sites.keep_template(session, proposal.template)
    wanted = set(settled.menus) if settled.menus is not None else {menu.key for menu in proposal.menus}
    documents = {menu.key: menu.document for menu in proposal.menus if menu.key in wanted}
    trees = {key: await menus.keep_tree(session, document) for key, document in documents.items()}
    placements = tuple(one for one in proposal.placements if one.menu in trees)
    arrangement = Arrangement(
        template=TemplateVersion(key=proposal.template.key, version=proposal.template.version), placements=placements
    ).knowing(settled.facts)
    # What was read from the site is what is live there.
    site = SiteRow(
        key=facts.key,
        name=facts.name,
        base=facts.base,
        particulars=facts.to_json(),
        connection=proposal.connection,
        endpoint=proposal.endpoint,
        live_state=await states.keep_state(session, arrangement, trees),
        live_since=now,
        created_at=now,
    )
    session.add(site)
    await session.flush()
    if settled.secret is not None:
        await keys.keep_key(session, seals, site.id, "signing", settled.secret, now=now, old_until=now)
    await sites.add_pages(session, site.id, proposal.pages)
    for key, hash in trees.items():
        await menus.add_revision(session, site.id, key, hash, parent=None, author_id=None, change_id=None, at=now)
    for placement in placements:
        etag = proposal.etags.get(f"{placement.location}/{placement.device}")
        if etag and placement.menu is not None:
            placed = placed_menu(
                placement.location, placement.device, documents[placement.menu], proposal.pages, documents
            )
            await sites.saw_live(
                session, site.id, placement.location, placement.device,
                hash=content_hash(placed), etag=etag, at=now,
            )  # fmt: skip
    says = f"Took in {facts.name}: {len(proposal.pages)} pages, {len(trees)} menus"
    ledger.write(session, "take in", says, at=now, person_id=person_id, site_id=site.id, base=facts.base)
    return site


async def _row(session: Session, take_in_id: UUID, *, lock: bool = False) -> TakeInRow:
    row = await take_ins.take_in_by_id(session, take_in_id, lock=lock)
    if row is None:
        raise NotFound("There is no such take-in.", where=f"take-ins/{take_in_id}")
    return row


async def _update(database: Database, take_in_id: UUID, **fields: Any) -> None:
    async with database.transaction() as session:
        row = await _row(session, take_in_id, lock=True)
        for name, value in fields.items():
            setattr(row, name, value)
        session.add(row)

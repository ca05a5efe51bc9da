"""Addresses that menus lead to: which, what stands of each, and who asks which host."""

from collections.abc import Iterable, Sequence
from dataclasses import asdict, dataclass
from datetime import datetime, timedelta
from typing import cast
from uuid import UUID

from sqlalchemy import delete, exists, text, update
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, select

from sign_shelf.core.links import Hop, Known, LinkFinding, Verdict
from sign_shelf.store.database import Session
from sign_shelf.store.tables import LinkHostRow, LinkRow, LinkVerdictRow, SiteLinkRow

AT_ONCE = 1_000


def known(row: LinkRow) -> Known:
    hops = tuple(Hop(str(one["address"]), one["status"]) for one in row.hops)
    found = LinkFinding(cast(Verdict, row.verdict), hops, row.says) if row.verdict is not None else None
    return Known(found, row.since, row.suspect, row.fails)


async def put_links(
    session: Session, site_id: UUID, addresses: Iterable[tuple[str, str]], *, ours: frozenset[str], now: datetime
) -> None:
    """These, each with its host, are what the site's menus lead to; what is new is due at once. In the order of addresses,
    so that two sites that have the same never wait for each other in a circle."""
    wanted = sorted(set(addresses))
    for begin in range(0, len(wanted), AT_ONCE):
        rows = [
            {
                "address": address,
                "host": host,
                "ours": host in ours,
                "hops": [],
                "says": "",
                "suspect": False,
                "fails": 0,
                "due_at": now,
            }
            for address, host in wanted[begin : begin + AT_ONCE]
        ]
        new = insert(LinkRow).values(rows)
        mine = new.on_conflict_do_update(
            index_elements=["address"], set_={"ours": new.excluded.ours}, where=new.excluded.ours & ~col(LinkRow.ours)
        )
        await session.exec(mine)
        own = [{"site_id": site_id, "address": row["address"]} for row in rows]
        await session.exec(insert(SiteLinkRow).values(own).on_conflict_do_nothing())
    kept = [address for address, _ in wanted]
    gone = delete(SiteLinkRow).where(col(SiteLinkRow.site_id) == site_id, col(SiteLinkRow.address).not_in(kept))
    await session.exec(gone)


async def links_of(session: Session, site_id: UUID) -> dict[str, LinkFinding]:
    """What stands of the addresses that the site's menus lead to, as far as they were asked."""
    query = select(LinkRow).join(SiteLinkRow, col(SiteLinkRow.address) == LinkRow.address)
    rows = await session.exec(query.where(SiteLinkRow.site_id == site_id, col(LinkRow.verdict).is_not(None)))
    return {row.address: found for row in rows if (found := known(row).found) is not None}


@dataclass(frozen=True)
class Asked:
    """How far the asking of addresses is."""

    addresses: int
    due: int
    asked_at: datetime | None


async def asked(session: Session, site_ids: Iterable[UUID], now: datetime) -> Asked:
    """Of all that these sites lead to, each address once."""
    row = (await (await session.connection()).execute(_ASKED, {"sites": list(site_ids), "now": now})).one()
    return Asked(row.addresses, row.due, row.asked_at)


_ASKED = text(
    "SELECT count(*) AS addresses, count(*) FILTER (WHERE due_at <= :now) AS due, max(asked_at) AS asked_at FROM link"
    " WHERE EXISTS (SELECT 1 FROM site_link WHERE site_link.address = link.address AND site_link.site_id = ANY (:sites))"
)


async def ask_again(session: Session, site_ids: Iterable[UUID], now: datetime) -> None:
    """All addresses of these sites are due now."""
    theirs = select(SiteLinkRow.address).where(col(SiteLinkRow.site_id).in_(list(site_ids)))
    later = update(LinkRow).where(col(LinkRow.address).in_(theirs), col(LinkRow.due_at) > now)
    await session.exec(later.values(due_at=now))


async def hold_hosts(session: Session, by: UUID, now: datetime, hold: timedelta, limit: int) -> list[str]:
    """Hosts with addresses that are due and that nobody else asks; they are this worker's until the hold ends."""
    found = await (await session.connection()).execute(
        _HOLD, {"now": now, "by": by, "until": now + hold, "limit": limit}
    )
    return [str(row.host) for row in found]


_HOLD = text(
    """
    INSERT INTO link_host (host, held_by, held_until)
    SELECT DISTINCT link.host, CAST(:by AS uuid), CAST(:until AS timestamptz) FROM link
    LEFT JOIN link_host held ON held.host = link.host AND held.held_until > :now
    WHERE link.due_at <= :now AND held.host IS NULL
      AND EXISTS (SELECT 1 FROM site_link WHERE site_link.address = link.address)
    ORDER BY link.host LIMIT :limit
    ON CONFLICT (host) DO UPDATE SET held_by = excluded.held_by, held_until = excluded.held_until
      WHERE link_host.held_until <= :now
    RETURNING host
    """
)


async def still_hold(session: Session, host: str, by: UUID, until: datetime) -> bool:
    """Whether the host is still this worker's, which then has it longer."""
    mine = update(LinkHostRow).where(col(LinkHostRow.host) == host, col(LinkHostRow.held_by) == by)
    done = await session.exec(mine.values(held_until=until))
    return bool(done.rowcount)


async def let_go(session: Session, hosts: Iterable[str], by: UUID) -> None:
    await session.exec(
        delete(LinkHostRow).where(col(LinkHostRow.host).in_(list(hosts)), col(LinkHostRow.held_by) == by)
    )


async def due(session: Session, host: str, now: datetime, limit: int) -> Sequence[LinkRow]:
    """Those that have waited longest first. What no menu leads to any more is not asked."""
    led_to = exists().where(col(SiteLinkRow.address) == LinkRow.address)
    query = select(LinkRow).where(LinkRow.host == host, col(LinkRow.due_at) <= now, led_to)
    return list(await session.exec(query.order_by(col(LinkRow.due_at), LinkRow.address).limit(limit)))


async def put_answers(session: Session, answers: Iterable[tuple[str, Known, Known, datetime]], now: datetime) -> None:
    """What stood and what stands of each address, and when it is due; a change of verdict is kept for good."""
    for address, before, stands, due_at in sorted(answers, key=lambda one: one[0]):
        found = stands.found
        hops = [asdict(hop) for hop in found.hops] if found is not None else []
        values = {
            "verdict": found.verdict if found is not None else None, "hops": hops, "says": found.says if found else "",
            "since": stands.since, "asked_at": now, "suspect": stands.suspect, "fails": stands.fails, "due_at": due_at,
        }  # fmt: skip
        await session.exec(update(LinkRow).where(col(LinkRow.address) == address).values(values))
        stood = before.found.verdict if before.found is not None else None
        if found is not None and found.verdict != stood:
            session.add(LinkVerdictRow(address=address, at=now, verdict=found.verdict, says=found.says, hops=hops))


async def history(session: Session, address: str, limit: int = 50) -> Sequence[LinkVerdictRow]:
    """The newest first."""
    query = select(LinkVerdictRow).where(LinkVerdictRow.address == address)
    return list(
        await session.exec(query.order_by(col(LinkVerdictRow.at).desc(), col(LinkVerdictRow.id).desc()).limit(limit))
    )


async def link(session: Session, address: str) -> LinkRow | None:
    return (await session.exec(select(LinkRow).where(LinkRow.address == address))).first()

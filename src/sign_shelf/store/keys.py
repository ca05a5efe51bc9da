"""The keys of sites: what we sign with, what a site shows when it asks, what it signs visitors' facts with.

A key that was replaced counts until its time is over, so that both sides need not change in the same second.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Literal
from uuid import UUID

from pydantic import SecretStr
from sqlalchemy import update
from sqlmodel import col, or_, select

from sign_shelf.store.database import Session
from sign_shelf.store.seals import Purpose, Seals, notice_channel, repository, second_factor, site_key
from sign_shelf.store.tables import ChannelRow, RepositoryRow, SecondFactorRow, SiteKeyRow

KeyKind = Literal["signing", "delivery", "facts"]


@dataclass(frozen=True)
class SiteKey:
    kind: KeyKind
    secret: SecretStr
    made_at: datetime
    until: datetime | None
    """None for the one that counts from now on."""


async def keys_of(
    session: Session, seals: Seals, site_id: UUID, kinds: Iterable[KeyKind], now: datetime
) -> list[SiteKey]:
    """Those that count now, the newest first."""
    query = select(SiteKeyRow).where(
        SiteKeyRow.site_id == site_id,
        col(SiteKeyRow.kind).in_(list(kinds)),
        or_(col(SiteKeyRow.until).is_(None), col(SiteKeyRow.until) > now),
    )
    rows = await session.exec(query.order_by(col(SiteKeyRow.id).desc()))
    return [
        SiteKey(row.kind, seals.open(row.sealed, _purpose(row)), row.made_at, row.until)  # type: ignore[arg-type]
        for row in rows
    ]


async def has_key(session: Session, site_id: UUID, kind: KeyKind) -> bool:
    query = select(SiteKeyRow.id).where(
        SiteKeyRow.site_id == site_id, SiteKeyRow.kind == kind, col(SiteKeyRow.until).is_(None)
    )
    return (await session.exec(query.limit(1))).first() is not None


async def made(session: Session, site_id: UUID) -> list[SiteKeyRow]:
    """Every key of the site that counts or counted, the newest first."""
    query = select(SiteKeyRow).where(SiteKeyRow.site_id == site_id).order_by(col(SiteKeyRow.id).desc())
    return list(await session.exec(query))


async def keep_key(
    session: Session,
    seals: Seals,
    site_id: UUID,
    kind: KeyKind,
    secret: SecretStr,
    *,
    now: datetime,
    old_until: datetime,
) -> None:
    """The key from now on; the one before counts until `old_until`, and none that was replaced earlier any more."""
    mine = (col(SiteKeyRow.site_id) == site_id, col(SiteKeyRow.kind) == kind)
    await session.exec(update(SiteKeyRow).where(*mine, col(SiteKeyRow.until) > now).values(until=now))
    await session.exec(update(SiteKeyRow).where(*mine, col(SiteKeyRow.until).is_(None)).values(until=old_until))
    session.add(SiteKeyRow(site_id=site_id, kind=kind, sealed=seals.seal(secret, site_key(site_id, kind)), made_at=now))
    await session.flush()


async def seal_anew(session: Session, seals: Seals) -> int:
    """Seals every key, what webhooks are signed with, what authenticators count with, and where repositories are, with the first of the seals' keys; how many."""
    keys = await session.exec(select(SiteKeyRow).with_for_update())
    signing = await session.exec(select(ChannelRow).where(ChannelRow.sealed != "").with_for_update())
    factors = await session.exec(select(SecondFactorRow).with_for_update())
    remotes = await session.exec(select(RepositoryRow).with_for_update())
    rows: list[Sealed] = [*keys, *signing, *factors, *remotes]
    for row in rows:
        row.sealed = seals.seal_anew(row.sealed, _purpose(row))
        session.add(row)
    return len(rows)


Sealed = SiteKeyRow | ChannelRow | SecondFactorRow | RepositoryRow


def _purpose(row: Sealed) -> Purpose:
    match row:
        case SiteKeyRow():
            return site_key(row.site_id, row.kind)
        case ChannelRow():
            return notice_channel(row.id)
        case SecondFactorRow():
            return second_factor(row.person_id)
        case RepositoryRow():
            return repository(row.site_id)

"""What checks found on sites as they are live, since when, and who sees to it."""

from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import text, update
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, select

from sign_shelf.core.checks import Finding
from sign_shelf.store.database import Session
from sign_shelf.store.tables import CareRow, FindingRow

Line = tuple[str, str]
"""A code and a cause: what is seen to as one, wherever it is found."""


def line_of(finding: Finding, site: str) -> Line:
    """Addresses, hosts and shared menus are the same on all sites; every other cause is one of the site's own."""
    cause = finding.cause or finding.fingerprint()
    return finding.code, cause if cause.startswith(("address ", "host ", "shared ")) else f"{site}: {cause}"


async def keep(session: Session, site_id: UUID, site: str, found: Iterable[Finding], now: datetime) -> None:
    """These are what the site has now: what it had before stays as old as it is, what went and came back begins anew."""
    mine = {one.fingerprint(): one for one in found}
    rows = {row.fingerprint: row for row in await session.exec(select(FindingRow).where(FindingRow.site_id == site_id))}
    new = []
    for name, one in mine.items():
        row = rows.get(name)
        if row is None:
            code, cause = line_of(one, site)
            new.append({
                "site_id": site_id, "fingerprint": name, "code": code, "severity": one.severity, "cause": cause, "menu": one.menu,
                "item": one.item, "found": one.to_json(), "since": now, "gone_at": None, "back": 0,
            })  # fmt: skip
            continue
        told = one.to_json()
        if row.gone_at is not None:
            row.gone_at, row.since, row.back = None, now, row.back + 1
        if row.found != told or row.severity != one.severity:
            row.found, row.severity = told, one.severity
        session.add(row)
    for begin in range(0, len(new), 1_000):
        await session.exec(insert(FindingRow).values(new[begin : begin + 1_000]))
    gone = [name for name, row in rows.items() if name not in mine and row.gone_at is None]
    if gone:
        these = update(FindingRow).where(col(FindingRow.site_id) == site_id, col(FindingRow.fingerprint).in_(gone))
        await session.exec(these.values(gone_at=now))


async def findings(
    session: Session, site_ids: Iterable[UUID], *, gone_since: datetime | None = None
) -> Sequence[FindingRow]:
    """What these sites have; with `gone_since` what went since then instead."""
    query = select(FindingRow).where(col(FindingRow.site_id).in_(list(site_ids)))
    if gone_since is None:
        query = query.where(col(FindingRow.gone_at).is_(None))
    else:
        query = query.where(col(FindingRow.gone_at) >= gone_since)
    return list(await session.exec(query.order_by(FindingRow.code, FindingRow.cause, col(FindingRow.since))))


async def line(session: Session, site_ids: Iterable[UUID], code: str, cause: str) -> Sequence[FindingRow]:
    query = select(FindingRow).where(col(FindingRow.site_id).in_(list(site_ids)), FindingRow.code == code)
    query = query.where(FindingRow.cause == cause, col(FindingRow.gone_at).is_(None))
    return list(await session.exec(query.order_by(FindingRow.site_id, FindingRow.menu, FindingRow.fingerprint)))  # type: ignore[arg-type]


async def counts(session: Session, today: str) -> Mapping[str, Mapping[str, int]]:
    """How many causes of each severity each site has, by its key; what is waived is left out."""
    found: dict[str, dict[str, int]] = {}
    for key, severity, number in await (await session.connection()).execute(_COUNTS, {"today": today}):
        found.setdefault(key, {})[severity] = number
    return found


_COUNTS = text(
    """
    SELECT site.key, finding.severity, count(DISTINCT (finding.code, finding.cause)) FROM finding
    JOIN site ON site.id = finding.site_id AND site.archived_at IS NULL
    LEFT JOIN care ON care.site_id = finding.site_id AND care.code = finding.code AND care.cause = finding.cause
    WHERE finding.gone_at IS NULL
      AND (care.waived_at IS NULL OR (care.waived_until IS NOT NULL AND care.waived_until < :today))
    GROUP BY site.key, finding.severity
    """
)


async def cared_for(session: Session, site_ids: Iterable[UUID]) -> dict[tuple[UUID, str, str], CareRow]:
    rows = await session.exec(select(CareRow).where(col(CareRow.site_id).in_(list(site_ids))))
    return {(row.site_id, row.code, row.cause): row for row in rows}


async def care(session: Session, site_ids: Iterable[UUID], line: Line, values: Mapping[str, Any]) -> None:
    """These of its fields are so from now on, at each of the sites."""
    for site_id in sorted(site_ids):
        row = {"site_id": site_id, "code": line[0], "cause": line[1], "reason": ""} | dict(values)
        done = insert(CareRow).values(row)
        await session.exec(done.on_conflict_do_update(index_elements=["site_id", "code", "cause"], set_=dict(values)))

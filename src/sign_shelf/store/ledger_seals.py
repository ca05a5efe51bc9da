"""Sealing the ledger's lines, and checking that they are what was sealed.

Lines are sealed shortly after they were written, by one worker at a time: whoever writes waits for nobody. A line is
sealed in the order in which it is come upon, which is that of its number but where transactions overlap.
"""

from dataclasses import dataclass

from pydantic import JsonValue
from sqlmodel import col, func, select

from sign_shelf.core.basics.chain import BEGINNING, sealed
from sign_shelf.store.database import Session
from sign_shelf.store.tables import LedgerRow, LedgerSealRow

AT_ONCE = 2_000
OVERLAP = 10_000
"""A transaction that ends late may bring lines that are so many behind the newest that is sealed, and no more are looked through."""


@dataclass(frozen=True, kw_only=True)
class Checked:
    """`lines` were sealed and are as they were. `broken`: what is wrong with the first that is not. `waiting` are not sealed yet.
    `last` is the seal of the last line that is right: who keeps it elsewhere can tell later that nothing before it was written anew."""

    lines: int
    waiting: int
    last: str
    broken: str | None


def _told(row: LedgerRow) -> dict[str, JsonValue]:
    return {
        "id": row.id, "at": row.at.isoformat(), "person": str(row.person_id) if row.person_id else None,
        "site": str(row.site_id) if row.site_id else None, "action": row.action, "says": row.says, "detail": row.detail,
    }  # fmt: skip


async def seal(session: Session) -> int:
    """Lines that were not sealed yet, a stretch of them. How many; for one at a time."""
    last = (await session.exec(select(LedgerSealRow).order_by(col(LedgerSealRow.position).desc()).limit(1))).first()
    position, before = (last.position, last.hash) if last is not None else (0, BEGINNING)
    newest = (await session.exec(select(func.max(LedgerSealRow.line)))).one() or 0
    rows = await session.exec(
        select(LedgerRow)
        .outerjoin(LedgerSealRow, col(LedgerSealRow.line) == LedgerRow.id)
        .where(col(LedgerSealRow.line).is_(None), col(LedgerRow.id) > newest - OVERLAP)
        .order_by(col(LedgerRow.id))
        .limit(AT_ONCE)
    )
    count = 0
    for row in rows:
        position, before, count = position + 1, sealed(before, _told(row)), count + 1
        session.add(LedgerSealRow(position=position, line=row.id or 0, hash=before))
    await session.flush()
    return count


async def check(session: Session) -> Checked:
    """From the first line on, up to the first that is not what was sealed."""
    before, right = BEGINNING, 0
    while True:
        query = (
            select(LedgerSealRow, LedgerRow)
            .outerjoin(LedgerRow, col(LedgerRow.id) == LedgerSealRow.line)
            .where(col(LedgerSealRow.position) > right)
            .order_by(col(LedgerSealRow.position))
            .limit(AT_ONCE)
        )
        pairs = list(await session.exec(query))
        for seal_, line in pairs:
            says = _wrong(seal_, line, right + 1, before)
            if says is not None:
                return Checked(lines=right, waiting=0, last=before, broken=says)
            before, right = seal_.hash, right + 1
        session.expunge_all()
        if len(pairs) < AT_ONCE:
            break
    every = (await session.exec(select(func.count()).select_from(LedgerRow))).one()
    return Checked(lines=right, waiting=every - right, last=before, broken=None)


def _wrong(seal_: LedgerSealRow, line: LedgerRow | None, position: int, before: str) -> str | None:
    if seal_.position != position:
        return f"The seal {position} is gone."
    if line is None:
        return f"Line {seal_.line} is gone: it was sealed as the {position}."
    if sealed(before, _told(line)) != seal_.hash:
        return f"Line {line.id} of {line.at:%-d %b %Y %H:%M} is not what was written: {line.says[:200]}"
    return None

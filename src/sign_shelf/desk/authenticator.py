"""Whether a code counts beside a password: one that the authenticator shows now (RFC 6238), or a spare one."""

import secrets
from datetime import datetime
from hashlib import sha256
from uuid import UUID

import pyotp

from sign_shelf.core.errors import NotAllowed
from sign_shelf.store.database import Session
from sign_shelf.store.seals import Seals, second_factor
from sign_shelf.store.tables import SecondFactorRow

STEP_S = 30
_CLOCKS_DIFFER = 1
"""Steps by which an authenticator's clock may be off."""


class CodeWanted(NotAllowed):
    """The password is right, and a code is wanted beside it."""

    code = "second-factor"

    def __init__(self) -> None:
        super().__init__("Write the code that your authenticator shows.", where="code",
                         remedy="Where you have lost it, one of your spare codes.")  # fmt: skip


class WrongCode(NotAllowed):
    code = "wrong-code"

    def __init__(self) -> None:
        super().__init__("That code does not count.", where="code",
                         remedy="Wait for the next one that your authenticator shows; see that its clock is right.")  # fmt: skip


async def is_on(session: Session, person_id: UUID) -> bool:
    row = await session.get(SecondFactorRow, person_id)
    return row is not None and row.since is not None


async def takes(seals: Seals, session: Session, person_id: UUID, code: str, now: datetime) -> bool:
    """Whether the code counts; then it does so this once."""
    row = await session.get(SecondFactorRow, person_id, with_for_update=True)
    if row is None or row.since is None:
        return False
    step = step_of(seals, row, code, now)
    if step is not None and step > row.last_step:
        row.last_step = step
    elif (spare := hashed(code)) in row.spare:
        row.spare = [one for one in row.spare if one != spare]
    else:
        return False
    session.add(row)
    return True


def step_of(seals: Seals, row: SecondFactorRow, code: str, now: datetime) -> int | None:
    """The step at which the authenticator shows this code, of those around now."""
    wanted = "".join(code.split())
    if len(wanted) != 6 or not (wanted.isascii() and wanted.isdecimal()):
        return None
    counts = pyotp.TOTP(seals.open(row.sealed, second_factor(row.person_id)).get_secret_value(), interval=STEP_S)
    at = int(now.timestamp()) // STEP_S
    near = range(at - _CLOCKS_DIFFER, at + _CLOCKS_DIFFER + 1)
    return next((step for step in near if secrets.compare_digest(counts.generate_otp(step), wanted)), None)


def hashed(spare: str) -> str:
    """Ten random hexadecimal digits need no slow hash: there are 2^40 of them, and the tries are counted."""
    return sha256("".join(spare.split()).lower().encode("utf-8", "replace")).hexdigest()

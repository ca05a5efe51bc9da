"""What a password must be, and how it is kept (Argon2id, RFC 9106)."""

import asyncio
import secrets
from functools import cache

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerifyMismatchError
from zxcvbn import zxcvbn

from sign_shelf.core.errors import Refusal
from sign_shelf.settings import PasswordCost

SHORTEST, LONGEST = 12, 200
_LOOKED_AT = 72
"""Signs that are estimated: what is hard to guess does not get easier by more of it."""
_HARD_ENOUGH = 3
"""The estimate's step from which guessing takes over a hundred million tries."""


async def checked_password(password: str, *about: str) -> str:
    """The password. Raises Refusal for one that is too short, too long, common, or made of words `about` the person."""
    if len(password) < SHORTEST:
        raise Refusal(
            f"The password has {len(password)} signs.", where="password",
            remedy=f"Take one of at least {SHORTEST}; a few words in a row are easy to remember.",
        )  # fmt: skip
    if len(password) > LONGEST:
        raise Refusal(
            f"The password has {len(password)} signs.", where="password", remedy=f"Take one of at most {LONGEST}."
        )
    words = [word for one in about for word in (one, *one.split())]
    found = await asyncio.to_thread(zxcvbn, password[:_LOOKED_AT], user_inputs=words)
    if found["score"] < _HARD_ENOUGH:
        why = str(found["feedback"]["warning"] or "It is too easy to guess.").rstrip(".")
        raise Refusal(
            f"{why}.", where="password", remedy="Take another one; a few words in a row are easy to remember."
        )
    return password


@cache
def _hasher() -> PasswordHasher:
    cost = PasswordCost()
    return PasswordHasher(time_cost=cost.passes, memory_cost=cost.memory_kib, parallelism=cost.lanes)


@cache
def _hash_of_nobody() -> str:
    return _hasher().hash(secrets.token_hex(16))


async def hashed(password: str) -> str:
    return await asyncio.to_thread(_hasher().hash, password)


async def matches(hash_: str | None, password: str) -> bool:
    """Whether the password is the one of the hash. Takes as long where there is no account: the time tells nobody which accounts exist."""
    # The first sign-in makes it, whether its account exists or not.
    nobody = await asyncio.to_thread(_hash_of_nobody)
    return await asyncio.to_thread(_verified, hash_ or nobody, password[:LONGEST])


def _verified(hash_: str, password: str) -> bool:
    try:
        return _hasher().verify(hash_, password)
    except (VerifyMismatchError, InvalidHashError):
        return False

"""Facts of a visitor that a site vouches for: a JSON Web Token (RFC 7519) signed with the site's facts key (HS256).

Its claim `facts` is an object of facts, `exp` says until when they hold. A visitor cannot sign: what is not signed, signed
with another key, over or not of the facts' types counts as not supplied.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

import jwt
from pydantic import SecretStr

from sign_shelf.core.model.facts import COMPUTED, FactType, FactValue, Visitor, fitting

LONGEST = 4_000
_NEVER = 253_402_300_800.0
"""The year 10000, in seconds since 1970."""
_ALGORITHM = "HS256"


@dataclass(frozen=True, slots=True)
class Vouched:
    facts: Visitor
    until: float | None
    """Seconds since 1970 at which they stop holding."""


NOTHING = Vouched({}, None)


def vouched(token: str, key: SecretStr, declared: Mapping[str, FactType], now: datetime) -> Vouched:
    """The facts of the token that count now."""
    if not token or len(token) > LONGEST:
        return NOTHING
    try:
        claims = jwt.decode(
            token, key.get_secret_value(), algorithms=[_ALGORITHM], options={"verify_exp": False, "verify_aud": False}
        )
    except (jwt.PyJWTError, ValueError):
        return NOTHING
    given, until = claims.get("facts"), claims.get("exp")
    if not isinstance(given, dict) or isinstance(until, bool) or not isinstance(until, int | float | None):
        return NOTHING
    # Any number may stand there, also one that is none of a time.
    if until is not None and not now.timestamp() < until < _NEVER:
        return NOTHING
    facts = fitting({name: value for name, value in given.items() if name not in COMPUTED}, declared)
    return Vouched(facts, float(until) if until is not None else None)


def signed(facts: Mapping[str, FactValue], key: SecretStr, *, until: datetime | None = None) -> str:
    """A token as a site makes one."""
    claims = {"facts": {name: list(one) if isinstance(one, tuple) else one for name, one in facts.items()}}
    return jwt.encode(
        {**claims, **({"exp": int(until.timestamp())} if until else {})}, key.get_secret_value(), algorithm=_ALGORITHM
    )

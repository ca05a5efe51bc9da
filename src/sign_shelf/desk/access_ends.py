"""What ends when: the one place that ends sign-ins, programs' tokens, known browsers and feed addresses (the table in docs/roles.md)."""

from typing import Final, Literal
from uuid import UUID

from pydantic import SecretStr

from sign_shelf.desk.sign_in import token_hash
from sign_shelf.store import feeds, people
from sign_shelf.store.database import Session

Event = Literal["password changed", "password reset", "account disabled", "sign-ins ended", "second factor on"]
FORGETS_BROWSERS: Final[frozenset[Event]] = frozenset({"password reset", "account disabled", "second factor on"})
"""After these, each browser is a new one to the account: it gets a notice, and its wrong passwords count for all."""


async def end_access(session: Session, person_id: UUID, event: Event, *, but: SecretStr | None = None) -> int:
    """Ends every sign-in and token of the person, all `but` the one with this token, and the address of their feeds. How many
    sign-ins and tokens ended."""
    ended = await people.end_sign_ins(session, person_id, but=token_hash(but) if but is not None else None)
    await feeds.forget(session, person_id)
    if event in FORGETS_BROWSERS:
        await people.forget_browsers(session, person_id)
    return ended

"""Signing in by an identity provider of the agency's: who is known to it, who was invited, who has an account of that address."""

from datetime import datetime, timedelta

from sign_shelf.core.errors import NotAllowed
from sign_shelf.desk.invitations import taken_up_elsewhere
from sign_shelf.desk.sign_in import Asked, SignedIn, signed_in
from sign_shelf.outside.identity_provider import VouchedFor
from sign_shelf.store import ledger, people
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import IdentityRow, PersonRow


async def sign_in_vouched_for(
    database: Database, found: VouchedFor, *, asked: Asked, now: datetime, lasts: timedelta
) -> SignedIn:
    """Raises NotAllowed where nobody here is meant. The first time, who has an account of the verified address is."""
    async with database.transaction() as session:
        row = await people.person_known_as(session, found.issuer, found.subject)
        if row is None and found.email:
            row = await people.person_by_email(session, found.email)
            row = row or await taken_up_elsewhere(session, found.email, found.name, now)
            if row is not None:
                _know(session, row, found, now)
        if row is None or row.disabled_at is not None:
            raise NotAllowed(
                f"Nobody here has the address {found.email}." if found.email and row is None else "You may not sign in here.",
                remedy="Ask an owner of the agency for an invitation.",
            )  # fmt: skip
        return await signed_in(session, row, asked=asked, known=False, now=now, lasts=lasts)


def _know(session: Session, row: PersonRow, found: VouchedFor, now: datetime) -> None:
    session.add(IdentityRow(issuer=found.issuer, subject=found.subject, person_id=row.id, since=now))
    ledger.write(session, "account", f"{row.name} signs in by {found.issuer} as well", at=now, person_id=row.id)

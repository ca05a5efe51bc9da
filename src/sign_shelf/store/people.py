"""People and their sign-ins."""

from collections.abc import Mapping
from datetime import datetime, timedelta
from uuid import UUID

from sqlalchemy import JSON, ColumnElement, delete, func, literal_column, text
from sqlmodel import col, select

from sign_shelf.store.database import Session
from sign_shelf.store.tables import (
    IdentityRow,
    KnownBrowserRow,
    MembershipRow,
    PersonRow,
    SecondFactorRow,
    SessionRow,
    SiteRow,
    TryRow,
)


async def person_by_email(session: Session, email: str) -> PersonRow | None:
    return (await session.exec(select(PersonRow).where(PersonRow.email == email.strip().lower()))).first()


async def people_by_id(session: Session, ids: set[UUID]) -> dict[UUID, PersonRow]:
    rows = await session.exec(select(PersonRow).where(col(PersonRow.id).in_(ids)))
    return {row.id: row for row in rows}


async def person_by_id(session: Session, person_id: UUID, *, lock: bool = False) -> PersonRow | None:
    return await session.get(PersonRow, person_id, with_for_update=lock or None)


async def everybody(session: Session) -> list[PersonRow]:
    return list(await session.exec(select(PersonRow).order_by(PersonRow.name)))


async def sign_in_of_token(
    session: Session, token_hash: str, now: datetime
) -> tuple[SessionRow, PersonRow, Mapping[str, str]] | None:
    """The sign-in with the token, whose it is, and their roles at single sites; None where it is unknown or over, or the person is disabled."""
    query = (
        select(SessionRow, PersonRow, _AT_SITES)
        .join(PersonRow, col(SessionRow.person_id) == PersonRow.id)
        .where(
            SessionRow.token_hash == token_hash,
            col(SessionRow.expires_at) > now,
            col(PersonRow.disabled_at).is_(None),
        )
    )
    found = (await session.exec(query)).first()
    return (found[0], found[1], found[2] or {}) if found is not None else None


# A view (migration 0022): the role that was given at the site, else that of a team.
_AT_SITES: ColumnElement[dict[str, str] | None] = literal_column(
    """
    (SELECT json_object_agg(key, role) FROM role_at_site WHERE role_at_site.person_id = person.id)
    """,
    JSON,
)


async def roles_at_sites(session: Session) -> dict[UUID, dict[str, str]]:
    """By person and site's key, where it is another than everywhere: given there, or to a team of theirs."""
    rows = await (await session.connection()).execute(text("SELECT person_id, key, role FROM role_at_site"))
    found: dict[UUID, dict[str, str]] = {}
    for row in rows:
        found.setdefault(row.person_id, {})[row.key] = row.role
    return found


async def given_at_sites(session: Session) -> dict[UUID, dict[str, str]]:
    """By person and site's key: the roles that were given at single sites."""
    query = select(MembershipRow, SiteRow.key).join(SiteRow, col(SiteRow.id) == MembershipRow.site_id)
    found: dict[UUID, dict[str, str]] = {}
    for row, key in await session.exec(query.order_by(SiteRow.key)):
        found.setdefault(row.person_id, {})[key] = row.role
    return found


async def roles_of(session: Session, person_id: UUID) -> dict[str, str]:
    """The person's roles at single sites, by the sites' keys."""
    return (await roles_at_sites(session)).get(person_id, {})


async def give_role(session: Session, person_id: UUID, site_id: UUID, role: str | None) -> None:
    """The person's role at the site; None: the one that they have everywhere."""
    gone = delete(MembershipRow).where(col(MembershipRow.person_id) == person_id, col(MembershipRow.site_id) == site_id)
    await session.exec(gone)
    if role is not None:
        session.add(MembershipRow(person_id=person_id, site_id=site_id, role=role))
        await session.flush()


async def with_second_factor(session: Session) -> set[UUID]:
    query = select(SecondFactorRow.person_id).where(col(SecondFactorRow.since).is_not(None))
    return set(await session.exec(query))


async def person_known_as(session: Session, issuer: str, subject: str) -> PersonRow | None:
    """Whom an identity provider knows by this."""
    query = select(PersonRow).join(IdentityRow, col(IdentityRow.person_id) == PersonRow.id)
    return (await session.exec(query.where(IdentityRow.issuer == issuer, IdentityRow.subject == subject))).first()


async def sign_ins_of(session: Session, person_id: UUID, now: datetime) -> list[SessionRow]:
    query = select(SessionRow).where(SessionRow.person_id == person_id, col(SessionRow.expires_at) > now)
    return list(await session.exec(query.order_by(col(SessionRow.created_at).desc())))


async def end_session(session: Session, token_hash: str) -> None:
    await session.exec(delete(SessionRow).where(col(SessionRow.token_hash) == token_hash))


async def end_sign_ins(session: Session, person_id: UUID, *, only: UUID | None = None, but: str | None = None) -> int:
    """Ends the person's sign-ins: all, `only` one, or all `but` the one with this token's hash. How many ended."""
    statement = delete(SessionRow).where(col(SessionRow.person_id) == person_id)
    if only is not None:
        statement = statement.where(col(SessionRow.id) == only)
    if but is not None:
        statement = statement.where(col(SessionRow.token_hash) != but)
    return int((await session.exec(statement)).rowcount)


async def forget_browsers(session: Session, person_id: UUID) -> None:
    await session.exec(delete(KnownBrowserRow).where(col(KnownBrowserRow.person_id) == person_id))


async def knows_browser(session: Session, person_id: UUID, mark_hash: str) -> bool:
    query = select(KnownBrowserRow.mark_hash).where(
        KnownBrowserRow.mark_hash == mark_hash, KnownBrowserRow.person_id == person_id
    )
    return (await session.exec(query)).first() is not None


_ALONE = text("SELECT pg_advisory_xact_lock(hashtextextended('sign in ' || :subject, 0))")


async def tries_of(session: Session, subject: str, since: datetime) -> tuple[int, datetime | None]:
    """How many tries count against the subject, and when the last one was. Whoever asks next waits for this
    transaction, so that no two see the same number."""
    await (await session.connection()).execute(_ALONE, {"subject": subject})
    query = select(func.count(), func.max(TryRow.at)).where(TryRow.subject == subject, col(TryRow.at) > since)
    many, last = (await session.exec(query)).one()
    return int(many), last


async def forget_tries(session: Session, tries: Mapping[str, int], now: datetime) -> None:
    """These, which succeeded, and everybody's older than a day."""
    old = col(TryRow.at) < now - timedelta(days=1)
    await session.exec(delete(TryRow).where(col(TryRow.id).in_(list(tries.values())) | old))


async def forget_subjects(session: Session, subjects: list[str]) -> None:
    """Whatever counts against them."""
    await session.exec(delete(TryRow).where(col(TryRow.subject).in_(subjects)))

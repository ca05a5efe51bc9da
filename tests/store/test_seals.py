"""Secrets at rest: each opens for what it belongs to, with the keys that are there, and for nothing else."""

from datetime import UTC, datetime, timedelta
from uuid import uuid4

import pytest
from alembic import command as alembic
from cryptography.fernet import Fernet
from pydantic import SecretStr
from sqlalchemy import create_engine, text

from sign_shelf.core.errors import Refusal
from sign_shelf.demo.cluster import Cluster
from sign_shelf.store import keys, seals
from sign_shelf.store.database import Database, driver_address
from sign_shelf.store.migrate import alembic_config
from sign_shelf.store.seals import SINGLE_SIGN_ON, Purpose, Seals, new_seal_key
from tests.constants import KEY, SEALS
from tests.databases import bare_database
from tests.store.test_records import a_site

NOW = datetime(2026, 12, 2, 12, 0, tzinfo=UTC)


def test_a_sealed_text_opens_for_what_it_was_sealed_for_and_for_nothing_else() -> None:
    mine, theirs = uuid4(), uuid4()
    purposes = [SINGLE_SIGN_ON] + [
        purpose
        for row in (mine, theirs)
        for purpose in (
            seals.site_key(row, "signing"), seals.site_key(row, "delivery"), seals.repository(row), seals.second_factor(row),
            seals.notice_channel(row),
        )
    ]  # fmt: skip
    for sealed_for in purposes:
        sealed = SEALS.seal(SecretStr("a lamp"), sealed_for)
        for purpose in purposes:
            if purpose == sealed_for:
                assert SEALS.open(sealed, purpose).get_secret_value() == "a lamp"
            else:
                with pytest.raises(Refusal):
                    SEALS.open(sealed, purpose)


def test_a_sealed_text_is_too_old_at_its_age_and_refused_when_it_was_spoilt() -> None:
    sealed = SEALS.seal(SecretStr("a lamp"), SINGLE_SIGN_ON)
    assert SEALS.open(sealed, SINGLE_SIGN_ON, within=timedelta(minutes=10))
    with pytest.raises(Refusal):
        SEALS.open(sealed, SINGLE_SIGN_ON, within=timedelta(seconds=-1))
    before = Fernet(KEY.get_secret_value()).encrypt(b"a lamp").decode()
    for spoilt in (sealed[:-6] + "AAAA==", sealed.removeprefix("2:"), before, "", "2:", "ü"):
        with pytest.raises(Refusal):
            SEALS.open(spoilt, SINGLE_SIGN_ON)


def test_what_was_sealed_before_there_were_purposes_is_bound_to_its_row(cluster: Cluster) -> None:
    """In each of the four tables; a row that was bound already stays as it is."""
    address = bare_database(cluster, "unbound")
    alembic.upgrade(alembic_config(address, SEALS), "0033")
    before = Fernet(KEY.get_secret_value()).encrypt(b"a lamp").decode()
    site, person, channel = uuid4(), uuid4(), uuid4()
    row = {"site": site, "person": person, "channel": channel, "sealed": before}
    engine = create_engine(driver_address(address))
    with engine.begin() as connection:
        connection.execute(
            text("SET session_replication_role = replica")
        )  # no row of those that they refer to is needed
        for statement in (
            "INSERT INTO site_key (site_id, kind, sealed, made_at) VALUES (:site, 'signing', :sealed, now())",
            "INSERT INTO repository (site_id, sealed, branch, folder) VALUES (:site, :sealed, 'main', '')",
            "INSERT INTO second_factor (person_id, sealed, made_at, last_step, spare) VALUES (:person, :sealed, now(), 0, '[]')",
            "INSERT INTO channel (id, person_id, kind, address, sealed, wishes, made_at, daily_at, daily_due_at)"
            " VALUES (:channel, :person, 'webhook', 'https://x.example/', :sealed, '{}', now(), now(), now())",
            "INSERT INTO channel (id, person_id, kind, address, sealed, wishes, made_at, daily_at, daily_due_at)"
            " VALUES (gen_random_uuid(), :person, 'mail', '', '', '{}', now(), now(), now())",
        ):
            connection.execute(text(statement), row)
    alembic.upgrade(alembic_config(address, SEALS), "0034")
    purposes: dict[str, Purpose] = {
        "site_key": seals.site_key(site, "signing"), "repository": seals.repository(site),
        "second_factor": seals.second_factor(person), "channel": seals.notice_channel(channel),
    }  # fmt: skip
    with engine.begin() as connection:
        for table, purpose in purposes.items():
            sealed = connection.execute(text(f"SELECT sealed FROM {table} WHERE sealed <> ''")).scalar_one()
            assert SEALS.open(sealed, purpose).get_secret_value() == "a lamp"
            assert SEALS.bind(sealed, purpose) == sealed
    engine.dispose()


async def test_secrets_are_sealed_anew_with_another_key_and_opened_with_none_but_theirs(database: Database) -> None:
    newer = new_seal_key()
    both = Seals(SecretStr(f"{newer},{KEY.get_secret_value()}"))
    later = NOW + timedelta(hours=1)
    async with database.transaction() as session:
        site = await a_site(session)
        for secret, old_until in (("first", NOW), ("second", NOW), ("third", later)):
            await keys.keep_key(session, SEALS, site.id, "signing", SecretStr(secret), now=NOW, old_until=old_until)
        counting = await keys.keys_of(session, SEALS, site.id, ["signing"], NOW)
        assert [one.secret.get_secret_value() for one in counting] == ["third", "second"], (
            "one that was replaced, for now"
        )
        assert "third" not in repr(counting)
        later_on = await keys.keys_of(session, SEALS, site.id, ["signing"], later)
        assert [one.secret.get_secret_value() for one in later_on] == ["third"]
        assert await keys.seal_anew(session, both) == 3
        await session.flush()
        with pytest.raises(Refusal, match="another SIGN_SHELF_KEY"):
            await keys.keys_of(session, SEALS, site.id, ["signing"], NOW)
        only = await keys.keys_of(session, Seals(SecretStr(newer)), site.id, ["signing"], NOW)
        assert [one.secret.get_secret_value() for one in only] == ["third", "second"]
    with pytest.raises(Refusal, match="no key"):
        Seals(SecretStr("short"))

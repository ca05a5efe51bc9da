"""Coming in: by a code beside the password, by an invitation, by an identity provider; and roles that come of teams."""

from collections.abc import AsyncIterator, Iterator
from datetime import UTC, datetime, timedelta
from typing import Any
from urllib.parse import parse_qs, urlsplit
from uuid import uuid4

import httpx
import pyotp
import pytest
from cryptography.fernet import Fernet
from oidc_provider_mock import User, run_server_in_thread
from pydantic import SecretStr
from sqlalchemy import text

from sign_shelf.api.app import create_app
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk import authenticator, second_factor
from sign_shelf.desk.people import add_person
from sign_shelf.desk.permission import Person
from sign_shelf.desk.sign_in import ACCOUNT, Asked, TooManyTries, sign_in, token_hash
from sign_shelf.settings import Settings
from sign_shelf.store import seals
from sign_shelf.store.database import Database
from tests.accounts import sign_in as enter
from tests.constants import KEY, OWN_PAGE, PASSWORD, SHELF
from tests.desk.conftest import on_shelf  # noqa: F401 - a fixture

NOW = datetime(2026, 11, 24, 12, 0, tzinfo=UTC)
DAY = timedelta(days=1)
HERE = Asked(address="203.0.113.7")
OTHER_PASSWORD = "a kettle on the pier"


@pytest.fixture
async def as_owen(configured: Settings, database: Database) -> AsyncIterator[httpx.AsyncClient]:
    await add_person(
        database, email="owen@quillfen.example", name="Owen Marsh", password=PASSWORD, role="owner", now=NOW
    )
    async with browser(configured, database) as client:
        await enter(client, "owen@quillfen.example")
        yield client


def browser(configured: Settings, database: Database, **other: Any) -> httpx.AsyncClient:
    app = create_app(configured.model_copy(update=other))
    app.state.database = database
    return httpx.AsyncClient(transport=httpx.ASGITransport(app=app), base_url=SHELF, headers=OWN_PAGE)


async def with_authenticator(database: Database, person: Person) -> tuple[pyotp.TOTP, list[str]]:
    begun = await second_factor.begin(database, person, password=PASSWORD, now=NOW)
    counts = pyotp.parse_uri(begun.uri)
    assert isinstance(counts, pyotp.TOTP)
    assert counts.secret == begun.secret.get_secret_value()
    assert begun.picture.startswith("<svg")
    spare = await second_factor.turn_on(database, person, code=counts.at(NOW), keep=None, now=NOW)
    return counts, spare


async def entered(database: Database, email: str, code: str, now: datetime, password: str = PASSWORD) -> str:
    try:
        await sign_in(database, email=email, password=SecretStr(password), asked=HERE, now=now, lasts=DAY, code=code)
    except (authenticator.CodeWanted, authenticator.WrongCode, TooManyTries) as refused:
        return refused.code
    return "in"


async def test_a_code_counts_once_and_for_a_minute_and_spare_ones_once(database: Database, ines: Person) -> None:
    counts, spare = await with_authenticator(database, ines)
    assert await entered(database, ines.email, "", NOW) == "second-factor"
    assert await entered(database, ines.email, counts.at(NOW), NOW) == "wrong-code", (
        "it was shown when it was turned on"
    )
    later = NOW + timedelta(minutes=5)
    shown = counts.at(later)
    assert await entered(database, ines.email, f"{shown[:3]} {shown[3:]}", later + timedelta(seconds=29)) == "in"
    assert await entered(database, ines.email, shown, later + timedelta(seconds=31)) == "wrong-code"
    later += timedelta(hours=2)
    assert await entered(database, ines.email, counts.at(later - timedelta(seconds=90)), later) == "wrong-code"
    assert await entered(database, ines.email, spare[0].upper(), later) == "in"
    assert await entered(database, ines.email, spare[0], later) == "wrong-code"
    later += timedelta(hours=2)
    with pytest.raises(authenticator.WrongCode):
        await second_factor.turn_off(database, ines, code=spare[0], now=later)
    await second_factor.turn_off(database, ines, code=spare[1], now=later)
    assert await entered(database, ines.email, "", later) == "in"


async def test_who_has_the_password_cannot_guess_codes(database: Database, ines: Person) -> None:
    """Nor by asking without a code in between."""
    await with_authenticator(database, ines)
    at = NOW + timedelta(minutes=5)
    said = []
    for n in range(ACCOUNT.free * 2):
        said += [await entered(database, ines.email, "", at), await entered(database, ines.email, f"00000{n}"[-6:], at)]
    assert said.count("wrong-code") == ACCOUNT.free
    assert said[-1] == "too-many-tries"


async def test_it_is_set_up_by_who_knows_the_password_and_taken_off_by_an_owner(
    as_owen: httpx.AsyncClient, api: httpx.AsyncClient, database: Database, ines: Person
) -> None:
    await enter(api, ines.email)
    assert (await api.post("/api/session/second-factor", json={"password": "wrong"})).status_code == 403
    begun = (await api.post("/api/session/second-factor", json={"password": PASSWORD})).json()
    assert (await api.put("/api/session/second-factor", json={"code": "000000"})).status_code == 403
    assert (await api.get("/api/session/second-factor")).json() == {"on": False}
    code = pyotp.TOTP(begun["secret"]).now()
    assert len((await api.put("/api/session/second-factor", json={"code": code})).json()["spare"]) == 8
    assert (await api.get("/api/session/second-factor")).json() == {"on": True}
    assert (await api.post("/api/session/second-factor", json={"password": PASSWORD})).status_code == 409
    answer = await api.post("/api/session", json={"email": ines.email, "password": PASSWORD})
    assert (answer.status_code, answer.json()["type"].rpartition(":")[2]) == (403, "second-factor")
    assert (await api.delete(f"/api/people/{ines.id}/second-factor")).status_code == 403
    assert (await as_owen.delete(f"/api/people/{ines.id}/second-factor")).status_code == 204
    assert (await as_owen.delete(f"/api/people/{ines.id}/second-factor")).status_code == 404
    await enter(api, ines.email)
    async with database.transaction() as session:
        kept = (await (await session.connection()).execute(text("SELECT count(*) FROM second_factor"))).scalar()
    assert kept == 0


async def test_an_invitation_makes_an_account_once_and_dead_links_are_all_alike(
    as_owen: httpx.AsyncClient, configured: Settings, database: Database
) -> None:
    new = {"email": "Sefton@quillfen.example", "name": "Sefton Roe", "role": "viewer"}
    first = (await as_owen.post("/api/people/invitations", json=new)).json()["address"]
    answer = await as_owen.post("/api/people/invitations", json=new | {"role": "editor"})
    link = answer.json()["address"]
    assert link.startswith(f"{SHELF}/invitation/")
    (told,) = (await as_owen.get("/api/people/invitations")).json()
    assert (told["email"], told["role"]) == ("sefton@quillfen.example", "editor")
    withdrawn = (await as_owen.post("/api/people/invitations", json=new | {"email": "x@quillfen.example"})).json()
    assert (await as_owen.delete(f"/api/people/invitations/{withdrawn['id']}")).status_code == 204
    async with browser(configured, database) as guest:
        path = "/api/invitations/" + link.rpartition("/")[2]
        assert (await guest.get(path)).json() | {"until": ""} == {
            "email": "sefton@quillfen.example", "name": "Sefton Roe", "role": "editor", "by": "Owen Marsh", "until": "",
        }  # fmt: skip
        assert (await guest.post(path, json={"name": "Sefton Roe", "password": "short"})).status_code == 422
        made = await guest.post(path, json={"name": "Sefton R.", "password": OTHER_PASSWORD})
        assert (made.status_code, made.json()) == (201, {"email": "sefton@quillfen.example"})
        said = {"email": "sefton@quillfen.example", "password": OTHER_PASSWORD}
        assert (await guest.post("/api/session", json=said)).json()["role"] == "editor"
        async with database.transaction() as session:
            over = "INSERT INTO invitation (id, token_hash, email, name, role, made_at, until) VALUES (:id, :hash, 'y@y.example', 'Y', 'owner', now(), now())"
            await (await session.connection()).execute(
                text(over), {"id": uuid4(), "hash": token_hash(SecretStr("over"))}
            )
        dead = [link, first, withdrawn["address"], f"{SHELF}/invitation/over", f"{SHELF}/invitation/never"]
        tokens = [one.rpartition("/")[2] for one in dead]
        looked = [await guest.get(f"/api/invitations/{one}") for one in tokens]
        taken = [
            await guest.post(f"/api/invitations/{one}", json={"name": "Z", "password": OTHER_PASSWORD})
            for one in tokens
        ]
        assert {(one.status_code, one.text.replace(token, "…")) for one, token in zip(looked, tokens, strict=True)} == {
            (404, looked[0].text.replace(tokens[0], "…"))
        }
        assert {one.status_code for one in taken} == {404}
    assert (await as_owen.post("/api/people/invitations", json=new)).status_code == 409


async def test_a_team_gives_its_people_a_role_at_its_sites_where_they_have_none_of_their_own(
    as_owen: httpx.AsyncClient, api: httpx.AsyncClient, tom: Person, ines: Person, brackwater: StandIn
) -> None:
    await enter(api, tom.email)
    rights = lambda: api.get("/api/session")  # noqa: E731
    await as_owen.put(f"/api/people/{tom.id}/role", json={"role": "none"})
    assert (await api.get("/api/shelf/sites")).json() == []
    quay, night = [
        (await as_owen.post("/api/teams", json={"name": name})).json()["id"] for name in ("Quay", "Night watch")
    ]
    assert (await as_owen.post("/api/teams", json={"name": "Quay"})).status_code == 409
    told = {"name": "Quay", "sites": ["brackwater"], "members": {str(tom.id): "viewer", str(ines.id): "reviewer"}}
    assert (await as_owen.put(f"/api/teams/{quay}", json=told)).status_code == 204
    assert (await rights()).json()["may_edit_at"] == {"brackwater": False}
    assert [one["key"] for one in (await api.get("/api/shelf/sites")).json()] == ["brackwater"]
    # Of several teams the one by which they may most; what was given at the site goes before both.
    both = told | {"name": "Night watch", "members": {str(tom.id): "editor"}}
    assert (await as_owen.put(f"/api/teams/{night}", json=both)).status_code == 204
    assert (await rights()).json()["may_edit_at"] == {"brackwater": True}
    await as_owen.put(f"/api/people/{tom.id}/role/brackwater", json={"role": "viewer"})
    assert (await rights()).json()["may_edit_at"] == {"brackwater": False}
    await as_owen.put(f"/api/people/{tom.id}/role/brackwater", json={"role": None})
    teams = (await as_owen.get("/api/teams")).json()
    assert [(one["name"], one["sites"], len(one["members"])) for one in teams] == [
        ("Night watch", ["brackwater"], 1), ("Quay", ["brackwater"], 2),
    ]  # fmt: skip
    assert (await as_owen.delete(f"/api/teams/{night}")).status_code == 204
    assert (await rights()).json()["may_edit_at"] == {"brackwater": False}
    for wrong, status in (
        ({"sites": ["nowhere"]}, 404), ({"members": {str(uuid4()): "editor"}}, 404), ({"members": {str(tom.id): "king"}}, 422),
        ({"name": " "}, 422),
    ):  # fmt: skip
        assert (await as_owen.put(f"/api/teams/{quay}", json=told | wrong)).status_code == status
    me = (await as_owen.get("/api/session")).json()["id"]
    answer = await as_owen.put(f"/api/teams/{quay}", json=told | {"members": {me: "owner"}})
    assert (answer.status_code, answer.json()["detail"]) == (409, "You cannot change your own role.")


@pytest.fixture
def provider() -> Iterator[str]:
    known = [
        User(sub="tom-1", claims={"email": "tom@quillfen.example", "email_verified": True, "name": "Tom A."}),
        User(sub="sly", claims={"email": "tom@quillfen.example", "email_verified": False}),
        User(sub="new", claims={"email": "new@quillfen.example", "email_verified": True, "name": "Nell Ware"}),
    ]
    with run_server_in_thread(user_claims=known) as server:
        yield f"http://localhost:{server.server_port}"


async def by_provider(
    guest: httpx.AsyncClient, subject: str, back: str = "/calendar", spoilt: str = ""
) -> httpx.Response:
    """As a browser is led: to the provider, where somebody says who they are, and back."""
    begun = await guest.get("/api/session/elsewhere/begin", params={"back": back})
    assert begun.status_code == 303, begun.text
    async with httpx.AsyncClient(trust_env=False) as there:
        said = await there.post(begun.headers["location"], data={"sub": subject})
    back_to = urlsplit(said.headers["location"])
    assert back_to.path == "/api/session/elsewhere/end"
    query = {name: values[0] for name, values in parse_qs(back_to.query).items()}
    return await guest.get(back_to.path, params=query | ({"state": spoilt} if spoilt else {}))


async def why_not(guest: httpx.AsyncClient, answer: httpx.Response) -> str:
    """As the sign-in tells it, once: never words that stand in an address."""
    assert (answer.status_code, answer.headers["location"]) == (303, "/")
    says = (await guest.get("/api/session/elsewhere")).json()["refused"]
    assert (await guest.get("/api/session/elsewhere")).json()["refused"] is None
    return str(says)


async def test_nobody_has_a_sealed_text_opened_by_signing_in(
    configured: Settings, database: Database, provider: str
) -> None:
    """Whoever has a backup has sealed texts. No cookie makes Sign Shelf open one."""
    settings = {"identity_issuer": provider, "identity_client": "shelf", "identity_secret": SecretStr("between us")}
    site = uuid4()
    stolen = {
        database.seals.seal(SecretStr("whsec_of_brackwater"), seals.site_key(site, "signing")),
        Fernet(KEY.get_secret_value()).encrypt(b"whsec_of_brackwater").decode(),
    }
    for sealed in stolen:
        for cookie in ("sign_shelf_refused", "sign_shelf_elsewhere"):
            for path in ("/api/session/elsewhere", "/api/session/elsewhere/end?code=x&state=y"):
                async with browser(configured, database, **settings) as thief:
                    answer = await thief.get(path, headers={"cookie": f"{cookie}={sealed}"})
                    assert "whsec" not in answer.text + str(answer.headers)


async def test_words_of_a_stranger_are_not_shown_at_the_sign_in(
    configured: Settings, database: Database, provider: str
) -> None:
    settings = {"identity_issuer": provider, "identity_client": "shelf", "identity_secret": SecretStr("between us")}
    said = "?error=access_denied&error_description=Call+0900+1234"
    async with browser(configured, database, **settings) as guest:
        for state in ("", "&state=another"):
            assert (await guest.get("/api/session/elsewhere/begin")).status_code == 303
            answer = await guest.get(f"/api/session/elsewhere/end{said}{state}")
            assert "began in another browser" in await why_not(guest, answer)
        begun = await guest.get("/api/session/elsewhere/begin")
        state = parse_qs(urlsplit(begun.headers["location"]).query)["state"][0]
        says = await why_not(guest, await guest.get(f"/api/session/elsewhere/end{said}&state={state}"))
        assert "did not let you in" in says
        assert "0900" not in says


async def test_an_identity_provider_signs_in_whom_it_knows_and_nobody_else(
    as_owen: httpx.AsyncClient, configured: Settings, database: Database, tom: Person, provider: str
) -> None:
    settings = {"identity_issuer": provider, "identity_client": "shelf", "identity_secret": SecretStr("between us"),
                "identity_name": "Quillfen"}  # fmt: skip

    def guest() -> httpx.AsyncClient:
        return browser(configured, database, **settings)

    async with guest() as tom_s:
        assert (await tom_s.get("/api/session/elsewhere")).json() == {"name": "Quillfen", "refused": None}
        answer = await by_provider(tom_s, "tom-1")
        assert (answer.status_code, answer.headers["location"]) == (303, "/calendar")
        assert (await tom_s.get("/api/session")).json()["email"] == tom.email
    async with guest() as sly:
        answer = await by_provider(sly, "sly")
        assert (await why_not(sly, answer)).startswith("Nobody who may sign in here has your address")
        assert (await sly.get("/api/session")).status_code == 401
    async with guest() as new:
        assert "Nobody who may sign in here" in await why_not(new, await by_provider(new, "new"))
        asked = {"email": "new@quillfen.example", "name": "Nell", "role": "reviewer"}
        assert (await as_owen.post("/api/people/invitations", json=asked)).status_code == 201
        assert (await by_provider(new, "new", back="//elsewhere.example/")).headers["location"] == "/"
        assert (await new.get("/api/session")).json()["role"] == "reviewer"
        nobody = await new.post("/api/session", json={"email": asked["email"], "password": PASSWORD})
        assert nobody.status_code == 403, "there is no password"
    # Known by what the provider calls them: another address at the provider is the same person.
    async with guest() as again:
        answer = await by_provider(again, "tom-1", spoilt="another")
        assert "began in another browser" in await why_not(again, answer)
        answer = await again.get("/api/session/elsewhere/end?code=x&state=y")
        assert "began in another browser" in await why_not(again, answer)
        assert (await as_owen.put(f"/api/people/{tom.id}/disabled", json={"disabled": True})).status_code == 204
        assert "Nobody who may" in await why_not(again, await by_provider(again, "tom-1"))
    async with browser(configured, database, **settings | {"identity_issuer": "http://localhost:9"}) as away:
        answer = await away.get("/api/session/elsewhere/begin")
        assert "does not answer" in await why_not(away, answer)
    async with browser(configured, database) as without:
        assert (await without.get("/api/session/elsewhere")).json() == {"name": None, "refused": None}
        answer = await without.get("/api/session/elsewhere/begin")
        assert "no identity provider" in await why_not(without, answer)

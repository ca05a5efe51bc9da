"""Notices over real mail servers and real receivers of webhooks: told once, tried again, never doubled, to whom it concerns."""

import asyncio
import email
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from email.policy import default
from pathlib import Path
from typing import Any
from uuid import UUID

import httpx
import orjson
import pytest
from aiosmtpd.controller import Controller
from aiosmtpd.smtp import SMTP, Envelope
from aiosmtpd.smtp import Session as Talk
from pydantic import SecretStr
from standardwebhooks import Webhook
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import Response
from starlette.routing import Route

from sign_shelf.api.app import create_app
from sign_shelf.core.notices import Wishes
from sign_shelf.demo.cluster import free_port
from sign_shelf.demo.stand_ins.mail import mail_sink
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk import notices as desk
from sign_shelf.desk import people, posting, telling
from sign_shelf.desk.permission import Person
from sign_shelf.desk.posting import Post
from sign_shelf.jobs import watching
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.outside.mail import MailServer
from sign_shelf.settings import Settings
from sign_shelf.store import inventory, notices, sites
from sign_shelf.store.database import Database
from sign_shelf.store.seals import Seals, new_seal_key
from tests.accounts import sign_in
from tests.constants import OWN_PAGE, PASSWORD, SHELF
from tests.desk.conftest import Clock, on_shelf
from tests.odd_server import Odd
from tests.serving import serving


@dataclass
class Mailbox:
    """A mail server that says what it is told to, once each; then it takes what it gets. `came` is what it took."""

    port: int
    answers: list[str] = field(default_factory=list)
    came: list[email.message.EmailMessage] = field(default_factory=list)
    offered: int = 0

    async def handle_RCPT(self, server: SMTP, talk: Talk, envelope: Envelope, address: str, options: list[str]) -> str:
        self.offered += 1
        if self.answers and not self.answers[0].startswith("data "):
            return self.answers.pop(0)
        envelope.rcpt_tos.append(address)
        return "250 OK"

    async def handle_DATA(self, server: SMTP, talk: Talk, envelope: Envelope) -> str:
        says = self.answers.pop(0).removeprefix("data ") if self.answers else "250 OK"
        if says.startswith("250") or says == "vanish":
            made = email.message_from_bytes(envelope.original_content or b"", policy=default)
            assert isinstance(made, email.message.EmailMessage)
            self.came.append(made)
        if says == "vanish":
            server.transport.abort()
        return says

    def words(self, at: int = 0) -> str:
        return str(self.came[at].get_content()).replace("\r\n", "\n")

    @property
    def subjects(self) -> list[str]:
        return [str(one["Subject"]) for one in self.came]


@pytest.fixture
def mailbox() -> Iterator[Mailbox]:
    box = Mailbox(free_port())
    running = Controller(box, hostname="127.0.0.1", port=box.port)
    running.start()
    yield box
    running.stop()


@dataclass
class Receiver:
    """Takes webhooks, as Standard Webhooks says; first it gives `answers`, once each."""

    url: str
    secret: str = ""
    answers: list[tuple[int, dict[str, str]]] = field(default_factory=list)
    came: list[tuple[str, dict[str, Any]]] = field(default_factory=list)
    """Their names, and what they say; only what is signed well."""
    verified: int = 0

    async def take(self, request: Request) -> Response:
        body, headers = (await request.body()).decode(), request.headers
        at = datetime.fromtimestamp(int(headers["webhook-timestamp"]), UTC)
        # The tests' clock is not that of whoever verifies, who looks at the age as well.
        signed = Webhook(self.secret).sign(headers["webhook-id"], at, body)
        assert signed == headers["webhook-signature"]
        if abs(at - datetime.now(UTC)) < timedelta(minutes=4):
            self.verified += 1
            assert Webhook(self.secret).verify(body, dict(headers)) == orjson.loads(body)
        self.came.append((headers["webhook-id"], orjson.loads(body)))
        status, headers = self.answers.pop(0) if self.answers else (204, {})
        return Response(status_code=status, headers=headers)


@contextmanager
def receiver() -> Iterator[Receiver]:
    port = free_port()
    made = Receiver(f"http://127.0.0.1:{port}/desk")
    with serving(Starlette(routes=[Route("/desk", made.take, methods=["POST"])]), port):
        yield made


@pytest.fixture
async def post(fetcher: Fetcher, mailbox: Mailbox) -> Post:
    server = MailServer(
        host="127.0.0.1", port=mailbox.port, tls_at_once=False, user="", password=SecretStr(""), sender="shelf@quillfen.example"
    )  # fmt: skip
    return Post(fetcher=fetcher, mail=server, shelf="https://shelf.example/")


@pytest.fixture
def clock() -> Clock:
    """It stands at now: receivers of webhooks look at their age."""
    made = Clock()
    made.at = datetime.now(UTC).replace(microsecond=0)
    return made


Tell = Callable[[], Any]


@pytest.fixture
def tell(database: Database, post: Post, quick: Fetcher, clock: Clock) -> Tell:
    """Sites are looked at, and once nothing came for a while people are told."""

    async def once() -> int:
        await watching.look(database, quick, clock)
        clock.on(seconds=telling.QUIET.total_seconds() + 1)
        return await watching.tell_people(database, post, clock)

    return once


async def wish(database: Database, person: Person, clock: Clock, **wishes: Any) -> UUID:
    """Of the person's mail."""
    mail, *_ = await desk.mine(database, person, clock())
    await desk.wish(database, person, mail.row.id, Wishes.model_validate(wishes), clock())
    return mail.row.id


async def told(database: Database, person: Person, clock: Clock) -> list[tuple[str, int, str]]:
    mail, *_ = await desk.mine(database, person, clock())
    return [(row.state, row.tries, row.says) for row in mail.told]


async def test_what_stops_a_release_is_told_once_to_everybody_whom_it_concerns(
    database: Database,
    ines: Person,
    tom: Person,
    odd: Odd,
    mailbox: Mailbox,
    clock: Clock,
    tell: Tell,
    quick: Fetcher,
) -> None:
    viewer = await people.add_person(
        database, email="vera@quillfen.example", name="Vera", password=PASSWORD, role="viewer", now=clock()
    )
    outsider = await people.add_person(
        database, email="olaf@quillfen.example", name="Olaf", password=PASSWORD, role="none", now=clock()
    )
    await wish(database, outsider, clock)
    await wish(database, tom, clock, sites={"alder": {"at_once": False}})
    dead, gone = f"http://127.0.0.1:{odd.port}/404", f"http://127.0.0.1:{odd.port}/410"
    await on_shelf(database, "alder", {"top": [dead] * 3, "foot": [dead, gone]})
    await watching.look(database, quick, clock)
    assert await watching.tell_people(database, Post(fetcher=None, mail=None, shelf=""), clock) == 0, "more may come"  # type: ignore[arg-type]
    assert await tell() == 1
    (letter,) = mailbox.came
    assert (letter["To"], letter["Subject"]) == ("Ines Calder <ines@quillfen.example>", "2 things that stop a release")
    assert (letter["From"], letter["Auto-Submitted"]) == ("Sign Shelf <shelf@quillfen.example>", "auto-generated")
    words = mailbox.words()
    assert "/404: There is no such page (404)\n  Alder, 4 entries" in words
    assert "https://shelf.example/findings?code=link-gone&cause=address" in words
    assert await tell() == 0, "it was told"
    await on_shelf(database, "brant", {"top": [dead]})
    assert await tell() == 1
    assert mailbox.came[1]["To"].startswith("Tom Arkwright"), (
        "to Ines it is the same dead address; at Alder Tom wants nothing"
    )
    assert await told(database, viewer, clock) == await told(database, outsider, clock) == []

    # Gone and back within a day: no second notice; a day later it is news again.
    odd.answers = {"404": 200}
    clock.on(hours=25)
    await tell()
    before = len(mailbox.came)
    odd.answers = {}
    clock.on(hours=25)
    await tell()
    assert [one for one in mailbox.subjects[before:] if one.startswith("Stops")] == ["Stops a release: "
        f"http://127.0.0.1:{odd.port}/404: There is no such page (404)"] * 2  # fmt: skip


async def test_what_is_waived_is_not_told_and_who_was_put_out_hears_nothing(
    as_ines: httpx.AsyncClient, database: Database, ines: Person, tom: Person, odd: Odd, mailbox: Mailbox, clock: Clock, tell: Tell,
    quick: Fetcher,
) -> None:  # fmt: skip
    owner = await people.add_person(
        database, email="oona@quillfen.example", name="Oona", password=PASSWORD, role="owner", now=clock()
    )
    await desk.mine(database, tom, clock())
    await people.disable(database, owner, tom.id, disabled=True, now=clock())
    await wish(database, owner, clock, at_once=False, daily=False)
    await on_shelf(database, "alder", {"top": [f"http://127.0.0.1:{odd.port}/404", f"http://127.0.0.1:{odd.port}/410"]})
    await watching.look(database, quick, clock)
    lines = [one for one in (await as_ines.get("/api/findings")).json()["lines"] if one["code"] == "link-gone"]
    waive = {"code": "link-gone", "cause": lines[0]["cause"], "waive": "the client knows"}
    assert (await as_ines.put("/api/findings/care", json=waive)).status_code == 204
    assert await tell() == 1
    assert [str(one["To"]) for one in mailbox.came] == ["Ines Calder <ines@quillfen.example>"]
    assert mailbox.came[0]["Subject"] == f"Stops a release: {lines[1]['says']}"


async def test_once_a_day_each_is_told_what_is_new_what_is_theirs_and_what_waits(
    as_ines: httpx.AsyncClient, database: Database, ines: Person, tom: Person, brackwater: StandIn, odd: Odd, mailbox: Mailbox,
    clock: Clock, tell: Tell,
) -> None:  # fmt: skip
    clock.at = clock.at.replace(hour=5, minute=0)
    today = clock.at.date()
    await wish(database, tom, clock, at_once=False, at="07:00", zone="UTC")
    await wish(database, ines, clock, at_once=False, daily=False)
    waits = [("Winter fares", {"owner": "tom arkwright ", "due": f"{today + timedelta(days=2)}", "note": "from the office"}),
             ("Next year", {"owner": "Tom Arkwright", "due": f"{today + timedelta(days=90)}"}),
             ("Webcam", {"owner": "The client", "due": f"{today - timedelta(days=2)}"})]  # fmt: skip
    await on_shelf(database, "alder", {"top": [f"http://127.0.0.1:{odd.port}/404"]}, waits=waits)
    assert await tell() == 0
    lines = (await as_ines.get("/api/findings?site=alder")).json()["lines"]
    (dead,) = [one for one in lines if one["code"] == "link-gone"]
    given = {"code": dead["code"], "cause": dead["cause"], "owner": str(tom.id), "due": f"{today + timedelta(days=1)}"}
    assert (await as_ines.put("/api/findings/care", json=given)).status_code == 204
    assert mailbox.came == [], "not before its time"
    clock.at = clock.at.replace(hour=7, minute=0)
    assert await watching.tell_people(database, Post(fetcher=None, mail=None, shelf=""), Clock()) == 0  # type: ignore[arg-type]
    assert await tell() == 1
    (letter,) = mailbox.came
    words = mailbox.words()
    assert str(letter["To"]).startswith("Tom Arkwright")
    assert f"Given to you:\n\n- http://127.0.0.1:{odd.port}/404" in words
    assert "Placeholders that you owe something for:\n\n- Winter fares: from the office\n  Alder, Top" in words
    assert "Next year" not in words.partition("New findings")[0], "there is time"
    assert "Another placeholder of others is late" in words
    assert await tell() == 0, "once a day"
    clock.on(days=3)
    assert await tell() == 1, "days that were missed are one"
    assert "was due" in mailbox.words(1)
    again = (await as_ines.get("/api/notices")).json()
    assert [one["told"] for one in again["channels"]] == [[]]


async def test_a_day_on_which_there_is_nothing_is_silent_and_readings_that_ask_are_told(
    database: Database, ines: Person, brackwater: StandIn, mailbox: Mailbox, clock: Clock, tell: Tell
) -> None:
    await wish(database, ines, clock, at_once=False, at="07:00", zone="UTC", sites={"brackwater": {"daily": False}})
    clock.on(days=1)
    assert (await tell(), mailbox.came) == (0, []), "nothing of that site"
    await wish(database, ines, clock, at_once=False, at="07:00", zone="UTC")
    brackwater.more_pages.wanted = {"/group-trips": "Group trips"}
    async with database.transaction() as session:
        site = await sites.site_by_key(session, "brackwater")
        assert site is not None
        await inventory.read_by(session, site.id, clock())
    clock.on(days=1)
    assert await tell() == 1
    assert (
        "Brackwater Ferries: 1 new page to be placed\n  https://shelf.example/sites/brackwater/pages" in mailbox.words()
    )
    async with database.transaction() as session:
        doubt = {"says": "40 of 50 pages are gone", "lost": []}
        await inventory.put_reading(session, site.id, {"doubt": doubt, "due_at": clock() + timedelta(days=9)})
    clock.on(days=1)
    assert await tell() == 1
    assert "Brackwater Ferries: 40 of 50 pages are gone\n" in mailbox.words(1)


async def test_a_letter_is_tried_again_until_it_is_taken_and_given_up_where_it_never_will_be(
    database: Database, ines: Person, mailbox: Mailbox, post: Post, clock: Clock
) -> None:
    channel = await wish(database, ines, clock)
    mailbox.answers = ["451 not now", "data 452 full"]
    await desk.try_it(database, ines, channel, clock())
    await desk.try_it(database, ines, channel, clock())
    for says in ("The mail server says 451: not now", "The mail server says 452: full"):
        assert await posting.post(database, post, clock) == 0
        ((state, _, said),) = await told(database, ines, clock)
        assert (state, said) == ("waiting", says)
        assert await posting.post(database, post, clock) == 0, "not before its time"
        clock.on(minutes=6)
    assert await posting.post(database, post, clock) == 1
    assert await told(database, ines, clock) == [("sent", 3, "")]
    assert mailbox.subjects == ["A trial: this address gets notices"]
    mailbox.answers = ["550 nobody of that name"]
    clock.on(minutes=1)
    await desk.try_it(database, ines, channel, clock())
    assert await posting.post(database, post, clock) == 0
    assert (await told(database, ines, clock))[0] == ("failed", 1, "The mail server says 550: nobody of that name")
    clock.on(days=3)
    assert await posting.post(database, post, clock) == 0


async def test_a_letter_that_a_server_may_have_taken_is_not_sent_again_by_itself(
    database: Database, ines: Person, mailbox: Mailbox, post: Post, clock: Clock
) -> None:
    channel = await wish(database, ines, clock)
    mailbox.answers = ["data vanish"]
    await desk.try_it(database, ines, channel, clock())
    assert await posting.post(database, post, clock) == 0
    ((state, _, says),) = await told(database, ines, clock)
    assert (state, says) == ("unsure", "The mail server went away while it was handed this: it may have taken it.")
    clock.on(days=1)
    assert await posting.post(database, post, clock) == 0
    assert len(mailbox.came) == 1
    mail, *_ = await desk.mine(database, ines, clock())
    notice = mail.told[0].id
    await desk.send_again(database, ines, notice, clock())
    assert await posting.post(database, post, clock) == 1
    assert {str(one["Message-ID"]) for one in mailbox.came} == {f"<{notice}@quillfen.example>"}, (
        "whoever gets both can tell"
    )
    # Somebody was stopped in the middle of it.
    clock.on(minutes=1)
    await desk.try_it(database, ines, channel, clock())
    async with database.transaction() as session:
        (due,) = await notices.due(session, clock())
        await notices.became(session, due, {"state": "going"})
    async with database.alone(f"notice {due}"):
        assert await posting.post(database, post, clock) == 0
        assert (await told(database, ines, clock))[0][0] == "going", "whoever sends it goes on"
    assert await posting.post(database, post, clock) == 0
    assert (await told(database, ines, clock))[0][0] == "unsure"
    assert len(mailbox.came) == 2


async def test_without_a_mail_server_notices_say_so(
    database: Database, ines: Person, fetcher: Fetcher, mailbox: Mailbox, clock: Clock
) -> None:
    channel = await wish(database, ines, clock)
    await desk.try_it(database, ines, channel, clock())
    assert await posting.post(database, Post(fetcher=fetcher, mail=None, shelf=""), clock) == 0
    assert await told(database, ines, clock) == [("failed", 0, posting.NO_SERVER)]
    away = MailServer(
        host="127.0.0.1", port=free_port(), tls_at_once=False, user="", password=SecretStr(""), sender="a@b.example"
    )
    clock.on(minutes=1)
    await desk.try_it(database, ines, channel, clock())
    assert await posting.post(database, Post(fetcher=fetcher, mail=away, shelf=""), clock) == 0
    state, _, says = (await told(database, ines, clock))[0]
    assert (state, says.partition(": ")[0]) == ("waiting", "The mail server could not be talked to")
    known = replace(away, port=mailbox.port, user="shelf", password=SecretStr("never sent in the clear"))
    clock.on(minutes=1)
    await desk.try_it(database, ines, channel, clock())
    assert await posting.post(database, Post(fetcher=fetcher, mail=known, shelf=""), clock) == 0
    assert (await told(database, ines, clock))[0][
        2
    ] == "The mail server offers no TLS, and a password is not sent without."
    assert mailbox.offered == 0


async def test_a_webhook_is_signed_tried_again_under_its_name_and_sent_by_one_of_many(
    database: Database, ines: Person, mailbox: Mailbox, post: Post, clock: Clock
) -> None:
    with receiver() as desk_of_ours:
        channel, secret = await desk.add_hook(database, ines, desk_of_ours.url, clock())
        desk_of_ours.secret = secret.get_secret_value()
        desk_of_ours.answers = [(500, {}), (429, {"retry-after": "400"}), (302, {"location": "http://127.0.0.1:1/"})]
        await desk.try_it(database, ines, channel, clock())
        for wait_s in (5, 400, 1_800):
            assert sum(await asyncio.gather(*(posting.post(database, post, clock) for _ in range(4)))) == 0
            clock.on(seconds=wait_s - 1)
            assert await posting.post(database, post, clock) == 0, "not before its time"
            clock.on(seconds=1)
        assert sum(await asyncio.gather(*(posting.post(database, post, clock) for _ in range(4)))) == 1
        assert desk_of_ours.verified >= 2
        assert len({name for name, _ in desk_of_ours.came}) == 1, "the same name on every try"
        assert len(desk_of_ours.came) == 4
        _, said = desk_of_ours.came[-1]
        assert said["type"] == "trial"
        assert said["data"] == {"says": "A trial: this address gets notices", "by": "Ines Calder"}
        desk_of_ours.answers = [(410, {})]
        clock.on(minutes=1)
        await desk.try_it(database, ines, channel, clock())
        await posting.post(database, post, clock)
        _, hook = await desk.mine(database, ines, clock())
        assert (hook.row.off_at, hook.told[0].says) == (clock.at, "The address wants no more notices (410).")
        await desk.wish(database, ines, channel, Wishes(), clock())
        _, hook = await desk.mine(database, ines, clock())
        assert hook.row.off_at is None


async def test_webhooks_go_into_no_private_network(database: Database, ines: Person, clock: Clock) -> None:
    with receiver() as inside:
        channel, _ = await desk.add_hook(database, ines, inside.url, clock())
        await desk.try_it(database, ines, channel, clock())
        async with Fetcher() as guarded:
            assert await posting.post(database, Post(fetcher=guarded, mail=None, shelf=""), clock) == 0
        assert inside.came == []
        _, hook = await desk.mine(database, ines, clock())
        assert "private" in hook.told[0].says
        clock.on(minutes=1)
        database.seals = Seals(SecretStr(new_seal_key()))
        assert await posting.post(database, Post(fetcher=guarded, mail=None, shelf=""), clock) == 0
        _, hook = await desk.mine(database, ines, clock())
        assert (hook.told[0].state, hook.told[0].says.partition(".")[0]) == (
            "waiting", "A secret was sealed with another SIGN_SHELF_KEY"
        )  # fmt: skip


async def test_channels_are_ones_own(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, database: Database, clock: Clock
) -> None:
    mail = (await as_ines.get("/api/notices")).json()["channels"][0]
    assert (mail["kind"], mail["address"], mail["wishes"]) == (
        "mail", "ines@quillfen.example", {"at_once": True, "daily": True, "at": "07:30", "zone": "UTC", "sites": {}}
    )  # fmt: skip
    made = await as_ines.post("/api/notices/channels", json={"url": "https://desk.example/in"})
    assert made.status_code == 201, made.text
    assert made.json()["secret"].startswith("whsec_")
    assert made.json()["secret"] not in (await as_ines.get("/api/notices")).text, "told this once"
    for url, status in (
        ("https://desk.example/in", 409),
        ("ftp://desk.example/", 422),
        ("http://a:b@desk.example/", 422),
        ("", 422),
    ):
        assert (await as_ines.post("/api/notices/channels", json={"url": url})).status_code == status, url
    hook = f"/api/notices/channels/{made.json()['id']}"
    for answer in (
        await as_tom.put(hook, json={}), await as_tom.delete(hook), await as_tom.post(f"{hook}/trial"),
        await as_ines.put(f"/api/notices/channels/{UUID(int=0)}", json={}),
    ):  # fmt: skip
        assert answer.status_code == 404, answer.text
    assert (await as_ines.put(hook, json={"at": "7 o'clock"})).status_code == 422
    assert (await as_ines.put(hook, json={"daily": False, "sites": {"alder": {"daily": True}}})).status_code == 204
    assert (await as_ines.post(f"{hook}/trial")).status_code == 202
    shown = (await as_ines.get("/api/notices")).json()["channels"][1]
    assert shown["wishes"]["sites"] == {"alder": {"daily": True, "at_once": None}}
    assert [(one["state"], one["subject"]) for one in shown["told"]] == [
        ("waiting", "A trial: this address gets notices")
    ]
    again = f"/api/notices/{shown['told'][0]['id']}/again"
    assert ((await as_ines.post(again)).status_code, (await as_tom.post(again)).status_code) == (409, 404)
    assert (await as_ines.delete(f"/api/notices/channels/{mail['id']}")).status_code == 422
    assert (await as_ines.delete(hook)).status_code == 204
    assert len((await as_ines.get("/api/notices")).json()["channels"]) == 1


async def test_what_the_sink_keeps_is_shown_to_who_settles_sites(
    configured: Settings, database: Database, ines: Person, tom: Person, fetcher: Fetcher, clock: Clock, tmp_path: Path
) -> None:
    sink = mail_sink(tmp_path / "mail", free_port())
    sink.start()
    try:
        server = MailServer(
            host="127.0.0.1", port=sink.port, tls_at_once=False, user="", password=SecretStr(""), sender="shelf@quillfen.example"
        )  # fmt: skip
        await desk.try_it(database, ines, await wish(database, ines, clock), clock())
        assert await posting.post(database, Post(fetcher=fetcher, mail=server, shelf=""), clock) == 1
    finally:
        sink.stop()
    for settings, mine, others in (
        (configured.model_copy(update={"mail_sink": tmp_path / "mail"}), 200, 403),
        (configured, 404, 404),
    ):
        app = create_app(settings)
        app.state.database, app.state.fetcher = database, fetcher
        async with httpx.AsyncClient(transport=httpx.ASGITransport(app=app), base_url=SHELF, headers=OWN_PAGE) as api:
            await sign_in(api, tom.email)
            assert (await api.get("/api/notices/kept-mail")).status_code == others
            await sign_in(api, ines.email)
            kept = await api.get("/api/notices/kept-mail")
            assert kept.status_code == mine
            if mine == 200:
                (letter,) = kept.json()
                assert (letter["to"], letter["subject"]) == (
                    "Ines Calder <ines@quillfen.example>",
                    "A trial: this address gets notices",
                )
                assert "It did." in letter["text"]

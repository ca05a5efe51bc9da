"""Whether a site keeps the site protocol (docs/site-protocol.md): asked as the shelf asks it, and as nobody should.

Nothing that hangs on the site is another afterwards: what is written is what hangs there already.
"""

import json
from collections.abc import AsyncIterator, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from secrets import token_hex
from typing import Literal
from urllib.parse import urljoin, urlsplit

from pydantic import SecretStr

from sign_shelf.core.errors import InvalidDocument, SourceRefused
from sign_shelf.core.model.documents import parse_json, read
from sign_shelf.core.model.menu import Device
from sign_shelf.core.protocol.placed import PlacedMenu
from sign_shelf.outside import webhooks
from sign_shelf.outside.endpoint import PLACED_TYPE, WELL_KNOWN, Discovery, slot_url
from sign_shelf.outside.fetch import Fetched, Fetcher

Outcome = Literal["ok", "fails", "not tried"]
OLD = timedelta(minutes=10)


@dataclass(frozen=True)
class Tried:
    """`check` in the imperative: what a site does. `says`: what it did instead and why that matters; why it was not tried."""

    check: str
    outcome: Outcome
    says: str = ""


async def try_site(fetcher: Fetcher, home: str, secret: SecretStr | None, now: datetime) -> AsyncIterator[Tried]:
    """Each check with how it came out, in the order of docs/site-protocol.md."""
    where = urljoin(home, WELL_KNOWN)
    try:
        answer = await fetcher.send("GET", where, headers={"accept": "application/json"}, body=None)
    except SourceRefused as away:
        yield Tried("answer at the well-known address", "fails", f"{where}: {away.says}")
        return
    found, says = _discovery(answer, where)
    yield Tried("answer at the well-known address", "ok" if found is not None else "fails", says)
    if found is None:
        return
    menus = urljoin(where, found.menus)
    same = urlsplit(menus).netloc == urlsplit(where).netloc
    yield Tried(
        "keep menus on the same host", "ok" if same else "fails",
        "" if same else f'"menus" is {menus}: what is on another host is never written to.',
    )  # fmt: skip
    if found.asks:
        async for one in _asks(fetcher, home, menus, found):
            yield one
        async for one in _pinged(fetcher, urljoin(where, found.ping) if found.ping else None, secret, now):
            yield one
        return
    if same:
        slots = [(location.key, device) for location in found.template.locations for device in location.devices]
        async for one in _Slots(fetcher, menus, slots, secret, now).tried():
            yield one


def _discovery(answer: Fetched, where: str) -> tuple[Discovery | None, str]:
    if answer.status != 200:
        return None, f"{where} is answered with {answer.status}; 200 with JSON is expected."
    if "json" not in answer.content_type:
        return None, f'Its type is "{answer.content_type}"; application/json is expected.'
    try:
        return read(Discovery, parse_json(answer.body), what="discovery"), ""
    except InvalidDocument as exc:
        return None, str(exc)


async def _asks(fetcher: Fetcher, home: str, menus: str, found: Discovery) -> AsyncIterator[Tried]:
    """A site that asks for its menus: nothing is to be written to it, and its page has navigations from the start."""
    location = found.template.locations[0] if found.template.locations else None
    if location is not None:
        answer = await fetcher.send(
            "PUT", slot_url(menus, location.key, location.devices[-1]), headers={"content-type": PLACED_TYPE}, body=b"{}"
        )  # fmt: skip
        refused = answer.status in {401, 403, 404, 405, 501}
        yield Tried(
            "take no menu that is sent", "ok" if refused else "fails",
            "" if refused else f"A PUT is answered with {answer.status}; a site that asks answers 405.",
        )  # fmt: skip
    page = await fetcher.get(home)
    there = page.status == 200 and page.is_html and (b"<nav" in page.body or b'role="navigation"' in page.body)
    yield Tried(
        "have a navigation in the HTML of the home page", "ok" if there else "fails",
        "" if there else f"{home} is answered with {page.status} and has no nav element: crawlers and readers find no menu, and nothing "
        "can be read back.",
    )  # fmt: skip


async def _pinged(
    fetcher: Fetcher, address: str | None, secret: SecretStr | None, now: datetime
) -> AsyncIterator[Tried]:
    """A site that wants to be told: it takes what is signed, and nothing else."""
    take, refuse = "take a signed ping (200 to 204)", "refuse a ping that is not signed (401)"
    if address is None or secret is None:
        why = "Its discovery names no ping." if address is None else "Name its signing key with --secret."
        yield Tried(take, "not tried", why)
        yield Tried(refuse, "not tried", why)
        return
    bare = await fetcher.send("POST", address, headers={"content-type": "application/json"}, body=b"{}")
    yield Tried(
        refuse, "ok" if bare.status in {401, 403} else "fails",
        "" if bare.status in {401, 403} else f"It is answered with {bare.status}: anybody could make the site ask again and again.",
    )  # fmt: skip
    body = b'{"type": "menus.changed", "data": {"site": "a-trial"}}'
    answer = await webhooks.send(fetcher, address, [secret], id=f"msg_{token_hex(12)}", body=body, at=now)
    yield Tried(take, "ok" if answer.kind == "taken" else "fails", answer.says)


class _Slots:
    def __init__(
        self, fetcher: Fetcher, menus: str, slots: Sequence[tuple[str, Device]], secret: SecretStr | None, now: datetime
    ) -> None:
        self.fetcher = fetcher
        self.menus = menus
        self.slots = slots
        self.secret = secret
        self.now = now

    async def tried(self) -> AsyncIterator[Tried]:
        filled: tuple[str, Fetched] | None = None
        wrong: list[str] = []
        for location, device in self.slots:
            url = slot_url(self.menus, location, device)
            answer = await self._ask("GET", url)
            if answer.status == 404:
                continue
            says = _no_slot(answer, location, device)
            if says:
                wrong.append(f"{location}/{device}: {says}")
            elif filled is None:
                filled = url, answer
        yield _outcome("answer each slot with what hangs there, or 404", not wrong, "; ".join(wrong[:3]))
        nowhere = await self._ask("GET", slot_url(self.menus, "no-such-place", "desktop"))
        yield _outcome(
            "answer 404 for a slot that there is not", nowhere.status == 404, f"It answers {nowhere.status}."
        )
        if filled is None:
            for check in (_CONDITIONAL, *_WRITES):
                yield Tried(check, "not tried", "Nothing hangs in any slot: put a menu there first.")
            return
        url, hangs = filled
        etag = hangs.headers["etag"]
        again = await self._ask("GET", url, **{"if-none-match": etag})
        yield _outcome(
            _CONDITIONAL, again.status == 304, f"It answers {again.status}; 304 spares both sides the whole menu."
        )
        async for one in self._unsigned(url, etag, hangs.body):
            yield one
        if self.secret is None:
            for check in _SIGNED:
                yield Tried(check, "not tried", "It needs the site's signing key: --secret whsec_….")
            return
        async for one in self._signed(url, etag, hangs.body, self.secret):
            yield one

    async def _unsigned(self, url: str, etag: str, body: bytes) -> AsyncIterator[Tried]:
        plain = await self._put(url, body, None, etag=etag)
        yield _outcome(_WRITES[0], plain.status == 401, f"It answers {plain.status}: anybody could hang menus there.")
        other = SecretStr("whsec_" + "A" * 43 + "=")
        forged = await self._put(url, body, other, etag=etag)
        yield _outcome(_WRITES[1], forged.status == 401, f"It answers {forged.status} to a signature of another key.")

    async def _signed(self, url: str, etag: str, body: bytes, secret: SecretStr) -> AsyncIterator[Tried]:
        old = await self._put(url, body, secret, etag=etag, at=self.now - OLD)
        yield _outcome(
            _SIGNED[0], old.status == 401,
            f"It answers {old.status} to what was signed ten minutes ago: a request that was overheard can be sent again.",
        )  # fmt: skip
        without = await self._put(url, body, secret, etag=None)
        yield _outcome(
            _SIGNED[1],
            without.status == 428,
            f"It answers {without.status}; 428, so that nothing is overwritten unseen.",
        )
        never = await self._put(url, body, secret, etag='"no menu has this tag"')
        yield _outcome(
            _SIGNED[2],
            never.status == 412,
            f"It answers {never.status}: what somebody else changed would be overwritten.",
        )
        bad = await self._put(url, b'{"format": "something else"}', secret, etag=etag)
        yield _outcome(_SIGNED[3], bad.status == 422, f"It answers {bad.status} to what is no placed menu.")
        elsewhere = slot_url(self.menus, "no-such-place", "desktop")
        unknown = await self._put(elsewhere, body, secret, etag=None, empty=True)
        yield _outcome(
            _SIGNED[4], unknown.status in {404, 422}, f"It answers {unknown.status} for a slot that there is not."
        )
        key = f"try-{token_hex(12)}"
        first = await self._put(url, body, secret, etag=etag, key=key)
        taken = first.status in {200, 201} and first.headers.get("etag", "").startswith('"')
        yield _outcome(
            _SIGNED[5], taken,
            f"It answers {first.status} with the tag {first.headers.get('etag', 'that is missing')}: 200 with a strong ETag is expected.",
        )  # fmt: skip
        back = await self._ask("GET", url)
        equal = back.status == 200 and _same(back.body, body) and back.headers.get("etag") == first.headers.get("etag")
        yield _outcome(
            _SIGNED[6],
            taken and equal,
            "What is read afterwards is not what was written, word for word and under the same tag.",
        )
        # As where the answer got lost and the slot has another tag by now: here it has the same, so another is asked for.
        repeat = await self._put(url, body, secret, etag='"no menu has this tag"', key=key)
        yield _outcome(
            _SIGNED[7], repeat.status == first.status,
            f"The same request again is answered with {repeat.status}, not {first.status}: one that got lost on the way would fail.",
        )  # fmt: skip
        changed = json.dumps(json.loads(body), indent=1).encode()
        other = await self._put(url, changed, secret, etag=back.headers.get("etag"), key=key)
        yield _outcome(
            _SIGNED[8], other.status == 422, f"It answers {other.status} to a key that came with another body."
        )

    async def _ask(self, method: str, url: str, **headers: str) -> Fetched:
        return await self.fetcher.send(method, url, headers={"accept": PLACED_TYPE} | headers, body=None)

    async def _put(
        self, url: str, body: bytes, secret: SecretStr | None, *, etag: str | None, key: str = "", at: datetime | None = None,
        empty: bool = False,
    ) -> Fetched:  # fmt: skip
        key = key or f"try-{token_hex(12)}"
        headers = {"content-type": PLACED_TYPE, "idempotency-key": f'"{key}"'}
        if secret is not None:
            headers |= webhooks.signed([secret], f"msg_{key}", at or self.now, body)
        if etag is not None:
            headers["if-match"] = etag
        elif empty:
            headers["if-none-match"] = "*"
        return await self.fetcher.send("PUT", url, headers=headers, body=body)


_CONDITIONAL = "answer 304 to who has it already (If-None-Match)"
_SIGNED = (
    "refuse what was signed too long ago (401)",
    "refuse a write without a condition (428)",
    "refuse a write whose condition does not hold (412)",
    "refuse what is no placed menu (422)",
    "refuse a write to a slot that there is not (404)",
    "take a signed menu (200, with a strong ETag)",
    "give back what was written, word for word",
    "answer the same request again as the first time (Idempotency-Key)",
    "refuse a key that comes again with another body (422)",
)
_WRITES = ("refuse what is not signed (401)", "refuse what another key signed (401)", *_SIGNED)


def _outcome(check: str, good: bool, says: str) -> Tried:
    return Tried(check, "ok" if good else "fails", "" if good else says)


def _no_slot(answer: Fetched, location: str, device: str) -> str:
    if answer.status != 200:
        return f"it answers {answer.status}"
    if not answer.headers.get("etag", "").startswith('"'):
        return 'it gives no strong ETag, such as "5f2c…": nothing could be verified'
    try:
        placed = read(PlacedMenu, parse_json(answer.body))
    except InvalidDocument as exc:
        return f"what it answers is no placed menu: {exc}"
    if (placed.location, placed.device) != (location, device):
        return f"it answers with the menu of {placed.location}/{placed.device}"
    return ""


def _same(one: bytes, other: bytes) -> bool:
    try:
        return bool(json.loads(one) == json.loads(other))
    except ValueError:
        return False

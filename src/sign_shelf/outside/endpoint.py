"""The shelf's side of the site protocol (docs/site-protocol.md): discover, read a place's menu, write it."""

import hashlib
from collections.abc import Sequence
from datetime import datetime
from email.utils import parsedate_to_datetime
from secrets import token_hex
from typing import Literal, get_args
from urllib.parse import urljoin

from pydantic import SecretStr

from sign_shelf.core.basics.text import Address, Language, Token, Words
from sign_shelf.core.errors import InvalidDocument, SiteAway, SiteRefused, SourceRefused
from sign_shelf.core.model.documents import parse_json, read
from sign_shelf.core.model.facts import FactName
from sign_shelf.core.model.menu import Device, Model, menu_document
from sign_shelf.core.model.site import Abilities, Ability, Zone
from sign_shelf.core.model.template import Template
from sign_shelf.core.protocol.placed import PlacedMenu, placed_menu
from sign_shelf.outside.fetch import Fetched, Fetcher
from sign_shelf.outside.webhooks import signed

WELL_KNOWN = "/.well-known/sign-shelf"
PLACED_TYPE = "application/vnd.sign-shelf.placed-menu+json"


class Discovery(Model):
    """The site's answer at its well-known address (RFC 8615)."""

    protocol: Literal["sign-shelf/site"]
    version: Literal[1]
    name: Words
    zone: Zone = "UTC"
    languages: tuple[Language, ...] = ("en",)
    menus: str
    signing: Literal["standard-webhooks"] = "standard-webhooks"
    asks: bool = False
    """Whether the site asks the shelf for its menus (docs/delivery.md) and takes none that are sent."""
    vouched: bool = False
    ping: Address | None = None
    """An address on the same host that takes signed messages (docs/delivery.md)."""
    facts: tuple[FactName, ...] | None = None
    shows: tuple[Token, ...] | None = None
    template: Template

    @property
    def can(self) -> Abilities:
        """Of what it shows, what we know of."""
        known = get_args(Ability)
        return Abilities(
            facts=self.facts,
            shows=None if self.shows is None else tuple(one for one in known if one in self.shows),
            places={one.key: one.devices for one in self.template.locations},
            vouched=self.vouched,
            ping=self.ping,
        )


class Slot(Model):
    """`edited_by` and `edited_at` where the site tells them: `Edited-By` and `Last-Modified` of its answer."""

    etag: str
    placed: PlacedMenu
    edited_by: str | None = None
    edited_at: datetime | None = None


class Written(Model):
    etag: str


async def discover(fetcher: Fetcher, home_url: str) -> Discovery | None:
    """What the site offers; None where it does not speak the protocol."""
    where = urljoin(home_url, WELL_KNOWN)
    try:
        answer = await fetcher.get(where, max_bytes=1024 * 1024)
        if answer.status != 200 or "json" not in answer.content_type:
            return None
        found = read(Discovery, parse_json(answer.body), what=where)
    except (SourceRefused, InvalidDocument):
        return None
    menus = urljoin(where, found.menus)
    if urljoin(menus, "/") != urljoin(where, "/"):
        return None
    ping = urljoin(where, found.ping) if found.ping else None
    if ping is not None and urljoin(ping, "/") != urljoin(where, "/"):
        ping = None
    return found.model_copy(update={"menus": menus, "ping": ping})


def slot_url(menus: str, location: str, device: Device) -> str:
    return f"{menus.rstrip('/')}/{location}/{device}"


async def read_slot(
    fetcher: Fetcher, menus: str, location: str, device: Device, *, called: str | None = None
) -> Slot | None:
    """The menu that the site has in a place, None where it has none. `called` is the site's own name for the location.
    Raises SourceRefused or SiteRefused."""
    url = slot_url(menus, called or location, device)
    answer = await fetcher.send("GET", url, headers={"accept": PLACED_TYPE}, body=None)
    if answer.status == 404:
        return None
    if answer.status != 200:
        raise _kind(answer.status)(f"The site answers {answer.status} when its menu is read.", where=url)
    try:
        placed = read(PlacedMenu, parse_json(answer.body), what=url)
    except InvalidDocument as exc:
        raise SiteRefused(f"The site answers with something that is no placed menu: {exc.says}", where=url) from exc
    if called is not None and placed.location == called:
        placed = placed.model_copy(update={"location": location})
    return Slot(
        etag=_etag(answer, url), placed=placed, edited_by=_plain(answer.headers.get("edited-by", "")) or None,
        edited_at=_moment(answer.headers.get("last-modified", "")),
    )  # fmt: skip


def _plain(text: str) -> str:
    return "".join(letter for letter in text[:200] if letter.isprintable()).strip()


def _moment(text: str) -> datetime | None:
    """An HTTP date (RFC 9110, 5.6.7)."""
    try:
        found = parsedate_to_datetime(text) if text else None
    except ValueError:
        return None
    return found if found is not None and found.tzinfo is not None else None


async def write_slot(
    fetcher: Fetcher,
    menus: str,
    placed: PlacedMenu,
    *,
    secrets: Sequence[SecretStr],
    etag: str | None,
    idempotency_key: str,
    at: datetime,
    called: str | None = None,
) -> Written:
    """Sends a menu to its place, signed with every one of the `secrets`. `called` is the site's own name for its location.
    `etag` is what the place must still have; None: it must be empty.

    The same key with the same body is answered by the site with its first answer. Raises SiteRefused with the
    site's own words where it declines, SourceRefused where no answer came.
    """
    if called is not None:
        placed = placed.model_copy(update={"location": called})
    url, answer = await _put(fetcher, menus, placed, secrets, etag=etag, idempotency_key=idempotency_key, at=at)
    if answer.status not in {200, 201}:
        raise _kind(answer.status)(_declined(answer), where=url)
    return Written(etag=_etag(answer, url))


async def knows_key(
    fetcher: Fetcher, menus: str, location: str, device: Device, secret: SecretStr, *, at: datetime
) -> bool:
    """Whether the site takes what is signed with this key: asked by a write whose precondition never holds, so that nothing
    is changed by it. Raises SiteRefused or SourceRefused where it answers neither."""
    there = await read_slot(fetcher, menus, location, device)
    placed = there.placed if there is not None else placed_menu(location, device, menu_document(location), ())
    url, answer = await _put(
        fetcher, menus, placed, [secret], etag='"no menu has this tag"', idempotency_key=f"trial {token_hex(16)}", at=at
    )
    if answer.status not in {401, 403, 412}:
        raise _kind(answer.status)(_declined(answer), where=url)
    return answer.status == 412


async def _put(
    fetcher: Fetcher, menus: str, placed: PlacedMenu, secrets: Sequence[SecretStr], *, etag: str | None,
    idempotency_key: str, at: datetime,
) -> tuple[str, Fetched]:  # fmt: skip
    url = slot_url(menus, placed.location, placed.device)
    body = placed.model_dump_json(by_alias=True, exclude_defaults=True).encode()
    headers = {"content-type": PLACED_TYPE, "idempotency-key": f'"{idempotency_key}"'}
    headers |= signed(secrets, f"msg_{hashlib.sha256(idempotency_key.encode()).hexdigest()[:24]}", at, body)
    headers |= {"if-match": etag} if etag else {"if-none-match": "*"}
    return url, await fetcher.send("PUT", url, headers=headers, body=body)


def _kind(status: int) -> type[SiteRefused]:
    """Whether the same may be tried again: what is the server's own trouble, or only too much at once, may pass."""
    return SiteAway if status >= 500 or status in {408, 425, 429} else SiteRefused


def _etag(answer: Fetched, url: str) -> str:
    etag = answer.headers.get("etag", "")
    if not etag.startswith('"'):
        raise SiteRefused("The site gives no strong entity tag (ETag), so nothing could be verified.", where=url)
    return etag


def _declined(answer: Fetched) -> str:
    detail = answer.body[:300].decode("utf-8", "replace")
    try:
        problem = parse_json(answer.body)
        detail = str(problem.get("detail") or problem.get("title") or detail)
    except (InvalidDocument, AttributeError):
        pass
    return f"The site declined with {answer.status}: {detail}"

"""The site protocol, asked of the stand-in as any program would: conditions, signatures, repeats."""

from datetime import UTC, datetime, timedelta

import httpx
import pytest
from pydantic import SecretStr
from standardwebhooks import Webhook

from sign_shelf.core.errors import SiteRefused
from sign_shelf.core.model.menu import menu_document
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.protocol.placed import PlacedMenu, placed_menu
from sign_shelf.demo.stand_ins.server import StandIn, new_secret
from sign_shelf.outside.endpoint import discover, read_slot, write_slot
from sign_shelf.outside.fetch import Fetcher


def legal(name: str, outline: str = "Privacy -> /privacy") -> PlacedMenu:
    return placed_menu("legal", "desktop", menu_document(name, parse_outline(outline).items), ())


async def write(fetcher: Fetcher, site: StandIn, placed: PlacedMenu, **given: object) -> str:
    there = site.places.get(placed.location, placed.device)
    usual = {
        "secrets": [SecretStr(site.places.secret)],
        "etag": there.etag,
        "idempotency_key": "k",
        "at": datetime.now(UTC),
    }
    written = await write_slot(fetcher, f"{site.base}sign-shelf/menus", placed, **(usual | given))  # type: ignore[arg-type]
    return written.etag


async def test_written_is_what_is_read_back_and_shown(fetcher: Fetcher, stand_in: StandIn) -> None:
    found = await discover(fetcher, stand_in.base)
    assert found is not None
    etag = await write(fetcher, stand_in, legal("New"))
    slot = await read_slot(fetcher, found.menus, "legal", "desktop")
    assert slot is not None
    assert (slot.etag, slot.placed) == (etag, legal("New"))
    assert await read_slot(fetcher, found.menus, "legal", "phone") is None
    async with httpx.AsyncClient(trust_env=False) as client:
        unchanged = await client.get(f"{found.menus}/legal/desktop", headers={"if-none-match": etag})
    assert (unchanged.status_code, unchanged.content) == (304, b"")


async def test_a_repeated_request_writes_once(fetcher: Fetcher, stand_in: StandIn) -> None:
    before = stand_in.places.get("legal", "desktop").etag
    first = await write(fetcher, stand_in, legal("New"), etag=before)
    assert await write(fetcher, stand_in, legal("New"), etag=before) == first
    assert stand_in.places.writes == 1
    with pytest.raises(SiteRefused, match="another body"):
        await write(fetcher, stand_in, legal("Other"), etag=before)


async def test_what_is_not_allowed_is_declined_with_the_reason(fetcher: Fetcher, stand_in: StandIn) -> None:
    """Wrong keys, old signatures, stale tags, unknown places, too many levels; nothing is written by any of them."""
    elsewhere = legal("x").model_copy(update={"location": "moon"})
    deep = legal("x", "A:\n  B -> /b")
    cases: list[tuple[PlacedMenu, dict[str, object], str]] = [
        (legal("x"), {"secrets": [SecretStr(new_secret())]}, "401"),
        (legal("x"), {"at": datetime.now(UTC) - timedelta(minutes=10)}, "401"),
        (legal("x"), {"etag": '"stale"'}, "412"),
        (legal("x"), {"etag": None}, "412"),
        (elsewhere, {"etag": None}, "no moon"),
        (deep, {}, "1 levels at most"),
    ]
    for number, (placed, given, says) in enumerate(cases):
        with pytest.raises(SiteRefused, match=says):
            await write(fetcher, stand_in, placed, idempotency_key=f"case {number}", **given)
    assert stand_in.places.writes == 0


async def test_what_was_written_survives_a_restart_of_the_site(fetcher: Fetcher, stand_in: StandIn) -> None:
    await write(fetcher, stand_in, legal("Kept"))
    places = stand_in.places
    again = type(places)(places.content, places._file, places.secret)
    assert again.placed["legal", "desktop"].menu.name == "Kept"


@pytest.mark.parametrize(
    ("headers", "status", "says"),
    [
        ({}, 401, "signature"),
        ({"webhook-id": "x", "webhook-timestamp": "yesterday", "webhook-signature": "v1,x"}, 401, "signature"),
        ({"webhook-id": "x", "webhook-timestamp": "1", "webhook-signature": "v1,x"}, 401, "signature"),
    ],
)
async def test_unsigned_writes_are_answered_with_problem_details(
    stand_in: StandIn, headers: dict[str, str], status: int, says: str
) -> None:
    async with httpx.AsyncClient(trust_env=False) as client:
        answer = await client.put(f"{stand_in.base}sign-shelf/menus/legal/desktop", content=b"{}", headers=headers)
    assert (answer.status_code, answer.json()["status"]) == (status, status)
    assert says in answer.json()["detail"]
    assert stand_in.places.writes == 0


async def test_a_signed_write_without_its_other_headers_is_told_which(stand_in: StandIn) -> None:
    """A key for repeats and a condition are both required; bodies that are no placed menu are refused."""

    async def put(body: str, **headers: str) -> httpx.Response:
        at = datetime.now(UTC)
        signed = {
            "webhook-id": "msg_1",
            "webhook-timestamp": str(int(at.timestamp())),
            "webhook-signature": Webhook(stand_in.places.secret).sign("msg_1", at, body),
        }
        async with httpx.AsyncClient(trust_env=False) as client:
            url = f"{stand_in.base}sign-shelf/menus/legal/desktop"
            return await client.put(url, content=body, headers=signed | headers)

    whole = legal("x").model_dump_json(by_alias=True, exclude_defaults=True)
    assert (await put(whole)).status_code == 400
    assert (await put(whole, **{"idempotency-key": "a"})).status_code == 428
    assert (await put("{}", **{"idempotency-key": "b", "if-match": "x"})).status_code == 422
    assert (await put(whole, **{"idempotency-key": "c", "if-none-match": "*"})).status_code == 412
    elsewhere = whole.replace('"location":"legal"', '"location":"header"')
    assert "another place" in (await put(elsewhere, **{"idempotency-key": "d", "if-match": "x"})).json()["detail"]
    async with httpx.AsyncClient(trust_env=False) as client:
        assert (await client.get(f"{stand_in.base}sign-shelf/menus/legal/watch")).status_code == 404


async def test_the_site_says_in_its_discovery_all_that_the_shelf_needs(stand_in: StandIn) -> None:
    async with httpx.AsyncClient(trust_env=False) as client:
        told = (await client.get(f"{stand_in.base}.well-known/sign-shelf")).json()
        robots = (await client.get(f"{stand_in.base}robots.txt")).text
        office = (await client.get(f"{stand_in.base}back-office")).text
    assert (told["protocol"], told["version"], told["signing"]) == ("sign-shelf/site", 1, "standard-webhooks")
    assert stand_in.places.secret not in str(told)
    assert stand_in.places.secret in office
    assert "Disallow: /back-office" in robots

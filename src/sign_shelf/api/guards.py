"""What routes are given of a request: who asks, when, and what the request must say."""

import hashlib
from datetime import UTC, datetime
from ipaddress import ip_address
from typing import Annotated
from uuid import UUID

from fastapi import Depends, Header, Query, Request
from pydantic import SecretStr

from sign_shelf.api.entrance import BROWSER_COOKIE, token_of
from sign_shelf.api.problems import NotSignedIn, PreconditionMissing
from sign_shelf.core.basics.text import LANGUAGE_PATTERN
from sign_shelf.core.errors import InvalidDocument, Problem
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import View, refuse_unseen
from sign_shelf.desk.sign_in import Asked
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.settings import Settings
from sign_shelf.store.database import Database
from sign_shelf.store.requests import RequestKey


async def database_of(request: Request) -> Database:
    found: Database = request.app.state.database
    return found


async def settings_of(request: Request) -> Settings:
    found: Settings = request.app.state.settings
    return found


async def now() -> datetime:
    return datetime.now(UTC)


async def signed_in(request: Request) -> Person:
    """Whom the entrance let in (api/entrance.py)."""
    person: Person | None = getattr(request.state, "person", None)
    if person is None:
        raise NotSignedIn("Nobody is signed in.", remedy="Sign in first.")
    return person


async def session_token(request: Request) -> SecretStr | None:
    return token_of(request.headers)


async def asked_from(request: Request) -> Asked:
    """The network address and the browser that a request comes from."""
    mark = request.cookies.get(BROWSER_COOKIE)
    return Asked(
        address=client_address(request, request.app.state.settings),
        browser=request.headers.get("user-agent", "")[:200],
        mark=SecretStr(mark) if mark else None,
    )


def client_address(request: Request, settings: Settings) -> str:
    """The address that the request comes from. What X-Forwarded-For says counts only as far as it was written by
    proxies that are ours: read from its end, the first address that is no proxy's."""
    address = request.client.host if request.client else "unknown"
    trusted = settings.trusted_proxies
    for told in [one.strip() for one in request.headers.get("x-forwarded-for", "").split(",") if one.strip()][::-1]:
        if not _within(address, trusted):
            break
        try:
            address = str(ip_address(told))
        except ValueError:
            break
    return address


def _within(address: str, networks: tuple[object, ...]) -> bool:
    try:
        found = ip_address(address)
    except ValueError:
        return False
    return any(found in network for network in networks)  # type: ignore[operator]


async def request_key(
    request: Request,
    idempotency_key: Annotated[
        str | None,
        Header(
            description="Chosen by the client; the same create is carried out once. With another request it is refused."
        ),
    ] = None,
) -> RequestKey:
    """Method, address, query and body are what the key stands for: nothing of a request can be overlooked when it is asked again."""
    if not idempotency_key or len(idempotency_key) > 200:
        raise PreconditionMissing(
            "A create needs the header Idempotency-Key, of at most 200 characters.",
            remedy="Send any new unique text, such as a UUID.",
        )
    asked = hashlib.sha256()
    for part in (
        request.method.encode(),
        request.scope["raw_path"],
        request.scope["query_string"],
        await request.body(),
    ):
        asked.update(len(part).to_bytes(8) + part)
    return RequestKey(idempotency_key, asked.hexdigest())


async def expected_hash(
    if_match: Annotated[str | None, Header(description="The entity tag that the write sets out from.")] = None,
) -> str:
    if not if_match:
        raise PreconditionMissing(
            "A write needs the header If-Match.", remedy="Send the ETag that the menu was read with."
        )
    return if_match.strip().removeprefix("W/").strip('"')


async def fetcher_of(request: Request) -> Fetcher:
    found: Fetcher = request.app.state.fetcher
    return found


async def view_of(
    request: Request,
    within: Annotated[
        str | None,
        Query(
            alias="in",
            max_length=40,
            description="The id of the change in which one looks, or `live`; absent: the one in which one works.",
        ),
    ] = None,
) -> View:
    if within is None:
        return None
    if within == "live":
        return "live"
    try:
        change = UUID(within)
    except ValueError:
        raise InvalidDocument([Problem(where="in", says='expected the id of a change, or "live"')]) from None
    database: Database = request.app.state.database
    async with database.transaction() as session:
        await refuse_unseen(session, await signed_in(request), change)
    return change


In = Annotated[View, Depends(view_of)]
Net = Annotated[Fetcher, Depends(fetcher_of)]
Language = Annotated[str | None, Query(pattern=LANGUAGE_PATTERN, description="A language (BCP 47).")]
Db = Annotated[Database, Depends(database_of)]
Someone = Annotated[Person, Depends(signed_in)]
Now = Annotated[datetime, Depends(now)]
Once = Annotated[RequestKey, Depends(request_key)]
Expected = Annotated[str, Depends(expected_hash)]
Config = Annotated[Settings, Depends(settings_of)]
From = Annotated[Asked, Depends(asked_from)]
Token = Annotated[SecretStr | None, Depends(session_token)]

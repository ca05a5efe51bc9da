"""Whether the addresses in a site's menus answer. What asks is imported when something is asked."""

import asyncio
from collections.abc import Iterable
from dataclasses import asdict
from enum import StrEnum
from typing import Annotated, Any

import typer

from sign_shelf.cli.files import read_site, write_json
from sign_shelf.core.basics.address import host_of
from sign_shelf.core.links import GOOD, Address, LinkFinding, addresses_of
from sign_shelf.core.model.site import SiteDocument


class Form(StrEnum):
    json = "json"
    text = "text"


AllowPrivate = Annotated[
    list[str] | None, typer.Option(help="A host in a private network that may be asked; HOST or HOST:PORT.")
]
Timeout = Annotated[float, typer.Option(help="Seconds until an address counts as slow.", min=0.01)]
Pause = Annotated[float, typer.Option(help="Seconds between the first time that one fails and the second.", min=0.0)]


def links(
    site: Annotated[str, typer.Argument(help="The site document, or - for standard input.")],
    allow_private: AllowPrivate = None,
    timeout: Timeout = 15.0,
    pause: Pause = 120.0,
    form: Annotated[Form, typer.Option("--format")] = Form.text,
) -> None:
    """Whether the addresses in the site's menus answer. Each is asked once, and again where that fails; exit 1 if one does not answer well."""
    document = read_site(site)
    addresses = addresses_of(document)
    found = asked(document, private=allow_private or (), timeout_s=timeout, pause_s=pause)
    told = [_told(one, found.get(one.absolute or "")) for one in addresses]
    if form is Form.json:
        write_json(told)
    else:
        for one in told:
            print(f"{one['verdict']:<12} {one['address']}  {one['says']}")
            for use in one["used"]:
                print(f"{'':<12} {use['menu']} {use['number']}")
    if any(one["verdict"] not in GOOD for one in told):
        raise typer.Exit(1)


def asked(
    document: SiteDocument, *, private: Iterable[str], timeout_s: float, pause_s: float
) -> dict[str, LinkFinding]:
    """What is found of every address in the site's menus, by the absolute address."""
    from sign_shelf.outside.fetch import Fetcher
    from sign_shelf.outside.links import LinkAsker, check_all

    own = {host_of(document.site.base), *(other.host.lower() for other in document.site.hosts)}
    wanted = dict.fromkeys(one.absolute for one in addresses_of(document) if one.absolute is not None)

    async def ask() -> dict[str, LinkFinding]:
        async with Fetcher(frozenset(private), timeout_s=timeout_s) as fetcher:
            return {one: found async for one, found in check_all(LinkAsker(fetcher, own), wanted, pause_s=pause_s)}

    return asyncio.run(ask())


def _told(one: Address, found: LinkFinding | None) -> dict[str, Any]:
    return {
        "address": one.address,
        "verdict": found.verdict if found else "not-asked",
        "status": found.status if found else None,
        "hops": [asdict(hop) for hop in found.hops] if found else [],
        "says": found.says if found else one.why_not,
        "used": [asdict(use) for use in one.used],
    }

"""Whether the addresses in a site's menus answer."""

import asyncio
from dataclasses import asdict
from enum import StrEnum
from typing import Annotated, Any

import typer

from sign_shelf.cli.files import read_site, write_json
from sign_shelf.core.basics.address import host_of
from sign_shelf.core.links import GOOD, Address, LinkFinding, addresses_of
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.outside.links import LinkAsker, check_all


class Form(StrEnum):
    json = "json"
    text = "text"


def links(
    site: Annotated[str, typer.Argument(help="The site document, or - for standard input.")],
    allow_private: Annotated[
        list[str] | None, typer.Option(help="A host in a private network that may be asked; HOST or HOST:PORT.")
    ] = None,
    timeout: Annotated[float, typer.Option(help="Seconds until an address counts as slow.", min=0.01)] = 15.0,
    pause: Annotated[
        float, typer.Option(help="Seconds between the first time that one fails and the second.", min=0.0)
    ] = 120.0,
    form: Annotated[Form, typer.Option("--format")] = Form.text,
) -> None:
    """Asks every address in the site's menus once, and again where that fails. Exit 1 where one does not answer well."""
    document = read_site(site)
    addresses = addresses_of(document)
    found = asyncio.run(_found(document, addresses, frozenset(allow_private or ()), timeout, pause))
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


async def _found(
    document: SiteDocument, addresses: list[Address], private: frozenset[str], timeout_s: float, pause_s: float
) -> dict[str, LinkFinding]:
    own = {host_of(document.site.base), *(other.host.lower() for other in document.site.hosts)}
    asked = dict.fromkeys(one.absolute for one in addresses if one.absolute is not None)
    async with Fetcher(private, timeout_s=timeout_s) as fetcher:
        return {address: found async for address, found in check_all(LinkAsker(fetcher, own), asked, pause_s=pause_s)}


def _told(one: Address, found: LinkFinding | None) -> dict[str, Any]:
    return {
        "address": one.address,
        "verdict": found.verdict if found else "not-asked",
        "status": found.status if found else None,
        "hops": [asdict(hop) for hop in found.hops] if found else [],
        "says": found.says if found else one.why_not,
        "used": [asdict(use) for use in one.used],
    }

"""Sweeps over site documents, or over the shelf of a server."""

import json
from collections.abc import Iterator
from datetime import UTC, datetime
from itertools import groupby
from pathlib import Path
from typing import Annotated, Any
from uuid import uuid4

import typer

from sign_shelf.cli import remote
from sign_shelf.cli.files import read_site, write_json
from sign_shelf.core.basics.clock import clock_of
from sign_shelf.core.errors import Refusal
from sign_shelf.core.model.site import SiteDocument

SITES_AT_ONCE = 10
"""Of which a server is asked what would come of the entries."""


def sweep(
    query: Annotated[str, typer.Argument(help="Such as host:old.example, label:=Fares or place:footer kind:link.")],
    sites: Annotated[list[str] | None, typer.Argument(help="Site documents; none where a server is given.")] = None,
    to: Annotated[str | None, typer.Option(help="Lead all to this path or address, mailto:, tel:, or pending.")] = None,
    label: Annotated[str | None, typer.Option(help="Their label from now on, in --language.")] = None,
    language: Annotated[str | None, typer.Option(help="The language of --label, or the only one of --find.")] = None,
    find: Annotated[str | None, typer.Option(help="Text in their labels that is replaced by --by.")] = None,
    by: Annotated[str, typer.Option(help="What stands in its place; of a pattern, \\1 is its first group.")] = "",
    pattern: Annotated[bool, typer.Option("--pattern", help="--find is a pattern (RE2).")] = False,
    address: Annotated[bool, typer.Option("--address", help="--find is looked for in addresses, not labels.")] = False,
    emphasis: Annotated[str | None, typer.Option(help="plain, strong or button.")] = None,
    icon: Annotated[str | None, typer.Option(help="An icon of the set; an empty text takes it away.")] = None,
    rule: Annotated[str | None, typer.Option(help="Who sees them; an empty text is everybody.")] = None,
    window: Annotated[
        tuple[str, str] | None, typer.Option(metavar="FROM UNTIL", help="When they show; - is open to that side.")
    ] = None,
    remove: Annotated[bool, typer.Option("--remove", help="Take them away, with what stands below.")] = False,
    title: Annotated[
        str | None, typer.Option(help="Begins a change of this title on the server, with the edit made.")
    ] = None,
    write: Annotated[bool, typer.Option("--write", help="Writes the site documents back with the edit made.")] = False,
) -> None:
    """Entries of many menus found by a query, and the same edit made of all of them. Without an edit they are told; with one it is
    told what would come of each. Exit 1 where nothing is found."""
    making = _making(
        retarget={"to": to} if to is not None else None,
        relabel={"language": language, "label": label} if label is not None else None,
        replace={"find": find, "by": by, "pattern": pattern, "within": "address" if address else "label"}
        | ({"language": language} if language is not None else {})
        if find is not None
        else None,
        look={name: value for name, value in {"emphasis": emphasis, "icon": icon}.items() if value is not None} or None,
        rule={"when": rule or None} if rule is not None else None,
        window={name: value for name, value in zip(("from", "until"), window, strict=True) if value != "-"}
        if window is not None
        else None,
        remove={} if remove else None,
    )
    server = remote.given()
    if server is not None:
        if sites:
            raise Refusal("On a server all sites are swept.", remedy="Name some in the query: site:brackwater.")
        _on_a_server(server, query, making, title)
        return
    if not sites:
        raise Refusal("Which sites?", remedy="Name site documents, or a server by sign-shelf --server URL sweep.")
    if title is not None:
        raise Refusal("--title begins a change on a server.", remedy="With documents, write --write.")
    _in_documents(query, sites, making, write)


def _making(**given: dict[str, Any] | None) -> dict[str, Any] | None:
    named = {name: value for name, value in given.items() if value is not None}
    if len(named) > 1:
        raise Refusal(f"A sweep makes one edit, not {' and '.join(named)}.", remedy="Make one after the other.")
    return next(({"do": name} | value for name, value in named.items()), None)


def _on_a_server(server: remote.Server, query: str, making: dict[str, Any] | None, title: str | None) -> None:
    if making is None:
        found = json.loads(server.ask("GET", "/api/sweeps", query=query))
        write_json(found)
        raise typer.Exit(0 if found["entries"] else 1)
    if title is None:
        told: list[object] = []
        sites = json.loads(server.ask("GET", "/api/sweeps", query=query))["sites"]
        for at in range(0, len(sites), SITES_AT_ONCE):
            body = {"query": query, "making": making, "sites": sites[at : at + SITES_AT_ONCE]}
            told += map(json.loads, server.ask("POST", "/api/sweeps/preview", body=body).splitlines())
        write_json(told)
        raise typer.Exit(0 if told else 1)
    body = {"query": query, "making": making, "title": title}
    write_json(json.loads(server.ask("POST", "/api/sweeps", body=body, headers={"idempotency-key": str(uuid4())})))


def _in_documents(query: str, names: list[str], given: dict[str, Any] | None, write: bool) -> None:
    from pydantic import TypeAdapter

    from sign_shelf.core.checks import Checked, SiteView
    from sign_shelf.core.resolve import Prepared
    from sign_shelf.core.sweeps import Making, SweptEntry, read_query, swept
    from sign_shelf.core.sweeps.entry import entries_of

    sought = read_query(query)
    making: Making | None = TypeAdapter(Making).validate_python(given) if given is not None else None
    asks_findings = any(term.name == "finding" for term in sought.terms)

    def found_in(site: SiteDocument) -> Iterator[SweptEntry]:
        now = clock_of(site.site.zone).now(datetime.now(UTC))
        codes: dict[tuple[str, str], frozenset[str]] = {}
        for one in Checked.of(SiteView(Prepared(site), now[:10])).findings() if asks_findings else ():
            named = one.menu or "", one.item or ""
            codes[named] = codes.get(named, frozenset()) | {one.code}
        return (entry for entry in entries_of(site, codes, now) if sought.finds(entry))

    told: list[dict[str, object]] = []
    for name in names:
        site = read_site(name)
        after = dict(site.menus)
        for menu, entries in groupby(found_in(site), key=lambda one: one.menu):
            mine = list(entries)
            done = swept(site, menu, {one.item for one in mine}, making) if making is not None else None
            after[menu] = done.menu if done is not None else site.menus[menu]
            for one in mine:
                line: dict[str, object] = {
                    "site": one.site, "menu": menu, "item": one.item, "number": one.number, "kind": one.kind, "label": one.label,
                    "leads_to": next(iter(one.goals[::-1]), None),
                }  # fmt: skip
                if done is not None:
                    line |= {"does": list(done.does.get(one.item, ())), "refused": done.refused.get(one.item)}
                told.append(line)
        if write and after != site.menus:
            whole = site.model_copy(update={"menus": after})
            Path(name).write_text(json.dumps(whole.to_json(), ensure_ascii=False, indent=2) + "\n", "utf-8")
    write_json(told)
    raise typer.Exit(0 if told else 1)

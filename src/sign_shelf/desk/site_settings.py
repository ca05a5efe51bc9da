"""What a site is called, where it is, its clock, languages and policy, who works on it; and putting it away."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import cast

from sign_shelf.core.basics.address import normal
from sign_shelf.core.errors import Clash, InvalidDocument, Problem, StaleWrite
from sign_shelf.core.model.documents import content_hash, read
from sign_shelf.core.model.site import OtherHost, PagesKept, Particulars, Policy
from sign_shelf.core.model.template import Template
from sign_shelf.desk import inventory
from sign_shelf.desk.permission import Person, Role, require, role_may
from sign_shelf.desk.portfolio import board, facts_of, menu_on_shelf, site_row
from sign_shelf.outside.endpoint import discover
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import ledger, people, sites
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import SiteRow


@dataclass(frozen=True)
class Settings:
    """`hash` names what is settled: changes are kept on top of it."""

    particulars: Particulars
    hash: str
    connection: str
    endpoint: str | None
    archived_at: datetime | None
    people: tuple[tuple[str, str], ...]
    """Who may look at it, by name, with their role there."""


async def settings(database: Database, person: Person, site_key: str) -> Settings:
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        return await _settings(session, site)


async def keep(
    database: Database,
    fetcher: Fetcher,
    person: Person,
    site_key: str,
    *,
    expected: str,
    wanted: Mapping[str, object],
    policy: Mapping[str, object],
    pages: Mapping[str, object],
    now: datetime,
) -> Settings:
    """The particulars, their policy, and how their pages are kept known, with these fields in place of theirs. A new address is asked for what the site can do, where it is
    written to. Raises InvalidDocument, StaleWrite, and Clash for another site's address."""
    where = f"sites/{site_key}/settings"
    require(person, "settings", where, site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        before = facts_of(site)
        settled = before.to_json() | dict(wanted)
        settled |= {"policy": before.policy.to_json() | dict(policy), "pages": before.pages.to_json() | dict(pages)}
        after = read(Particulars, settled, what="settings")
        after = after.model_copy(update={"base": normal(after.base, after.base) or after.base})
        live = await board(session, person, site_key, "live")
        _refuse_shared(live.template, after, where)
        _refuse_nowhere(live.template, after.seen_at.keys() - before.seen_at.keys())
        if after.pages.into is not None:
            menu_on_shelf(live, after.pages.into)
        endpoint = site.endpoint
        asks = site.connection == "endpoint" and after.base != before.base
    if asks:
        found = await discover(fetcher, after.base)
        if found is None:
            raise Clash(
                f"Nothing at {after.base} answers in the site protocol.", where=where,
                remedy="Look whether the address is whole, and try again once the site answers there.",
            )  # fmt: skip
        endpoint, after = found.menus, after.model_copy(update={"can": found.can})
    async with database.transaction() as session:
        site = await site_row(session, person, site_key, lock=True)
        if _hash(site) != expected:
            raise StaleWrite(
                "Somebody changed the settings in between.", remedy="Look at them again and change yours.", merge={}
            )
        if after.base != before.base and any(
            other.base == after.base and other.id != site.id for other in await sites.all_sites(session)
        ):
            raise Clash(f"Another site on the shelf is at {after.base}.", where=where, remedy="Write another address.")
        if after.pages.every != before.pages.every:
            await inventory.in_rhythm(session, site.id, after.pages.every, now)
        says = _says(before, after)
        site.name, site.base, site.endpoint = after.name, after.base, endpoint
        site.particulars = after.to_json()
        session.add(site)
        if says:
            ledger.write(session, "settings", f"{after.name}: {says}", at=now, person_id=person.id, site_id=site.id)
        return await _settings(session, site)


def _refuse_shared(template: Template, after: Particulars, where: str) -> None:
    """Two places of the template that are one place of the site: what goes to the one would be undone by the other."""
    taken: dict[str, str] = {}
    for place in template.locations:
        called = after.called(place.key)
        if called in taken:
            raise Clash(
                f"{taken[called]} and {place.title} are both {called}.", where=where,
                remedy="Say for one of them which other place of the site it is.",
            )  # fmt: skip
        taken[called] = place.title


def _refuse_nowhere(template: Template, named: Collection[str]) -> None:
    """Places that are newly said to stand somewhere on the page, and are none. Those of a template that the site had before stay, for
    when it comes back to it."""
    keys = {place.key for place in template.locations}
    for key in sorted(named):
        if key not in keys:
            says = f"the template has no such location; it has {', '.join(sorted(keys))}"
            raise InvalidDocument([Problem(where=f"seen_at.{key}", says=says)])


async def put_away(database: Database, person: Person, site_key: str, *, away: bool, now: datetime) -> None:
    """Puts the site away, or takes it out again. Visitors go on getting what is live; nothing of it is lost."""
    where = f"sites/{site_key}/archived"
    require(person, "settings", where, site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key, lock=True)
        if (site.archived_at is not None) == away:
            return
        site.archived_at = now if away else None
        session.add(site)
        says = f"Put {site.name} away" if away else f"Took {site.name} out again"
        ledger.write(session, "settings", says, at=now, person_id=person.id, site_id=site.id)


def _hash(site: SiteRow) -> str:
    return content_hash(facts_of(site))


async def _settings(session: Session, site: SiteRow) -> Settings:
    at_sites = await people.roles_at_sites(session)
    listed = [
        (row.name, role)
        for row in await people.everybody(session)
        if row.disabled_at is None
        and role_may(role := cast(Role, at_sites.get(row.id, {}).get(site.key, row.role)), "look")
    ]
    return Settings(
        particulars=facts_of(site),
        hash=_hash(site),
        connection=site.connection,
        endpoint=site.endpoint,
        archived_at=site.archived_at,
        people=tuple(sorted(listed, key=lambda one: one[0].casefold())),
    )


_CALLED = {
    "name": "is called {}",
    "base": "is at {}",
    "client": "is a site of {}",
    "zone": "lives by the clock of {}",
    "languages": "speaks {}",
    "hosts": "has the other hosts {}",
    "policy": "has another policy",
    "pages": "has its pages read in another rhythm, or put elsewhere",
    "places": "has its places matched anew",
    "seen_at": "has its places on its pages named anew",
    "details": "has other details for shared menus",
    "roles": "has other pages for shared menus",
}


def _says(before: Particulars, after: Particulars) -> str:
    """What is other than before."""
    told = []
    for name, says in _CALLED.items():
        was, now = getattr(before, name), getattr(after, name)
        if was != now:
            told.append(says.format(_words(now)))
    return ", ".join(told)


def _words(value: object) -> str:
    if isinstance(value, tuple):
        return ", ".join(_words(one) for one in value) or "none"
    if isinstance(value, OtherHost):
        return value.host
    return "" if isinstance(value, Policy | PagesKept | dict) else str(value or "nobody in particular")

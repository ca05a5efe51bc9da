"""What a site looks like and what it offers: looks of its own, templates and their versions, switching between them."""

from collections.abc import Mapping
from datetime import datetime

from pydantic import JsonValue

from sign_shelf.core.compare.sites import own_look
from sign_shelf.core.documents import read
from sign_shelf.core.errors import Clash, EditRefused, NotFound
from sign_shelf.core.look import PlaceLook
from sign_shelf.core.switch import SwitchReport, switch_report, switched
from sign_shelf.core.template import Template
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import Board, board, site_row
from sign_shelf.store import changes, ledger, sites
from sign_shelf.store.database import Database, Session


async def set_look(
    database: Database, person: Person, site_key: str, location: str, look: Mapping[str, JsonValue], now: datetime
) -> PlaceLook:
    """The location's look on this site from now on: every key that differs from the template's. Raises InvalidDocument."""
    where = f"sites/{site_key}/looks/{location}"
    require(person, "design", where)
    wanted = read(PlaceLook, dict(look), what="look")
    async with database.transaction() as session:
        row = await site_row(session, site_key, lock=True)
        template = await _template(session, row.template_key, row.template_version)
        place = template.location(location)
        if place is None:
            raise NotFound(f'The template has no location "{location}".', where=where)
        # A key that the template sets and the site does not want is kept as its default.
        own = own_look(place.look, wanted)
        row.looks = {key: kept for key, kept in ({**row.looks, location: own}).items() if kept}
        session.add(row)
        await changes.open_draft(session, row.id, person.id, f"Draft of {now:%-d %B}", now)
        says = f"Changed the look of {place.title}"
        ledger.write(session, "look", says, at=now, person_id=person.id, site_id=row.id, location=location)
        return wanted


async def save_template(database: Database, person: Person, document: Mapping[str, object], now: datetime) -> Template:
    """The next version of the template. Sites stay on the version that they have until they are moved."""
    require(person, "design", "templates")
    async with database.transaction() as session:
        known = [one for one in await sites.all_templates(session) if one.key == document.get("key")]
        newest = max((one.version for one in known), default=0)
        asked = document.get("version", newest)
        if known and asked != newest:
            raise Clash(
                f"Version {newest} of this template was saved meanwhile.", where="template",
                remedy="Look at it, and make your changes there.",
            )  # fmt: skip
        template = read(Template, {**document, "version": newest + 1}, what="template")
        before = next((one for one in known if one.version == newest), None)
        if before is not None and before.model_copy(update={"version": newest + 1}) == template:
            return before
        await sites.keep_template(session, template)
        says = f"Saved version {template.version} of the template {template.title or template.key}"
        ledger.write(session, "template", says, at=now, person_id=person.id, site_id=None, template=template.key)
        return template


async def report(
    session: Session, found: Board, key: str, version: int, by_hand: Mapping[str, str | None]
) -> tuple[Template, SwitchReport]:
    """What switching the site to the template would do."""
    after = await _template(session, key, version)
    return after, switch_report(found.document(), after, by_hand)


async def switch(
    database: Database,
    person: Person,
    site_key: str,
    *,
    key: str,
    version: int,
    by_hand: Mapping[str, str | None],
    now: datetime,
) -> SwitchReport:
    """Moves the site to the template, as part of its draft. Raises EditRefused while something would not fit there."""
    where = f"sites/{site_key}/template"
    require(person, "design", where)
    async with database.transaction() as session:
        row = await site_row(session, site_key, lock=True)
        found = await board(session, site_key)
        if (row.template_key, row.template_version) == (key, version):
            raise EditRefused("The site is on this version already.", where=where)
        after, told = await report(session, found, key, version, by_hand)
        stuck = [one for one in told.kept if one.too_deep or one.kinds_refused]
        if stuck:
            names = ", ".join(f"{one.title} → {one.to_title}" for one in stuck)
            raise EditRefused(
                f"What hangs in {names} does not fit there.", where=where,
                remedy="Match these places by hand, or change their menus first.",
            )  # fmt: skip
        hung = [
            (one.location, one.device, found.menus[one.menu].row.id if one.menu else None)
            for one in switched(found.document(), after, by_hand)
        ]
        goes = {one.location: one.to for one in told.kept}
        row.template_key, row.template_version = key, version
        row.looks = {to: look for old, look in row.looks.items() if (to := goes.get(old))}
        session.add(row)
        await sites.hang_anew(session, row.id, hung)
        await changes.open_draft(session, row.id, person.id, f"Draft of {now:%-d %B}", now)
        says = f"Moved {row.name} to the template {after.title or after.key}, version {version}"
        ledger.write(session, "switch", says, at=now, person_id=person.id, site_id=row.id, template=key)
        return told


async def _template(session: Session, key: str, version: int) -> Template:
    found = (await sites.templates(session, {(key, version)})).get((key, version))
    if found is None:
        raise NotFound(f'There is no template "{key}" in version {version}.', where="template")
    return found

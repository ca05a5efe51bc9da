"""What a site looks like and what it offers: looks of its own, templates and their versions, switching between them."""

from collections.abc import Mapping
from datetime import datetime

from pydantic import JsonValue

from sign_shelf.core.changes.arrangement import TemplateVersion
from sign_shelf.core.changes.switch import SwitchReport, switch_report, switched
from sign_shelf.core.compare.sites import own_look
from sign_shelf.core.errors import Clash, EditRefused, NotFound
from sign_shelf.core.look import PlaceLook
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.template import Template
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import Board, View, board, site_row, template_of
from sign_shelf.desk.workplace import arrange, to_edit
from sign_shelf.store import ledger, sites
from sign_shelf.store.database import Database, Session


async def set_look(
    database: Database,
    person: Person,
    site_key: str,
    location: str,
    look: Mapping[str, JsonValue],
    now: datetime,
    *,
    view: View = None,
) -> PlaceLook:
    """The location's look in the change from now on: every key that differs from the template's. Raises InvalidDocument."""
    where = f"sites/{site_key}/looks/{location}"
    require(person, "design", where, site_key)
    wanted = read(PlaceLook, dict(look), what="look")
    async with database.transaction() as session:
        at = await to_edit(session, person, await site_row(session, person, site_key), view, now)
        found = await board(session, person, site_key, at.change.id)
        place = found.plain.location(location)
        if place is None:
            raise NotFound(f'The template has no location "{location}".', where=where)
        # A key that the template sets and the site does not want is kept as its default.
        own = own_look(place.look, wanted)
        looks = {key: kept for key, kept in {**found.arrangement.looks, location: own}.items() if kept}
        await arrange(session, at, found.arrangement.model_copy(update={"looks": looks}))
        says = f"Changed the look of {place.title}"
        ledger.write(session, "look", says, at=now, person_id=person.id, site_id=at.site.id, location=location,
                     change=str(at.change.id))  # fmt: skip
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
    after = await template_of(session, _version(key, version))
    return after, switch_report(found.document(), after, by_hand)


async def switch(
    database: Database,
    person: Person,
    site_key: str,
    *,
    view: View = None,
    key: str,
    version: int,
    by_hand: Mapping[str, str | None],
    now: datetime,
) -> SwitchReport:
    """Moves the site to the template, in the change. Raises EditRefused while something would not fit there."""
    where = f"sites/{site_key}/template"
    require(person, "design", where, site_key)
    async with database.transaction() as session:
        at = await to_edit(session, person, await site_row(session, person, site_key), view, now)
        found = await board(session, person, site_key, at.change.id)
        if found.arrangement.template == _version(key, version):
            raise EditRefused("The site is on this version already.", where=where)
        after, told = await report(session, found, key, version, by_hand)
        stuck = [one for one in told.kept if one.too_deep or one.kinds_refused]
        if stuck:
            names = ", ".join(f"{one.title} → {one.to_title}" for one in stuck)
            raise EditRefused(
                f"What hangs in {names} does not fit there.", where=where,
                remedy="Match these places by hand, or change their menus first.",
            )  # fmt: skip
        goes = {one.location: one.to for one in told.kept}
        looks = {to: look for old, look in found.arrangement.looks.items() if (to := goes.get(old))}
        moved = {
            "template": _version(key, version),
            "looks": looks,
            "placements": switched(found.document(), after, by_hand),
        }
        await arrange(session, at, found.arrangement.model_copy(update=moved))
        says = f"Moved {at.site.name} to the template {after.title or after.key}, version {version}"
        ledger.write(session, "switch", says, at=now, person_id=person.id, site_id=at.site.id, template=key,
                     change=str(at.change.id))  # fmt: skip
        return told


def _version(key: str, version: int) -> TemplateVersion:
    """Raises InvalidDocument for what can be no key or no version."""
    return read(TemplateVersion, {"key": key, "version": version}, what="template")

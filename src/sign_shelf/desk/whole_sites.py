"""Sites put on the shelf from site documents, and taken out as such, at the machine itself."""

from datetime import datetime

from sign_shelf.core.changes.arrangement import Arrangement, TemplateVersion
from sign_shelf.core.errors import Clash
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.desk.portfolio import unknown_site
from sign_shelf.desk.put_live import whole
from sign_shelf.store import ledger, menus, sites, states
from sign_shelf.store.database import Database
from sign_shelf.store.tables import SiteRow


async def put_on_shelf(database: Database, document: SiteDocument, now: datetime) -> None:
    """The site as the document has it, as live; it can only be looked at until it is connected. Raises Clash where a site has
    its key or address, or the shelf knows its template's version otherwise."""
    facts = document.site
    async with database.transaction() as session:
        if clash := await sites.site_clash(session, facts.key, facts.base):
            raise Clash(f"{clash.name} has this key or address already.", where=facts.key,
                        remedy="Take it out of the file, or give it another key and address.")  # fmt: skip
        await sites.keep_template(session, document.template)
        version = TemplateVersion(key=document.template.key, version=document.template.version)
        known = (await sites.templates(session, {(version.key, version.version)}))[version.key, version.version]
        if known != document.template:
            raise Clash(f"The shelf knows version {version.version} of the template {version.key} otherwise.",
                        where=facts.key, remedy="Give the template in the file another key or version.")  # fmt: skip
        arrangement = Arrangement(template=version, placements=document.placements, archived=document.archived).knowing(
            document.known()
        )
        trees = {key: await menus.keep_tree(session, menu) for key, menu in document.menus.items()}
        row = SiteRow(
            key=facts.key, name=facts.name, base=facts.base, particulars=facts.to_json(), connection="observe",
            live_state=await states.keep_state(session, arrangement, trees), live_since=now, created_at=now,
        )  # fmt: skip
        session.add(row)
        await session.flush()
        await sites.add_pages(session, row.id, document.pages)
        for key, hash in trees.items():
            await menus.add_revision(session, row.id, key, hash, parent=None, author_id=None, change_id=None, at=now)
        ledger.write(session, "take in", f"Put {facts.name} on the shelf from a file", at=now, site_id=row.id)


async def taken_out(database: Database, key: str) -> SiteDocument:
    """The site as it is live."""
    async with database.transaction() as session:
        row = await sites.site_by_key(session, key)
        if row is None:
            raise unknown_site(key)
        return await whole(session, row, row.live_state)

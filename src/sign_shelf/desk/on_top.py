"""What a change comes to on top of another state than the one that it set out from."""

from sign_shelf.core.changes.arrangement import TemplateVersion
from sign_shelf.core.changes.going_live import target
from sign_shelf.core.changes.merging import Merged, Templates
from sign_shelf.core.changes.state import Contents
from sign_shelf.core.model.template import Template
from sign_shelf.store import sites, states
from sign_shelf.store.database import Session
from sign_shelf.store.tables import ChangePartRow


async def merged_with(session: Session, part: ChangePartRow, live: str) -> Merged:
    base, head, then = [await states.contents(session, name) for name in (part.base, part.head, live)]
    return target(base, head, then, templates=await templates_of(session, (base, head, then)))


async def templates_of(session: Session, sides: tuple[Contents, ...]) -> Templates:
    versions = {(one.arrangement.template.key, one.arrangement.template.version) for one in sides}
    found = await sites.templates(session, versions)

    def template(version: TemplateVersion) -> Template:
        return found[version.key, version.version]

    return template

"""The agency's own fonts, beside those that ship."""

import hashlib
from datetime import datetime

from sign_shelf.core.errors import FitRefused
from sign_shelf.core.fit import Family, FontFile, FontSet
from sign_shelf.core.fit.font_file import FontFacts, font_facts, sfnt_of
from sign_shelf.desk.permission import Person, require
from sign_shelf.outside.fonts import shipped_fonts
from sign_shelf.settings import STATIC
from sign_shelf.store import fonts, ledger
from sign_shelf.store.database import Database
from sign_shelf.store.tables import FontRow

MOST_FONTS = 100
_known: dict[str, FontFile] = {}


async def own_fonts(database: Database) -> list[FontRow]:
    async with database.transaction() as session:
        return await fonts.all_fonts(session)


async def every_font(database: Database) -> FontSet:
    """Those that ship and the agency's own. A file is taken apart once, however often it is asked for."""
    shipped = shipped_fonts(STATIC / "fonts")
    own = await own_fonts(database)
    if not own:
        return shipped
    families = dict(shipped.families)
    for row in own:
        file = _known.get(row.hash)
        if file is None:
            data = bytes(row.file)
            file = _known[row.hash] = FontFile(row.family, lambda data=data: data, lambda _: True)  # type: ignore[misc]
        families[row.family] = Family(row.family, (row.lightest, row.heaviest), (file,))
    return FontSet(families)


async def keep_font(database: Database, person: Person, data: bytes, now: datetime) -> FontFacts:
    """Checks and keeps a font. Raises FitRefused for what is no usable font, or is one of those that ship."""
    require(person, "design", "fonts")
    sfnt = sfnt_of(data)
    facts = font_facts(sfnt)
    if facts.family in shipped_fonts(STATIC / "fonts").families:
        raise FitRefused(
            f'"{facts.family}" is one of the fonts that ship.', where="font", remedy="Choose it by its name."
        )
    async with database.transaction() as session:
        row = await fonts.font_named(session, facts.family)
        if row is None and len(await fonts.all_fonts(session)) >= MOST_FONTS:
            raise FitRefused(f"There are {MOST_FONTS} fonts already.", where="font", remedy="Use one of them.")
        row = row or FontRow(family=facts.family, lightest=1, heaviest=1, file=b"", hash="", at=now)
        row.lightest, row.heaviest = facts.weights
        row.file, row.hash, row.person_id, row.at = sfnt, hashlib.sha256(sfnt).hexdigest(), person.id, now
        session.add(row)
        says = f"Uploaded the font {facts.family}"
        ledger.write(session, "font", says, at=now, person_id=person.id, site_id=None)
    return facts

"""Entries of the menus that are live, looked for by the indexes of trees (`tree_item`) and what lies beside them; no menu is read."""

import re
from collections.abc import Iterator, Sequence

from sqlalchemy import text

from sign_shelf.core.sweeps.entry import SweptEntry
from sign_shelf.core.sweeps.query import Sought, Term
from sign_shelf.store.database import Session

_ALL = """
SELECT site.key, site.name, one.key, tree.name, t.item, t.number, t.kind, t.label, t.page, page.path, t.address, t.host,
  t.rule, t.opens, t.closes
"""
_LIVE = """
FROM site JOIN state ON state.hash = site.live_state CROSS JOIN json_each_text(state.menus) one
JOIN tree ON tree.hash = one.value JOIN tree_item t ON t.hash = one.value
LEFT JOIN page ON page.site_id = site.id AND page.ref = t.page
"""
_ORDER = " ORDER BY site.name, site.key, one.key, t.position"
_ASCII = re.compile(r"[\x20-\x7e]+")


async def entries(session: Session, sites: Sequence[str], sought: Sought) -> list[SweptEntry]:
    """Of these sites: at least all that the query finds. What the database can tell of it keeps others away; what it cannot, such as
    patterns, is for who asks to look at. Their places, findings and clocks are left empty."""
    given: dict[str, object] = {"sites": list(sites)}
    wheres = ["site.key = ANY (:sites)"]
    for at, term in enumerate(sought.terms):
        for condition, value in _narrowed(term, f"v{at}"):
            wheres.append(condition)
            given |= value
    for at, term in enumerate(sought.terms):
        if term.form == "pattern" and not term.negated and term.name in _TEXTS:
            columns = _TEXTS[term.name]
            held = [await _held(session, term, column, wheres, given) for column in columns]
            wheres.append(f"({' OR '.join(f'{column} = ANY (:p{at})' for column in columns)})")
            given[f"p{at}"] = sorted({one for each in held for one in each})
    # All that is put in are conditions of this module; values are bound.
    query = text(f"{_ALL} {_LIVE} WHERE {' AND '.join(wheres)} {_ORDER}")
    nothing: frozenset[str] = frozenset()
    return [
        SweptEntry._make((*row, nothing, nothing, ""))
        for row in await (await session.connection()).execute(query, given)
    ]


async def _held(
    session: Session, term: Term, column: str, wheres: Sequence[str], given: dict[str, object]
) -> list[str]:
    """The texts that the pattern is in: each is looked at once, in however many menus it stands."""
    query = text(f"SELECT DISTINCT {column} {_LIVE} WHERE {' AND '.join(wheres)} AND {column} IS NOT NULL")
    asked = {name: value for name, value in given.items() if f":{name}" in query.text}
    texts = [row[0] for row in await (await session.connection()).execute(query, asked)]
    return [one for one in texts if term.is_in(one)]


def _narrowed(term: Term, name: str) -> Iterator[tuple[str, dict[str, object]]]:
    if term.negated:
        return
    match term.name:
        case "finding":
            yield _FOUND, {}
        case "kind":
            yield f"t.kind = :{name}", {name: term.value}
        case "rule" | "window" if term.value in {"any", "none"}:
            there = "IS NOT NULL" if (term.value == "any") else "IS NULL"
            if term.name == "rule":
                yield f"t.rule {there}", {}
            elif term.value == "any":
                yield "(t.opens IS NOT NULL OR t.closes IS NOT NULL)", {}
        case "target" if term.value == "pending":
            yield "t.kind = 'link' AND t.page IS NULL AND t.address IS NULL", {}
        case "words" | "label" | "target" | "host" | "rule" if term.form != "pattern":
            # Letters beyond ASCII have their capitals by the database's locale: it is asked for what is left between them.
            piece = max(_ASCII.findall(term.value), key=len, default="")
            if len(piece) > 1:
                like = re.sub(r"([\\%_])", r"\\\1", piece.lower())
                yield f"lower({_LOOKED_AT[term.name]}) LIKE :{name}", {name: f"%{like}%"}


_FOUND = "EXISTS (SELECT 1 FROM finding f WHERE f.site_id = site.id AND f.menu = one.key AND f.item = t.item AND f.gone_at IS NULL)"
_LOOKED_AT = {
    "words": "concat_ws(' ', t.label, '@' || t.page, page.path, t.address)",
    "label": "t.label",
    "target": "concat_ws(' ', '@' || t.page, page.path, t.address)",
    "host": "t.host",
    "rule": "t.rule",
}
_TEXTS: dict[str, tuple[str, ...]] = {
    "label": ("t.label",),
    "host": ("t.host",),
    "rule": ("t.rule",),
    "target": ("'@' || t.page", "page.path", "t.address"),
}

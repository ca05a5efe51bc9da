"""Whose the edits of a menu are, by the revisions that people saved in its change."""

import asyncio
from collections.abc import Iterable, Mapping, Sequence
from uuid import UUID

from sign_shelf.core.compare import Edit
from sign_shelf.core.outgoing import Turn, whose
from sign_shelf.store import menus, people
from sign_shelf.store.database import Session
from sign_shelf.store.tables import RevisionRow, SiteRow


async def whose_edits(
    session: Session, site: SiteRow, change_id: UUID, menu: str, edits: Sequence[Edit]
) -> list[str | None]:
    """The names of the people whose edits of the menu in the change these are."""
    authors = await people.people_by_id(session, await menus.authors_in(session, site.id, menu, change_id))
    if len(authors) <= 1:
        # Mostly one works alone: no save waits for what others did.
        name = next((one.name for one in authors.values()), None)
        return [name] * len(edits)
    runs = _runs(await menus.revisions_in(session, site.id, menu, change_id))
    turns = await _turns(session, runs, {id: person.name for id, person in authors.items()})
    return await asyncio.to_thread(whose, edits, turns)


def _runs(rows: Iterable[RevisionRow]) -> list[list[RevisionRow]]:
    """Saves of one person with none of another between them."""
    runs: list[list[RevisionRow]] = []
    for row in rows:
        if runs and runs[-1][-1].author_id == row.author_id:
            runs[-1].append(row)
        else:
            runs.append([row])
    return runs


async def _turns(session: Session, runs: Sequence[Sequence[RevisionRow]], names: Mapping[UUID, str]) -> list[Turn]:
    parents = await menus.revisions_by_id(session, [run[0].parent_id for run in runs])
    trees = await menus.documents(session, {run[-1].hash for run in runs} | {row.hash for row in parents.values()})
    found = []
    for run in runs:
        author, parent = run[-1].author_id, parents.get(run[0].parent_id or -1)
        if author is not None:
            earlier = trees[parent.hash].items if parent is not None else ()
            found.append(Turn(names[author], earlier, trees[run[-1].hash].items))
    return found

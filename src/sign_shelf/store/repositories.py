"""Where sites get their menus by commits. An address may hold a token, so it is sealed."""

from typing import NamedTuple
from uuid import UUID

from pydantic import SecretStr

from sign_shelf.store.database import Session
from sign_shelf.store.seals import Seals, repository
from sign_shelf.store.tables import RepositoryRow


class Kept(NamedTuple):
    remote: SecretStr
    branch: str
    folder: str


async def repository_of(session: Session, seals: Seals, site_id: UUID) -> Kept | None:
    row = await session.get(RepositoryRow, site_id)
    if row is None:
        return None
    return Kept(seals.open(row.sealed, repository(site_id)), row.branch, row.folder)


async def keep(session: Session, seals: Seals, site_id: UUID, kept: Kept) -> None:
    row = await session.get(RepositoryRow, site_id)
    sealed = seals.seal(kept.remote, repository(site_id))
    if row is None:
        row = RepositoryRow(site_id=site_id, sealed=sealed, branch=kept.branch, folder=kept.folder)
    row.sealed, row.branch, row.folder = sealed, kept.branch, kept.folder
    session.add(row)
    await session.flush()

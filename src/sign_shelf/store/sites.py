"""Sites with their templates, pages, placements, and what was last seen live on them."""

from collections.abc import Collection, Iterable, Mapping, Sequence
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import delete, exists, func, literal, or_, text, tuple_, update
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, select

from sign_shelf.core.model.documents import read
from sign_shelf.core.model.site import Page
from sign_shelf.core.model.template import Template
from sign_shelf.store.database import Session
from sign_shelf.store.tables import LiveSlotRow, PageRow, SiteRow, TemplateRow


async def site_by_key(session: Session, key: str, *, lock: bool = False) -> SiteRow | None:
    query = select(SiteRow).where(SiteRow.key == key)
    locked = query.with_for_update(key_share=True).execution_options(populate_existing=True)
    return (await session.exec(locked if lock else query)).first()


async def site_by_id(session: Session, site_id: UUID, *, lock: bool = False) -> SiteRow:
    query = select(SiteRow).where(SiteRow.id == site_id)
    locked = query.with_for_update(key_share=True).execution_options(populate_existing=True)
    return (await session.exec(locked if lock else query)).one()


async def keep_live(session: Session, site_ids: Collection[UUID]) -> dict[UUID, str]:
    """What is live at these sites, which stays so until the transaction ends; the rows that the session has of them are as they are now.

    Waits for releases that go live just now: what is begun on top of a state is moved on by whatever goes live after it.
    """
    wanted = select(SiteRow).where(col(SiteRow.id).in_(site_ids)).order_by(col(SiteRow.id)).with_for_update(read=True)
    return {row.id: row.live_state for row in await session.exec(wanted.execution_options(populate_existing=True))}


async def read_again(session: Session, site_ids: Collection[UUID]) -> None:
    """The rows that the session has of these sites are as they are now."""
    if site_ids:
        wanted = select(SiteRow).where(col(SiteRow.id).in_(site_ids)).execution_options(populate_existing=True)
        (await session.exec(wanted)).all()


async def site_clash(session: Session, key: str, base: str) -> SiteRow | None:
    """A site that has the key or the address already."""
    return (await session.exec(select(SiteRow).where(or_(col(SiteRow.key) == key, col(SiteRow.base) == base)))).first()


async def sites_by_key(session: Session, keys: Iterable[str]) -> list[SiteRow]:
    return list(await session.exec(select(SiteRow).where(col(SiteRow.key).in_(list(keys))).order_by(SiteRow.name)))


async def all_sites(session: Session) -> list[SiteRow]:
    return list(await session.exec(select(SiteRow).order_by(SiteRow.name)))


async def keep_template(session: Session, template: Template) -> None:
    """Adds the template's version; one that is there already stays as it is."""
    values = {"key": template.key, "version": template.version, "document": template.to_json()}
    await session.exec(insert(TemplateRow).values(values).on_conflict_do_nothing())


async def templates(session: Session, keys: Iterable[tuple[str, int]]) -> dict[tuple[str, int], Template]:
    wanted = tuple_(col(TemplateRow.key), col(TemplateRow.version)).in_(list(keys))
    rows = await session.exec(select(TemplateRow).where(wanted))
    return {(row.key, row.version): read(Template, row.document, what=f"template {row.key}") for row in rows}


async def add_pages(session: Session, site_id: UUID, pages: Iterable[Page]) -> None:
    rows = [
        page.model_dump(exclude={"date"}) | {"site_id": site_id, "position": at, "date": page.date}
        for at, page in enumerate(pages)
    ]
    for begin in range(0, len(rows), 1_000):
        await session.exec(insert(PageRow), params=rows[begin : begin + 1_000])
    other = update(SiteRow).where(col(SiteRow.id) == site_id).values(inventory=SiteRow.inventory + 1)
    await session.exec(other)


_PAGE: Any = select(  # type: ignore[call-overload]
    PageRow.ref, PageRow.path, PageRow.title, PageRow.type, PageRow.language, PageRow.state, PageRow.under, PageRow.date,
    PageRow.parts, PageRow.overlays, PageRow.noindex, PageRow.ends,
)  # fmt: skip
"""As plain tuples: a site may have twenty thousand."""


def _page(row: Sequence[Any]) -> Page:
    # Checked when it was written: building it without checking again keeps large inventories quick.
    ref, path, title, type_, language, state, under, date, parts, overlays, noindex, ends = row
    return Page.model_construct(
        _PAGE_FIELDS, ref=ref, path=path, title=title, type=type_, language=language, state=state, under=under, date=date,
        parts=tuple(parts), overlays=tuple(overlays), noindex=noindex, ends=ends,
    )  # fmt: skip


_PAGE_FIELDS = set(Page.model_fields)


async def pages_of_site(session: Session, site_id: UUID) -> tuple[Page, ...]:
    rows = await session.exec(_PAGE.where(PageRow.site_id == site_id).order_by(col(PageRow.position)))
    return tuple(map(_page, rows))


async def pages_led_to(session: Session, trees: Mapping[UUID, Iterable[str]]) -> dict[UUID, list[Page]]:
    """Of each site the pages that links of its trees, given by their names, lead to."""
    asked = [(site_id, hash) for site_id, hashes in trees.items() for hash in hashes]
    given = {"sites": [str(one) for one, _ in asked], "hashes": [hash for _, hash in asked]}
    found: dict[UUID, list[Page]] = {}
    for site_id, *page in await (await session.connection()).execute(_LED_TO, given):
        found.setdefault(site_id, []).append(_page(page))
    return found


_LED_TO = text(
    "SELECT page.site_id, page.ref, path, title, type, language, state, under, date, parts, overlays, noindex, ends FROM page JOIN ("
    "  SELECT DISTINCT asked.site, tree_item.page"
    "  FROM unnest(CAST(:sites AS uuid[]), CAST(:hashes AS text[])) asked(site, hash)"
    "  JOIN tree_item ON tree_item.hash = asked.hash AND tree_item.page IS NOT NULL"
    ") led ON page.site_id = led.site AND page.ref = led.page ORDER BY page.site_id, page.position"
)


async def search_pages(session: Session, site_id: UUID, words: str, limit: int) -> list[Page]:
    """Pages of which a title, in any language, the address, the type or the reference holds every word; titles that begin with them
    first."""
    query = _PAGE.where(PageRow.site_id == site_id)
    for word in words.split()[:8]:
        like = "%" + word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%"
        titles = func.jsonb_each_text(col(PageRow.title)).table_valued("key", "value")
        called = exists(select(literal(1)).select_from(titles).where(titles.c.value.ilike(like)))
        query = query.where(
            or_(called, *(field.ilike(like) for field in (col(PageRow.path), col(PageRow.type), col(PageRow.ref))))
        )
    found = list(map(_page, await session.exec(query.order_by(col(PageRow.position)).limit(500))))
    start = words.casefold().strip()
    found.sort(key=lambda page: not any(title.casefold().startswith(start) for title in page.title.values()))
    return found[:limit]


async def all_templates(session: Session) -> list[Template]:
    """Every version of every template, by key, the newest first."""
    rows = await session.exec(select(TemplateRow).order_by(TemplateRow.key, col(TemplateRow.version).desc()))
    return [read(Template, row.document, what=f"template {row.key}") for row in rows]


async def live_slots(session: Session, site_ids: Iterable[UUID]) -> list[LiveSlotRow]:
    return list(await session.exec(select(LiveSlotRow).where(col(LiveSlotRow.site_id).in_(list(site_ids)))))


async def saw_live(
    session: Session, site_id: UUID, location: str, device: str, *, hash: str, etag: str, at: datetime
) -> None:
    """Notes what the site was seen to show in a place."""
    seen = {"hash": hash, "etag": etag, "seen_at": at}
    statement = insert(LiveSlotRow).values({"site_id": site_id, "location": location, "device": device} | seen)
    await session.exec(statement.on_conflict_do_update(index_elements=["site_id", "location", "device"], set_=seen))


async def forget_live(session: Session, site_id: UUID) -> None:
    """Of all places: the site is reached in another way from now on."""
    await session.exec(delete(LiveSlotRow).where(col(LiveSlotRow.site_id) == site_id))


async def count_pages(session: Session, site_id: UUID) -> int:
    return int((await session.exec(select(func.count()).select_from(PageRow).where(PageRow.site_id == site_id))).one())

"""Boards as answers: what the shelf, the site and the bench show."""

from collections.abc import Collection, Iterable
from dataclasses import replace

from sign_shelf.api.models import (
    Bar,
    Cell,
    ChangeName,
    KeyLine,
    LocationOut,
    MenuLine,
    Place,
    ReleaseOut,
    ShelfLine,
    Sign,
    SitePage,
    SiteSigns,
    UsualOutside,
    Widths,
)
from sign_shelf.core.drawing import summary
from sign_shelf.core.model.menu import DEVICES, Device, Link, UrlTarget, walk
from sign_shelf.core.model.rel import own_hosts, usual_for_outside
from sign_shelf.core.model.site import Particulars, SiteDocument
from sign_shelf.core.model.template import Location
from sign_shelf.core.resolve import Lens, Prepared, find_placement
from sign_shelf.desk.portfolio import Board, MenuOnShelf
from sign_shelf.store.shelf import SiteOnShelf
from sign_shelf.store.tables import ChangeRow, ReleaseRow, ReleaseStepRow, SiteKeyRow


def bars(of: Iterable[summary.Bar], language: str, *, hidden: Collection[str] = ()) -> list[Bar]:
    return [
        Bar(
            id=bar.id, chars=bar.long(language), kind=bar.kind, hidden=bar.id in hidden,
            items=bars(bar.items, language, hidden=hidden),
        )
        for bar in of
    ]  # fmt: skip


def change_name(row: ChangeRow | None) -> ChangeName | None:
    return ChangeName(id=row.id, title=row.title, state=row.state) if row is not None else None


def shelf_line(one: SiteOnShelf) -> ShelfLine:
    known = one._asdict()
    title, state = known.pop("change_title"), known.pop("change_state")
    change = ChangeName(id=one.change, title=title, state=state) if one.change is not None else None
    return ShelfLine(**known | {"change": change})


def _sign(board: Board, prepared: Prepared, location: Location, lens: Lens) -> Sign:
    document, device = prepared.site, lens.device
    leaning = device not in location.devices
    own_device = location.devices[-1] if leaning else device
    # A section block shows a part of another place's menu.
    source = find_placement(document, location.of or location.key, own_device)
    menu = board.menus.get(source.menu) if source.menu else None
    shows = menu is not None and location.of is None
    got = prepared.resolve(location.key, replace(lens, device=own_device)) if shows else None
    hidden = {one.id for one in got.hidden if one.because not in {"tidy", "place"}} if got is not None else set()
    told = menu.summary if menu else None
    return Sign(
        location=location.key,
        title=location.title,
        shape=location.shape,
        device=own_device,
        leaning=leaning,
        placement=source.placement,
        menu=source.menu,
        menu_name=menu.document.name if menu else None,
        count=told.items if told else 0,
        hidden=sum(1 for _, item in walk(menu.document.items) if item.id in hidden) if menu and hidden else 0,
        depth=told.depth if told else 0,
        pending=told.pending if told else 0,
        changed=menu.changed if menu else False,
        bars=bars(told.bars, lens.language, hidden=hidden) if told else [],
    )


def site_signs(board: Board, prepared: Prepared, lens: Lens) -> SiteSigns:
    """The board's signs as the lens's visitor sees them."""
    signs = [_sign(board, prepared, location, lens) for location in board.template.locations]
    signs.sort(key=lambda sign: sign.leaning and sign.shape != "drawer")
    return SiteSigns(key=board.site.key, signs=_drawers_lean(signs))


def _drawers_lean(signs: list[Sign]) -> list[Sign]:
    """A leaning drawer stands right after the header bar that it belongs to."""
    drawers = [sign for sign in signs if sign.leaning and sign.shape == "drawer"]
    rest = [sign for sign in signs if sign not in drawers]
    at = next((index for index, sign in enumerate(rest) if sign.shape == "bar"), -1)
    return rest[: at + 1] + drawers + rest[at + 1 :]


def _cell(document: SiteDocument, location: Location, device: Device) -> Cell:
    fold = next((fold for fold in location.fold if device in fold.on), None)
    if fold is not None or device not in location.devices:
        return Cell(
            location=location.key,
            device=device,
            placement="folded" if fold else "absent",
            menu=None,
            from_device=None,
            from_location=None,
            folds_into=fold.into if fold else None,
        )
    source = find_placement(document, location.key, device)
    if location.of is not None and source.device is None:
        return Cell(
            location=location.key,
            device=device,
            placement="section",
            menu=None,
            from_device=None,
            from_location=location.of,
            folds_into=None,
        )
    return Cell(
        location=location.key,
        device=device,
        placement=source.placement,
        menu=source.menu,
        from_device=source.device,
        from_location=source.location,
        folds_into=None,
    )


def cells(board: Board) -> list[Cell]:
    """What hangs in each location on each device."""
    document = board.document()
    return [_cell(document, location, device) for location in board.template.locations for device in DEVICES[::-1]]


def menu_line(board: Board, key: str, menu: MenuOnShelf, language: str) -> MenuLine:
    return MenuLine(
        key=key,
        name=menu.document.name,
        count=menu.summary.items,
        depth=menu.summary.depth,
        pending=menu.summary.pending,
        changed=menu.changed,
        archived=key in board.arrangement.archived,
        hangs=sum(1 for placement in board.placements if placement.menu == key),
        bars=bars(menu.summary.bars, language),
    )


def _usual_outside(facts: Particulars) -> UsualOutside | None:
    if facts.policy.outside_links is None:
        return None
    elsewhere = Link(id="x", kind="link", target=UrlTarget(url="https://elsewhere.invalid/"), label={"en": "x"})
    link = usual_for_outside(elsewhere, facts)
    return UsualOutside(own_hosts=sorted(own_hosts(facts)), new_tab=link.new_tab, rel=list(link.rel))


def site_page(board: Board, *, pages: int, steps: list[ReleaseStepRow], keys: list[SiteKeyRow]) -> SitePage:
    document = board.document()
    language = document.site.languages[0]
    return SitePage(
        can=document.site.can,
        key=board.site.key,
        name=board.site.name,
        base=board.site.base,
        zone=document.site.zone,
        connection=board.site.connection,
        template=board.template.title or board.template.key,
        change=change_name(board.change),
        release_state=board.release.state if board.release else None,
        live_at=board.live.finished_at if board.live else None,
        seen_at=max((slot.seen_at for slot in board.slots), default=None),
        archived_at=board.site.archived_at,
        languages=list(document.site.languages),
        template_key=board.template.key,
        template_version=board.template.version,
        keys=[KeyLine(kind=one.kind, made_at=one.made_at, until=one.until) for one in keys],
        pages=pages,
        usual_outside=_usual_outside(document.site),
        device_widths={device: Widths(low=low, high=high) for device, (low, high) in board.template.devices.items()},
        locations=[
            LocationOut(
                key=location.key,
                title=location.title,
                called=document.site.called(location.key),
                shape=location.shape,
                depth=location.depth,
                kinds=list(location.kinds),
                devices=list(location.devices),
                readable=location.readable,
                fixed=location.fixed is not None,
                look=location.look,
            )
            for location in board.template.locations
        ],
        cells=cells(board),
        menus=[menu_line(board, key, menu, language) for key, menu in board.menus.items()],
        release=release_out(board.release, steps, board.site.key, board.site.base) if board.release else None,
    )


def places_of(board: Board, menu_key: str) -> list[Place]:
    """Where the menu is got by visitors, widest device first."""
    document = board.document()
    found = []
    for location in board.template.locations:
        for device in DEVICES[::-1]:
            if device not in location.devices:
                continue
            source = find_placement(document, location.key, device)
            if source.menu == menu_key and source.placement != "none":
                found.append(
                    Place(
                        location=location.key,
                        title=location.title,
                        shape=location.shape,
                        device=device,
                        depth=location.depth,
                        kinds=list(location.kinds),
                        placement=source.placement,
                    )
                )
    return found


def release_out(release: ReleaseRow, steps: list[ReleaseStepRow], site_key: str, base: str) -> ReleaseOut:
    return ReleaseOut(
        id=release.id,
        site=site_key,
        state=release.state,
        says=release.says,
        asked_at=release.asked_at,
        finished_at=release.finished_at,
        done=sum(1 for step in steps if step.state == "verified"),
        of=len(steps),
        live_page=base,
    )

"""States of sites with their arrangements, by the names of their contents. What a name stands for never changes, so what
was read last is kept."""

from collections.abc import Iterable, Mapping

from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, select

from sign_shelf.core.changes.arrangement import Arrangement, arrangement_name
from sign_shelf.core.changes.state import Contents, State, state_name
from sign_shelf.core.model.documents import read
from sign_shelf.store import menus
from sign_shelf.store.database import Session
from sign_shelf.store.recent import Recent
from sign_shelf.store.tables import ArrangementRow, StateRow

_states: Recent[State] = Recent(2_000)
_arrangements: Recent[Arrangement] = Recent(1_000)


async def keep_state(session: Session, arrangement: Arrangement, trees: Mapping[str, str]) -> str:
    """The state's name. `trees` are the names of kept trees by menu key."""
    (name,) = await keep_arrangements(session, [arrangement])
    return await keep_menus(session, name, trees)


async def keep_arrangements(session: Session, many: Iterable[Arrangement]) -> list[str]:
    """Their names, in their order."""
    rows = [{"hash": arrangement_name(one), "document": one.to_json()} for one in many]
    await session.exec(insert(ArrangementRow).on_conflict_do_nothing(), params=rows)
    return [str(row["hash"]) for row in rows]


async def keep_menus(session: Session, arrangement: str, trees: Mapping[str, str]) -> str:
    """The name of the state with an arrangement that is kept already."""
    return (await keep_all_menus(session, [(arrangement, trees)]))[0]


async def keep_all_menus(session: Session, wanted: Iterable[tuple[str, Mapping[str, str]]]) -> list[str]:
    """The same of many, in their order."""
    rows = []
    for arrangement, trees in wanted:
        name = state_name(State.model_construct(arrangement=arrangement, menus=dict(trees)))
        rows.append({"hash": name, "arrangement": arrangement, "menus": dict(trees)})
    await session.exec(insert(StateRow).on_conflict_do_nothing(), params=rows)
    return [str(row["hash"]) for row in rows]


async def keep_contents(session: Session, contents: Contents) -> str:
    trees = {key: await menus.keep_tree(session, document) for key, document in contents.menus.items()}
    return await keep_state(session, contents.arrangement, trees)


async def states(session: Session, names: Iterable[str]) -> dict[str, State]:
    wanted = set(names)
    found = _states.known(wanted)
    if missing := wanted - found.keys():
        for row in await session.exec(select(StateRow).where(col(StateRow.hash).in_(missing))):
            found[row.hash] = State.model_construct(arrangement=row.arrangement, menus=row.menus)
    _states.keep(found)
    return found


async def state(session: Session, name: str) -> State:
    return (await states(session, [name]))[name]


async def arrangements(session: Session, names: Iterable[str]) -> dict[str, Arrangement]:
    wanted = set(names)
    found = _arrangements.known(wanted)
    if missing := wanted - found.keys():
        for row in await session.exec(select(ArrangementRow).where(col(ArrangementRow.hash).in_(missing))):
            found[row.hash] = read(Arrangement, row.document, what="arrangement")
    _arrangements.keep(found)
    return found


async def arrangement(session: Session, name: str) -> Arrangement:
    return (await arrangements(session, [name]))[name]


async def contents(session: Session, name: str) -> Contents:
    """What the state's names stand for."""
    found = await state(session, name)
    trees = await menus.documents(session, found.menus.values())
    return Contents(
        arrangement=await arrangement(session, found.arrangement),
        menus={key: trees[hash] for key, hash in found.menus.items()},
    )

"""Many clients save one menu of one change at once: every save that is accepted is in the history, and in what comes of it."""

import asyncio
import os
from random import Random
from typing import Any

import httpx

from sign_shelf.demo.stand_ins.server import StandIn
from tests.api.test_changes import begin, save_in
from tests.api.test_menus import HEADER, labels, read, with_line

CLIENTS, SAVES = (50, 4) if os.environ.get("DEEP") else (20, 1)


async def test_many_clients_overwrite_nothing_in_silence(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, brackwater: StandIn
) -> None:
    """Each sets out from what it read last, adds lines, and takes up what the others saved only where it is refused, as a bench
    does. One edit of each is to a line that all share: the conflict is settled for one's own."""
    change = await begin(as_ines, "Many")
    first = await read(as_ines, f"{HEADER}?in={change}")
    shared = first["document"]["items"][0]["id"]
    random = Random(7)
    accepted: list[tuple[str, list[str]]] = []
    refused = 0

    async def client(number: int) -> None:
        nonlocal refused
        api = as_ines if number % 2 else as_tom
        document, on = first["document"], first["hash"]
        added: list[str] = []
        for save in range(SAVES):
            await asyncio.sleep(random.random() * 2)
            mine = f"Client {number} save {save}"
            added.append(mine)
            document = with_line(document, mine)
            if number % 2 == save % 2:
                document = relabelled_in(document, shared, f"By {number}")
            for _ in range(400):
                answer = await save_in(api, change, document, on)
                if answer.status_code == 200:
                    on = answer.json()["hash"]
                    accepted.append((on, list(added)))
                    break
                assert answer.status_code == 412, answer.text
                refused += 1
                await asyncio.sleep(random.random() / 4)
                merge = answer.json()["merge"]
                document, on = merge["document"], merge["on"]
                for conflict in merge["conflicts"]:
                    assert conflict["id"] == shared, "nothing else is edited by two"
                    document = relabelled_in(document, shared, f"By {number}")
            else:
                raise AssertionError("it never came to save")

    await asyncio.gather(*(client(number) for number in range(CLIENTS)))
    assert len(accepted) == CLIENTS * SAVES
    assert refused > CLIENTS / 2, "they did meet"
    last = await read(as_ines, f"{HEADER}?in={change}")
    there = labels(last["document"])
    wanted = {f"Client {number} save {save}" for number in range(CLIENTS) for save in range(SAVES)}
    assert wanted <= set(there)
    assert len(there) == len(set(there)), "and none twice"
    for name, lines in accepted:
        # A revision that the menu never had is not told of.
        document = await read(as_ines, f"{HEADER.rpartition('/')[0]}/header/revisions/{name}")
        assert set(lines) <= set(labels(document))


def relabelled_in(document: dict[str, Any], item: str, words: str) -> dict[str, Any]:
    return document | {
        "items": [
            one | {"label": one["label"] | {"en": words}} if one["id"] == item else one for one in document["items"]
        ]
    }

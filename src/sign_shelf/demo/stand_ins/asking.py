"""The side of a stand-in that asks the shelf for its menus (docs/delivery.md): by place, device and page, with ETags."""

import json
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from urllib.parse import quote

import httpx

from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import DEVICES, Device, Look
from sign_shelf.core.resolve.resolved import Resolved
from sign_shelf.demo.stand_ins.content import Content


@dataclass(frozen=True)
class Source:
    """Where the shelf is, and what the site shows it."""

    live: str
    key: str


def tell_source(folder: Path, site: str, source: Source) -> None:
    """From the next page on, the site asks there."""
    file = _file(folder, site)
    file.touch(mode=0o600)
    file.write_text(json.dumps({"live": source.live, "key": source.key}))


def _file(folder: Path, site: str) -> Path:
    return folder / f"{site}-asks.json"


class Asking:
    def __init__(self, content: Content, folder: Path) -> None:
        self.content = content
        self.folder = folder
        self._kept: dict[str, tuple[str, tuple[Resolved, ...]]] = {}

    def forget(self) -> None:
        """Something else is to be had."""
        self._kept.clear()

    async def everything(
        self, page: str, language: str, facts: str = ""
    ) -> dict[tuple[str, Device], tuple[Resolved, ...]] | None:
        """What every place gets on the page, for whom the signed facts say; None before the site was told where to ask, or where nobody
        answers."""
        file = _file(self.folder, self.content.key)
        if not self.content.asks or not file.exists():
            return None
        source = Source(**json.loads(file.read_text("utf-8")))
        try:
            async with httpx.AsyncClient(trust_env=False, timeout=5) as client:
                return {
                    (location.key, device): await self._one(client, source, location.key, device, page, language, facts)
                    for location in self.content.template.locations
                    for device in DEVICES
                    if device in location.devices
                }
        except httpx.HTTPError:
            return None

    async def _one(
        self,
        client: httpx.AsyncClient,
        source: Source,
        location: str,
        device: Device,
        page: str,
        language: str,
        facts: str,
    ) -> tuple[Resolved, ...]:
        url = f"{source.live.rstrip('/')}/{self.content.key}/{location}?device={device}&language={language}&page={page}"
        url += f"&facts={quote(facts)}" if facts else ""
        headers = {"authorization": f"Bearer {source.key}", "accept": "application/json"}
        before = self._kept.get(url)
        if before:
            headers["if-none-match"] = before[0]
        answer = await client.get(url, headers=headers)
        if answer.status_code == 304 and before:
            return before[1]
        answer.raise_for_status()
        items = tuple(_resolved(raw) for raw in answer.json()["items"])
        if not facts:
            self._kept[url] = (answer.headers["etag"], items)
        return items


def _resolved(raw: dict[str, Any]) -> Resolved:
    return Resolved(
        raw["id"],
        raw["kind"],
        raw["label"],
        href=raw["href"],
        overlay=raw.get("overlay"),
        new_tab=raw["new_tab"],
        rel=tuple(raw["rel"]),
        look=read(Look, raw["look"]),
        current=raw["current"],
        items=tuple(_resolved(below) for below in raw["items"]),
    )

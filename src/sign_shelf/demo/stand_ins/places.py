"""A stand-in's places: what hangs in each, kept in one file, written only by signed, conditional, repeatable requests.

The site's side of the site protocol (docs/site-protocol.md).
"""

import hashlib
import json
import os
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from standardwebhooks import Webhook
from standardwebhooks.webhooks import WebhookVerificationError

from sign_shelf.core.errors import InvalidDocument
from sign_shelf.core.model.documents import content_hash, parse_json, read
from sign_shelf.core.model.menu import Device, MenuDocument
from sign_shelf.core.model.tree import depth_of
from sign_shelf.core.protocol.placed import PlacedMenu, placed_menu
from sign_shelf.demo.stand_ins.building import Building
from sign_shelf.demo.stand_ins.content import Content


@dataclass(frozen=True)
class Answer:
    status: int
    body: dict[str, Any]
    etag: str | None = None


def _problem(status: int, title: str, detail: str) -> Answer:
    return Answer(status, {"type": "about:blank", "title": title, "status": status, "detail": detail})


def etag_of(placed: PlacedMenu) -> str:
    return '"' + content_hash(placed).removeprefix("sha256:")[:32] + '"'


class Places:
    def __init__(self, content: Content, file: Path, secret: str, building: Building | None = None) -> None:
        self.content = content
        self.building = building
        self.secret = secret
        self._file = file
        self._answers: dict[str, dict[str, Any]] = {}
        self.placed = content.placed()
        self.by_hand: dict[tuple[str, Device], tuple[str, datetime]] = {}
        """Who edited what hangs in a place in the site's own back office, and when."""
        self.lives_at: datetime | None = None
        """The moment by the site's clock; None: now."""
        self.writes = 0
        """How many requests changed something; repeats of a request do not count."""
        if file.exists():
            self._load()

    def build_again(self) -> None:
        """What the hook put there last hangs."""
        if self.building is not None:
            self.placed.update(self.building.placed())

    def get(self, location: str, device: Device) -> Answer:
        self.build_again()
        placed = self.placed.get((location, device))
        if placed is None:
            return _problem(404, "Nothing hangs here", f"No menu hangs in {location} for {device}.")
        return Answer(200, placed.to_json(), etag_of(placed))

    def edit(self, location: str, device: Device, menu: MenuDocument, who: str, at: datetime) -> None:
        """As somebody does in the site's own back office: nobody else is asked."""
        before = self.placed.get((location, device))
        placed = before.model_copy(update={"menu": menu}) if before is not None else None
        self.placed[location, device] = placed or placed_menu(location, device, menu, self.content.pages)
        self.by_hand[location, device] = who, at
        self._save()

    def put(self, location: str, device: Device, headers: Mapping[str, str], body: bytes) -> Answer:
        if refusal := self.unsigned(headers, body):
            return refusal
        key = headers.get("idempotency-key", "").strip('"')
        if not key:
            return _problem(400, "No key", "The header Idempotency-Key is missing.")
        mark = hashlib.sha256(body).hexdigest()
        if earlier := self._answers.get(key):
            if earlier["mark"] != mark:
                return _problem(422, "Key used twice", "This Idempotency-Key came with another body before.")
            return Answer(earlier["status"], earlier["body"], earlier["etag"])
        answer = self._write(location, device, headers, body)
        if answer.status < 300:
            self.writes += 1
            self._answers[key] = {"mark": mark, "status": answer.status, "body": answer.body, "etag": answer.etag}
            self._save()
        return answer

    def unsigned(self, headers: Mapping[str, str], body: bytes) -> Answer | None:
        if self.lives_at is not None:
            return (
                None if self._signed_then(headers, body, self.lives_at) else _problem(401, "Not signed", "Not so then.")
            )
        try:
            Webhook(self.secret).verify(body.decode("utf-8", "replace"), dict(headers))
        except WebhookVerificationError as exc:
            return _problem(401, "Not signed", f"The signature does not hold: {exc}")
        except ValueError:
            return _problem(401, "Not signed", "The signature cannot be read.")
        return None

    def _signed_then(self, headers: Mapping[str, str], body: bytes, then: datetime) -> bool:
        at = datetime.fromtimestamp(int(headers.get("webhook-timestamp", "0")), UTC)
        wanted = Webhook(self.secret).sign(headers.get("webhook-id", ""), at, body.decode("utf-8", "replace"))
        return abs(at - then) < timedelta(minutes=5) and wanted in headers.get("webhook-signature", "").split()

    def _write(self, location: str, device: Device, headers: Mapping[str, str], body: bytes) -> Answer:
        place = self.content.template.location(location)
        if place is None or device not in place.devices:
            return _problem(404, "No such place", f"This site has no {location} for {device}.")
        try:
            placed = read(PlacedMenu, parse_json(body))
        except InvalidDocument as exc:
            return _problem(422, "Not a placed menu", str(exc))
        if (placed.location, placed.device) != (location, device):
            return _problem(422, "Wrong place", "The document names another place than the address.")
        if depth_of(placed.menu.items) > place.depth:
            return _problem(422, "Too deep", f"{place.title} shows {place.depth} levels at most.")
        current = self.placed.get((location, device))
        if_match, if_none = headers.get("if-match"), headers.get("if-none-match")
        if not if_match and if_none != "*":
            return _problem(428, "Condition missing", "If-Match, or If-None-Match: * for an empty place, is missing.")
        if (if_match and (current is None or etag_of(current) != if_match)) or (if_none == "*" and current):
            return _problem(412, "Changed meanwhile", "What hangs here is not what the request expects.")
        self.placed[location, device] = placed
        self.by_hand.pop((location, device), None)
        return Answer(200 if current else 201, {"says": "The menu hangs."}, etag_of(placed))

    def _load(self) -> None:
        kept = json.loads(self._file.read_text("utf-8"))
        self._answers = kept["answers"]
        for raw in kept["placed"]:
            placed = read(PlacedMenu, raw)
            self.placed[placed.location, placed.device] = placed

    def _save(self) -> None:
        self._file.parent.mkdir(parents=True, exist_ok=True)
        kept = {"answers": self._answers, "placed": [placed.to_json() for placed in self.placed.values()]}
        draft = self._file.with_suffix(".new")
        with draft.open("w", encoding="utf-8") as file:
            json.dump(kept, file, ensure_ascii=False)
            file.flush()
            os.fsync(file.fileno())
        draft.replace(self._file)

"""Sending a webhook, signed as Standard Webhooks says (symmetric, `v1`)."""

from collections.abc import Sequence
from datetime import datetime
from typing import Literal, NamedTuple

from pydantic import SecretStr
from standardwebhooks import Webhook

from sign_shelf.core.errors import SourceRefused
from sign_shelf.outside.fetch import Fetcher


class Answered(NamedTuple):
    """`over`: the other side wants none any more. `wait_s`: how long it asked to be left alone (Retry-After)."""

    kind: Literal["taken", "not now", "over"]
    says: str = ""
    wait_s: float = 0.0


def signed(secrets: Sequence[SecretStr], id: str, at: datetime, body: bytes) -> dict[str, str]:
    """The headers that say so, with a signature by each: while a key is being replaced the other side takes whichever it knows."""
    signatures = [Webhook(one.get_secret_value()).sign(id, at, body.decode()) for one in secrets]
    return {
        "webhook-id": id, "webhook-timestamp": str(int(at.timestamp())), "webhook-signature": " ".join(signatures),
    }  # fmt: skip


async def send(
    fetcher: Fetcher, url: str, secrets: Sequence[SecretStr], *, id: str, body: bytes, at: datetime
) -> Answered:
    """The same `id` on every try: by it the other side knows what it has already. Redirects are not followed."""
    headers = {"content-type": "application/json"} | signed(secrets, id, at, body)
    try:
        answer = await fetcher.send("POST", url, headers=headers, body=body)
    except SourceRefused as refused:
        return Answered("not now", refused.says)
    if 200 <= answer.status < 300:
        return Answered("taken")
    if answer.status == 410:
        return Answered("over", "The address wants no more notices (410).")
    return Answered("not now", f"The address answered {answer.status}.", answer.wait_s or 0.0)

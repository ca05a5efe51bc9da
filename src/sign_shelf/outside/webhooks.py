"""Sending a webhook, signed as Standard Webhooks says (symmetric, `v1`)."""

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


async def send(fetcher: Fetcher, url: str, secret: SecretStr, *, id: str, body: bytes, at: datetime) -> Answered:
    """The same `id` on every try: by it the other side knows what it has already. Redirects are not followed."""
    headers = {
        "content-type": "application/json", "webhook-id": id, "webhook-timestamp": str(int(at.timestamp())),
        "webhook-signature": Webhook(secret.get_secret_value()).sign(id, at, body.decode()),
    }  # fmt: skip
    try:
        answer = await fetcher.send("POST", url, headers=headers, body=body)
    except SourceRefused as refused:
        return Answered("not now", refused.says)
    if 200 <= answer.status < 300:
        return Answered("taken")
    if answer.status == 410:
        return Answered("over", "The address wants no more notices (410).")
    return Answered("not now", f"The address answered {answer.status}.", answer.wait_s or 0.0)

"""What a host asks programs not to read (RFC 9309)."""

from protego import Protego

from sign_shelf.core.basics.address import joined
from sign_shelf.outside.fetch import Fetcher

AGENT = "SignShelf"
_BYTES = 128 * 1024
_LINES = 2_000


async def read_robots(fetcher: Fetcher, url: str) -> Protego:
    """Of the host that the address is at; one that has no robots.txt closes nothing. Raises SourceRefused."""
    answer = await fetcher.get(joined(url, "/robots.txt"), max_bytes=_BYTES)
    text = ""
    if answer.status == 200 and not answer.body.lstrip().startswith(b"<"):
        text = "\n".join(answer.body.decode("utf-8", "replace").splitlines()[:_LINES])
    return Protego.parse(text)

"""Sitemaps at the protocol's limit."""

import io
import tracemalloc
from collections.abc import Callable
from xml.etree import ElementTree

from sign_shelf.outside.reading.sitemap import locations

Median = Callable[[Callable[[], object]], float]


def sitemap_lines(median: Median) -> list[tuple[str, str, str, str, str]]:
    rows = "".join(f"<url><loc>https://a.example/pages/{n}</loc></url>" for n in range(50_000))
    data = f'<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">{rows}</urlset>'.encode()

    def read() -> int:
        return sum(1 for _ in locations(io.BytesIO(data), "x"))

    spent = median(read)
    whole = median(lambda: ElementTree.fromstring(data))
    tracemalloc.start()
    read()
    peak = tracemalloc.get_traced_memory()[1] / 1_048_576
    tracemalloc.stop()
    return [
        (
            "sitemap, streamed and guarded",
            f"50 000 addresses, {len(data) / 1_048_576:.1f} MiB",
            f"{spent:.0f} ms, {peak:.1f} MiB beyond the file",
            f"the whole tree at once, unguarded: {whole:.0f} ms",
            "seconds, bounded memory",
        )
    ]

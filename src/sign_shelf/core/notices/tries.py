"""When a notice that did not arrive is tried again."""

from datetime import datetime, timedelta

PAUSES = tuple(timedelta(seconds=s) for s in (5, 300, 1_800, 7_200, 18_000, 36_000))
"""As Standard Webhooks proposes: soon, for what was a slip; then for as long as an outage lasts."""
LONGEST_S = 86_400.0


def next_try(tries: int, now: datetime, wait_s: float = 0.0) -> datetime | None:
    """After so many tries, none of which succeeded; None: it is given up. `wait_s` is what the other side asked
    for (Retry-After), and is kept up to a day."""
    if tries > len(PAUSES):
        return None
    return now + max(PAUSES[tries - 1], timedelta(seconds=min(wait_s, LONGEST_S)))

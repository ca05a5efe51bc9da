"""Waiting for a state while pages go on.

Playwright runs a test's routes and listeners only inside its own calls: a request that a test holds back would wait as long as the test does.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager

from playwright.sync_api import Page

from tests import waiting

_pages: list[Page] = []


@contextmanager
def resting_at(page: Page) -> Iterator[None]:
    """Within it, `eventually` passes the time at this page."""
    _pages.append(page)
    try:
        yield
    finally:
        _pages.remove(page)


def eventually(holds: Callable[[], object], within_s: float = 60.0) -> None:
    """As `tests.waiting.eventually`; routes and listeners of the test run meanwhile."""
    waiting.eventually(holds, within_s, lambda: _pages[-1].wait_for_timeout(waiting.TICK_S * 1000))

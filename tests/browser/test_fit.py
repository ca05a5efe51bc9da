"""The fit against the browser as truth: the same bars as HTML, laid out by Chromium."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page

from sign_shelf.core.fit import FitRequest, fit
from sign_shelf.core.fit.bar import available, rows
from sign_shelf.outside.fonts import shipped_fonts
from sign_shelf.settings import STATIC
from tests.fit_bars import bars, page_of

FONTS = STATIC / "fonts"
WIDTHS = [322 + 224 * step + 56 * (step % 4) for step in range(10)]
_MEASURE = """
([widths, fits]) => [...document.querySelectorAll('.view')].map((view, at) => {
  const items = [...view.querySelectorAll('li')]
  const rowsAt = (width) => {
    view.style.width = width + 'px'
    return new Set(items.map((item) => Math.round(item.offsetTop + item.offsetHeight / 2))).size
  }
  const found = {rows: widths.map(rowsAt), around: []}
  if (fits[at] !== null) found.around = [fits[at] - 2, fits[at] + 1].map(rowsAt)
  view.style.width = '9000px'
  found.items = items.map((item) => item.getBoundingClientRect().width)
  return found
})
"""


@pytest.fixture(scope="module")
def page(browser: Browser) -> Iterator[Page]:
    # Whole-pixel hinting is a setting of one screen; widths are compared without it.
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.route("http://fit.test/**", lambda route: route.fulfill(path=FONTS / Path(route.request.url).name))
    yield page
    page.close()


@pytest.mark.parametrize(
    "font", sorted(shipped_fonts(FONTS).families) if FONTS.is_dir() else ["the fonts are not built"]
)
def test_every_shipped_font_measures_as_the_browser_does(page: Page, font: str) -> None:
    """≤ 0.5 px an item, ≤ 1 px on `fits_from`, exact rows at ten widths, for each language × look × direction."""
    requests = bars(font)
    ours = [fit(shipped_fonts(FONTS), bar) for bar in requests]
    _show(page, requests)
    theirs = page.evaluate(_MEASURE, [WIDTHS, [one.fits_from for one in ours]])
    assert len(theirs) == 60
    for bar, mine, real in zip(requests, ours, theirs, strict=True):
        named = f"{font} {bar.language} {bar.direction} {bar.size} {bar.letter_spacing}"
        for item, width, measured in zip(bar.items, mine.item_widths, real["items"], strict=True):
            assert abs(width - measured) <= 0.5, f"{named}: {item} {width} against {measured}"
        assert real["rows"] == [rows(mine.item_widths, bar.gap, available(one, bar.container)) for one in WIDTHS], named
        if mine.fits_from is not None:
            assert real["around"][0] > 1, named
            assert real["around"][1] == 1, named


def _show(page: Page, requests: list[FitRequest]) -> None:
    page.goto("about:blank")
    page.set_content(page_of(requests, "http://fit.test/fonts.css"))
    page.evaluate("document.fonts.ready.then(() => document.fonts.status)")

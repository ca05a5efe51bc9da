"""The fit beside Chromium sweeping the same bars, in the same run."""

from pathlib import Path

from playwright.sync_api import sync_playwright

from bench.trees import Median, Row
from sign_shelf.core.fit import NARROWEST, WIDEST, fit
from sign_shelf.core.fit.shaping import measure
from sign_shelf.outside.fonts import shipped_fonts
from sign_shelf.settings import STATIC
from tests.fit_bars import bars, page_of
from tools.chromium import LAUNCH

BARS = 1_000
IN_BROWSER = 10
"""Bars that Chromium sweeps: its time for all of them follows by their number."""

_SWEEP = """
([low, high]) => {
  const begin = performance.now()
  let rows = 0
  for (const view of document.querySelectorAll('.view')) {
    const items = [...view.querySelectorAll('li')]
    for (let width = low; width <= high; width += 1) {
      view.style.width = width + 'px'
      rows += items.at(-1).offsetTop > items[0].offsetTop ? 2 : 1
    }
  }
  return [performance.now() - begin, rows]
}
"""


def fit_lines(median: Median) -> list[Row]:
    fonts = shipped_fonts(STATIC / "fonts")
    families = list(fonts.families)
    requests = [bar for font in families for bar in bars(font)]
    many = [requests[at % len(requests)] for at in range(BARS)]
    for bar in requests:
        fit(fonts, bar)
    ready = median(lambda: [fit(fonts, bar) for bar in many], 5)

    def anew() -> None:
        measure.cache_clear()
        for bar in many:
            fit(fonts, bar)

    shaped = median(anew, 3)
    swept = many[:: BARS // IN_BROWSER]
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(**LAUNCH)
        page = browser.new_page()
        page.route(
            "http://fit.test/**", lambda route: route.fulfill(path=STATIC / "fonts" / Path(route.request.url).name)
        )
        page.set_content(page_of(swept, "http://fit.test/fonts.css"))
        page.evaluate("document.fonts.ready.then(() => 1)")
        theirs, _ = page.evaluate(_SWEEP, [NARROWEST, WIDEST])
        browser.close()
    each = theirs / len(swept)
    return [
        (
            "fit: bars of six entries swept over 320–2 560 px",
            f"{BARS:,} bars".replace(",", " "),
            f"{ready:.0f} ms; {shaped:.0f} ms where every text is shaped anew",
            f"Chromium sweeping {len(swept)} of the same bars: {each:.0f} ms a bar ({each * BARS / shaped:.0f}×)",
            "< 1 s, ≥ 200×",
        )
    ]

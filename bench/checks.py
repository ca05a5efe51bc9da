"""All checks over 300 sites of six menus of sixty entries, and again over one of them after an edit."""

import math
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from time import perf_counter

from sign_shelf.core.checks import Checked, SiteView
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.resolve import Prepared
from sign_shelf.demo.portfolio import portfolio
from sign_shelf.outside.fonts import shipped_fonts
from sign_shelf.settings import STATIC

TODAY = "2027-02-12"
SITES = 300
Line = tuple[str, str, str, str, str]


def _view(site: SiteDocument) -> SiteView:
    return SiteView(Prepared(site), TODAY, {}, shipped_fonts(STATIC / "fonts"))


_sites: list[SiteDocument] = []
"""What the processes have from the start: sending it to them is none of what is measured."""


def _number(which: range) -> int:
    return sum(len(Checked.of(_view(_sites[at])).findings()) for at in which)


def _spent_s(count: int, pool: ProcessPoolExecutor) -> float:
    begin = perf_counter()
    assert all(found > 0 for found in pool.map(_number, [range(0, count, 2), range(1, count, 2)]))
    return perf_counter() - begin


def check_lines(median_ms: Callable[[Callable[[], object]], float]) -> list[Line]:
    _sites[:] = sites = list(portfolio(SITES, 1))
    with ProcessPoolExecutor(2, get_context("fork")) as pool:
        _spent_s(4, pool)  # The processes have begun, and the fonts are read.
        small_s = _spent_s(SITES // 4, pool)
        whole_s = _spent_s(SITES, pool)
    growth = math.log(whole_s / small_s) / math.log(4)
    before = Checked.of(_view(sites[0]))
    key = next(iter(sites[0].menus))
    edited = sites[0].model_copy(update={"menus": {**sites[0].menus, key: parse_outline("Soon -> ?\nHome -> @home")}})
    again_ms = median_ms(lambda: before.again(_view(edited)).findings())
    first_ms = median_ms(lambda: Checked.of(_view(edited)).findings())
    items = f"{SITES} sites × 6 menus × 60 entries"
    return [
        ("all checks", items, f"{whole_s:.1f} s on two cores, growth exponent {growth:.2f}", f"a quarter of it: {small_s:.1f} s",
         "< 20 s, ≤ 1.1"),
        ("checks after an edit", "one site of them", f"{again_ms:.0f} ms", f"the whole site anew: {first_ms:.0f} ms", "< 200 ms"),
    ]  # fmt: skip

"""Measures and writes docs/benchmarks.md. Every figure comes from this run; yardsticks run beside what they measure."""

import gc
import os
import platform
import statistics
import sys
import time
from collections.abc import Callable, Iterable, Sequence
from itertools import chain
from pathlib import Path

from bench.bench_view import measure_bench_view
from bench.checks import check_lines
from bench.delivery import delivery_lines
from bench.due import due_lines
from bench.fits import fit_lines
from bench.links import link_lines
from bench.reading import sitemap_lines
from bench.rules import rule_lines
from bench.several_machines import several_lines
from bench.shelf import shelf_lines
from bench.starting import starting_lines
from bench.trees import Row, tree_lines

OUT = Path(__file__).parent.parent / "docs" / "benchmarks.md"


def median_ms(run: Callable[[], object], times: int = 7) -> float:
    """Garbage is collected before and not within the runs, as timeit does: what else this process holds, for other
    lines, is no part of what is measured."""
    spent = []
    gc.collect()
    gc.disable()
    try:
        for _ in range(times):
            begin = time.perf_counter()
            run()
            spent.append((time.perf_counter() - begin) * 1_000)
    finally:
        gc.enable()
    return statistics.median(spent)


PARTS: dict[str, Callable[[], Iterable[Row]]] = {
    "trees": lambda: tree_lines(median_ms),
    "sitemap": lambda: sitemap_lines(median_ms),
    "rules": lambda: rule_lines(median_ms),
    "fits": lambda: fit_lines(median_ms),
    "checks": lambda: check_lines(median_ms),
    "links": link_lines,
    "due": due_lines,
    "delivery": delivery_lines,
    "several": several_lines,
    "bench": measure_bench_view,
    "shelf": shelf_lines,
    "starting": starting_lines,
}


def main(wanted: Sequence[str]) -> None:
    """Without parts all of it, which is written; of these parts the lines alone, which are told."""
    lines = [
        "# Benchmarks",
        "",
        "Written by `make bench`; every figure is of one run on one machine "
        f"({os.cpu_count()} cores, Python {platform.python_version()}). Times are medians, without garbage collection within a run.",
        "",
        "| what | size | measured | yardstick in the same run | goal |",
        "|---|---|---|---|---|",
    ]
    for row in chain.from_iterable(PARTS[part]() for part in wanted or PARTS):
        lines.append("| " + " | ".join(row) + " |")
        print(lines[-1], flush=True)
    if wanted:
        return
    # What held under attack is told by `make test-attack`, and kept.
    _, mark, held = OUT.read_text("utf-8").partition("\n## What held\n")
    OUT.write_text("\n".join(lines) + "\n" + mark + held, "utf-8")


if __name__ == "__main__":
    main(sys.argv[1:])

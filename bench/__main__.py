"""Measures and writes docs/benchmarks.md. Every figure comes from this run; yardsticks run beside what they measure."""

import gc
import os
import platform
import statistics
import time
from collections.abc import Callable
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
from bench.trees import tree_lines

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


def main() -> None:
    lines = [
        "# Benchmarks",
        "",
        "Written by `make bench`; every figure is of one run on one machine "
        f"({os.cpu_count()} cores, Python {platform.python_version()}). Times are medians, without garbage collection within a run.",
        "",
        "| what | size | measured | yardstick in the same run | goal |",
        "|---|---|---|---|---|",
    ]
    parts = (
        lambda: tree_lines(median_ms),
        lambda: sitemap_lines(median_ms),
        lambda: rule_lines(median_ms),
        lambda: fit_lines(median_ms),
        lambda: check_lines(median_ms),
        link_lines,
        due_lines,
        delivery_lines,
        several_lines,
        measure_bench_view,
        shelf_lines,
        starting_lines,
    )
    for row in chain.from_iterable(part() for part in parts):
        lines.append("| " + " | ".join(row) + " |")
        print(lines[-1], flush=True)
    # What held under attack is told by `make test-attack`, and kept.
    _, mark, held = OUT.read_text("utf-8").partition("\n## What held\n")
    OUT.write_text("\n".join(lines) + "\n" + mark + held, "utf-8")


if __name__ == "__main__":
    main()

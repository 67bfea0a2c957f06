"""How long a piece of work takes."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable


def median_ms(work: Callable[[], object], times: int) -> float:
    """Median time of a piece of work, ms, after one run to warm up."""
    return statistics.median(_taken(work, times))


def best_ms(work: Callable[[], object], times: int) -> float:
    """Least time of a piece of work, ms, after one run to warm up: what it takes with nothing in its way."""
    return min(_taken(work, times))


def _taken(work: Callable[[], object], times: int) -> list[float]:
    work()
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append((time.perf_counter() - start) * 1000)
    return taken


def best_of_both(one: Callable[[], object], other: Callable[[], object]) -> tuple[float, float]:
    """Least times of two pieces of work, ms, taken by turns: a machine that slows down slows both."""
    found = [(best_ms(one, 1), best_ms(other, 1)) for _ in range(11)]
    return min(a for a, _ in found), min(b for _, b in found)

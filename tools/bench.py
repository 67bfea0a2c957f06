"""Measures what the issues ask for: choosing for a whole unit, and the server time of each main page."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

from with_demo import demo_home


def median_ms(work: Callable[[], object], times: int) -> float:
    """Median time of a piece of work, ms, after one run to warm up."""
    work()
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append((time.perf_counter() - start) * 1000)
    return statistics.median(taken)


def choosing() -> None:
    """Core alone: judge, decide and rank unit B's places against the house catalogue."""
    from idlebench.catalogue import house_columns
    from idlebench.core.choose.need import need_of
    from idlebench.core.choose.rank import rank
    from idlebench.web.survey.models import Part

    parts = [p.to_core() for p in Part.objects.filter(board__unit__name="B")]
    columns = house_columns()
    needs = [need_of(part) for part in parts]
    whole = median_ms(lambda: [rank(need, columns) for need in needs], 9)
    bare = median_ms(lambda: [(_masks(need, columns)).sum() for need in needs], 9)
    print(f"core choose of {len(parts)} places against {len(columns)} parts: {whole:.0f} ms")
    print(f"  that is {whole / bare:.0f} times a bare numpy pass of value, volts and diameter masks ({bare:.2f} ms)")


def _masks(need, columns):
    value = columns["value"]
    inside = (value >= need.value_low) & (value <= need.value_high) & (columns["volts"] >= need.volts)
    return inside & (columns["diameter"] <= (need.diameter or 1e9))


def pages() -> None:
    """Median server time of each main page of the demo, through Django's test client."""
    from django.test import Client

    from idlebench.web.jobs.models import Board, Unit

    client = Client()
    a, b, _ = Unit.objects.all()
    supply, main = Board.objects.filter(unit=b)
    views = {
        "Bench": "/", "Intake": f"/unit/{b.pk}/intake/", "Survey": f"/board/{main.pk}/survey/?part=C22",
        "Choose": f"/board/{supply.pk}/choose/?place=C18", "Gather": f"/unit/{b.pk}/gather/", "Swap": f"/board/{supply.pk}/swap/",
        "Cold checks": f"/unit/{b.pk}/cold/", "First power": f"/unit/{a.pk}/power/?step=full", "Hand-over": f"/unit/{a.pk}/handover/",
        "Reckoner": "/reckoner/", "One reckoning": "/reckoner/discharge/", "Shelf": "/shelf/", "Ledger": "/ledger/",
    }  # fmt: skip
    for name, url in views.items():
        assert client.get(url).status_code == 200
        print(f"page {name:<14} {median_ms(lambda url=url: client.get(url), 15):6.0f} ms")


if __name__ == "__main__":
    with demo_home():
        choosing()
        pages()

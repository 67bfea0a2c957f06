"""Measures what the issues ask for: choosing for a whole unit, and the server time of each main page."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

from with_demo import CHROMIUM, demo_home, served


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


#: Parts on the board that is drawn and dragged.
MANY = 400


def many_parts() -> int:
    """A board with 400 parts in a unit of its own; its number."""
    from idlebench.web.jobs import services
    from idlebench.web.survey.services import paste

    job = services.take_in_job({"name": "A large board", "machine": "Tide computer", "made": "1985", "units": "L"})
    board = services.add_board(job.units.get(), {"name": "MB-400", "width": "400", "height": "300"})
    lines = [
        f"C{i + 1} {(10, 22, 47, 100)[i % 4]}u 16V 6.3x11 p2.5 decoupling rail +5V at {14 + 19 * (i % 20)},{12 + 14 * (i // 20)}"
        f"{' looks sound' if i % 3 else ' leaking esr 9'}{' series QF' if i % 5 == 0 else ''}"
        for i in range(MANY)
    ]
    paste(board, "\n".join(lines), good_rows=False)
    return board.pk


def large_board(home: str) -> None:
    """The page with 400 parts, and the longest task of the browser while one of them is dragged across it."""
    from django.test import Client
    from playwright.sync_api import sync_playwright

    pk = many_parts()
    client, url = Client(), f"/board/{pk}/survey/?part=C200"
    print(f"page with {MANY} parts: {median_ms(lambda: client.get(url), 15):.0f} ms (asked: under 150)")
    with served(home) as address, sync_playwright() as play:
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(address + url)
        page.wait_for_load_state("networkidle")
        page.evaluate(
            "() => { window.long = []; new PerformanceObserver(l => l.getEntries().forEach(e => long.push(e.duration)))"
            ".observe({ entryTypes: ['longtask'] }); window.gaps = []; let at = performance.now();"
            " const tick = now => { gaps.push(now - at); at = now; requestAnimationFrame(tick); }; requestAnimationFrame(tick); }"
        )
        box = page.locator('[data-part="C24"] .can').bounding_box()
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        page.mouse.down()
        for i in range(120):
            page.mouse.move(box["x"] + 4 * i, box["y"] + 60 + 2 * i)
        tasks, gaps = page.evaluate("() => [window.long, window.gaps.slice(2)]")
        moved = page.locator('[data-part="C24"]').get_attribute("data-x")
        page.mouse.up()
        browser.close()
    assert float(moved) > 60, "the part followed the mouse"
    print(
        f"dragging one of {MANY} parts through 120 moves: {len(tasks)} tasks over 50 ms (asked: 0), "
        f"longest gap between two frames {max(gaps):.0f} ms of {len(gaps)}"
    )


if __name__ == "__main__":
    with demo_home() as home:
        choosing()
        pages()
        large_board(str(home))

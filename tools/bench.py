"""Measures what the issues ask for: choosing for a whole unit, and the server time of each main page."""

from __future__ import annotations

import random
import shutil

from faulting import main as faulting
from growth import growth
from kept import kept
from ordinary_places import WANTED, ordinary_places, unserved
from plans import plans
from simulating import simulating
from starting import starting
from timing import best_ms, best_of_both, median_ms
from waiting import waiting
from with_demo import CHROMIUM, demo_home, served


def choosing() -> None:
    """Core alone: judge, decide and rank unit B's places against the house catalogue."""
    from idlebench.catalogue import house_columns
    from idlebench.core.choose.need import need_of
    from idlebench.core.choose.rank import rank_many
    from idlebench.web.records.models import Part

    parts = [p.to_core() for p in Part.objects.filter(board__unit__name="B")]
    columns, needs = house_columns(), [need_of(part) for part in parts]
    shown = median_ms(lambda: [r.candidates for r in rank_many(needs, columns)], 5)
    print(
        f"core choose of {len(parts)} places against {len(columns)} parts, every reason written out: {shown:.0f} ms (asked: 120)"
    )


def ordinary() -> None:
    """How many of a table of ordinary places find an ordinary part first."""
    missed, places = unserved(), ordinary_places()
    share = 1 - len(missed) / len(places)
    print(
        f"house sizes: of {len(places)} ordinary places {100 * share:.1f} % find a fitting part first (asked: {100 * WANTED:.0f})"
    )


#: Catalogues and boards that ranking is measured on.
PARTS, PLACES = (5_000, 20_000, 80_000), (75, 150, 300)


def ranking() -> None:
    """rank_many in one run against one bare numpy pass of value, volts and diameter masks for the same places, as a ratio."""
    import resource

    from idlebench.core.choose.need import need_of
    from idlebench.core.choose.rank import rank_many

    for size in PARTS:
        columns = _catalogue(size)
        for count in PLACES:
            for name, parts in (("as on a board", _board(count)), ("all different", _different(count))):
                needs = [need_of(part) for part in parts]
                whole, bare = best_of_both(
                    lambda needs=needs, columns=columns: rank_many(needs, columns),
                    lambda needs=needs, columns=columns: [_masks(n, columns) for n in needs],
                )
                asked = " (asked: 5)" if (size, count) == (20_000, 150) else ""
                print(
                    f"rank {count:>3} places {name} of {size:>5} parts: {whole:6.1f} ms, {whole / bare:4.1f} × bare masks "
                    f"({bare:.1f} ms){asked}"
                )
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"peak memory of this process so far: {peak:.0f} MB (asked: under 300)")


def _catalogue(size: int):
    """The house catalogue, again and again with values, sizes and prices a little off, up to a size."""
    from dataclasses import replace

    from idlebench.catalogue import house_columns
    from idlebench.core.choose.rules import Columns

    dice, house = random.Random(5), house_columns().parts
    parts = []
    for i in range(size):
        part, turn = house[i % len(house)], i // len(house)
        off = 1 + dice.uniform(-0.02, 0.02) * (turn > 0)
        wide = part.diameter * (1 + 0.02 * (turn % 3))
        parts.append(
            replace(
                part,
                part=f"{part.part}/{turn}",
                value=part.value * off,
                diameter=wide,
                price=part.price * dice.uniform(0.7, 1.4),
            )
        )
    return Columns.of(parts)


def _board(count: int):
    """Places as they come on boards: the demo's two units over and over, each time a little hotter."""
    from idlebench.web.records.models import Part

    parts = [p.to_core() for p in Part.objects.filter(board__unit__name__in="AB").order_by("id")]
    return [
        parts[i % len(parts)].with_(ambient=(parts[i % len(parts)].ambient or 40.0) + i // len(parts))
        for i in range(count)
    ]


def _different(count: int):
    """Places of which no two ask the same."""
    from idlebench.core.board.parts import Fitted

    dice = random.Random(7)
    roles = (
        "decoupling",
        "bulk",
        "converter_output",
        "coupling",
        "timing",
        "startup",
        "filter",
        "regulator_output",
        "unknown",
    )
    sizes = ((5, 11), (6.3, 11), (8, 11.5), (10, 16), (12.5, 20), (16, 25))
    values = (1, 2.2, 4.7, 10, 22, 33, 47, 100, 220, 470, 1000, 2200, 4700)
    parts = []
    for i in range(count):
        wide, high = dice.choice(sizes)
        parts.append(
            Fitted(
                f"C{i + 1}", dice.choice(values) * 1e-6 * (1 + 1e-6 * i), dice.choice((6.3, 10, 16, 25, 35, 50)), role=dice.choice(roles),
                diameter=wide, height=high, ripple=dice.choice((None, None, 0.05, 0.3)), ambient=dice.choice((None, 50.0, 60.0)),
                room_height=dice.choice((None, None, 30.0)), mounting=dice.choice(("radial",) * 5 + ("axial",)),
            )
        )  # fmt: skip
    return parts


def _masks(need, columns):
    value = columns["value"]
    inside = (value >= need.value_low) & (value <= need.value_high) & (columns["volts"] >= need.volts)
    return inside & (columns["diameter"] <= (need.diameter or 1e9))


def supplies() -> None:
    """The rectifier simulation on the values of the reference table."""
    from idlebench.core.circuit.supply import Load, Supply, simulate

    for supply in (
        Supply("bridge", 9, 50, 0.6, 4700e-6, 0.030, Load("current", 1.0)),
        Supply("half", 12, 50, 2.0, 1000e-6, 0.1, Load("current", 0.12)),
        Supply("bridge", 230, 50, 4.0, 100e-6, 0.6, Load("current", 0.16)),
    ):
        taken = median_ms(lambda supply=supply: simulate(supply), 21)
        print(f"rectifier and store, {supply.topology} {supply.source:g} V: {taken:.1f} ms (asked: 20)")


#: The most that a page of the demo may take on the server, ms.
PAGE_MOST = 50


def pace() -> float:
    """How fast this machine is at this moment, ms: where its cores are shared the same page takes twice as long at times."""
    return best_ms(lambda: sum(i * i % 7 for i in range(100_000)), 5)


def pages() -> None:
    """Median server time of each main page of the demo, through Django's test client."""
    from django.test import Client

    from idlebench.web.records.models import Board, Unit

    client = Client(SERVER_NAME="127.0.0.1")
    a, b, *_ = Unit.objects.all()
    supply, main = Board.objects.filter(unit=b)
    views = {
        "Bench": "/", "Intake": f"/unit/{b.pk}/intake/", "Survey": f"/board/{main.pk}/survey/?part=C22",
        "Choose": f"/board/{supply.pk}/choose/?place=C18", "Gather": f"/unit/{b.pk}/gather/", "Swap": f"/board/{supply.pk}/swap/",
        "Cold checks": f"/unit/{b.pk}/cold/", "First power": f"/unit/{a.pk}/power/?step=full", "Hand-over": f"/unit/{a.pk}/handover/",
        "Reckoner": "/reckoner/", "One reckoning": "/reckoner/discharge/", "Shelf": "/shelf/", "Ledger": "/ledger/",
    }  # fmt: skip
    print(f"a fixed piece of plain Python takes {pace():.1f} ms just now")
    for name, url in views.items():
        assert client.get(url).status_code == 200
        print(f"page {name:<14} {median_ms(lambda url=url: client.get(url), 25):6.0f} ms (asked: {PAGE_MOST})")


#: Parts on the board that is drawn and dragged.
MANY = 400


def many_parts() -> int:
    """A board with 400 parts in a unit of its own; its number."""
    from idlebench.web.intake import forms, services
    from idlebench.web.survey.services import paste

    job = services.take_in_job(
        forms.job_facts({"name": "A large board", "machine": "Tide computer", "made": "1985"}), "L"
    )
    facts = forms.board_facts({"name": "MB-400", "width": "400", "height": "300"})
    board = services.add_board(job.units.get(), facts)
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
    client, url = Client(SERVER_NAME="127.0.0.1"), f"/board/{pk}/survey/?part=C200"
    took = median_ms(lambda: client.get(url), 15)
    print(
        f"page with {MANY} parts: {took:.0f} ms (asked: under 90; a fixed piece of plain Python takes {pace():.1f} ms just now)"
    )
    with served(home) as address, sync_playwright() as play:
        browser = play.chromium.launch(executable_path=shutil.which("chromium-headless-shell"), args=CHROMIUM)
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
        starting(str(home))
        supplies()
        choosing()
        ordinary()
        ranking()
        plans()
        simulating()
        faulting()
        pages()
        large_board(str(home))
        waiting(home)
        growth()
        kept()

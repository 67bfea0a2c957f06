"""How long pages and acts take on the server, as multiples of a fixed piece of plain Python that is timed in the same run; and how a
browser keeps up, on a desk and on the processor of a phone."""

from __future__ import annotations

import shutil
import statistics
from collections.abc import Callable

from asked import asked
from timing import best_ms, median_ms
from with_demo import CHROMIUM, served

#: The most that the median page, any page, and an act with the page that follows may take, times the piece of plain Python.
MEDIAN, ANY, LARGE, ACT = 3.0, 4.5, 8.0, 5.0
#: Parts on the board that is drawn and dragged.
MANY = 400
#: How much slower the processor of a phone is, and the longest that a press may wait and a task may last there, ms.
PHONE, PRESS, TASK = 4, 100.0, 50.0


def pace() -> float:
    """How fast this machine is at this moment, ms: where its cores are shared the same page takes twice as long at times."""
    return best_ms(lambda: sum(i * i % 7 for i in range(100_000)), 5)


def _times(work: Callable[[], object], count: int = 20) -> float:
    """A piece of work as a multiple of the piece of plain Python, both timed by turns."""
    found, paces = [], []
    work()
    for _ in range(4):
        paces.append(pace())
        found.append(median_ms(work, count // 4))
    return statistics.median(found) / statistics.median(paces)


def pages() -> None:
    """Every main page of the demo, through Django's test client."""
    from django.test import Client

    from idlebench.web.records.models import Board, Unit

    client = Client(SERVER_NAME="127.0.0.1")
    a, b, *_ = Unit.objects.all()
    supply, main = Board.objects.filter(unit=b)
    views = {
        "Bench": "/", "Intake": f"/unit/{b.pk}/intake/", "Survey": f"/board/{main.pk}/survey/?part=C22",
        "Choose": f"/board/{supply.pk}/choose/?place=C18", "Gather": f"/unit/{b.pk}/gather/", "Swap": f"/board/{supply.pk}/swap/",
        "Cold checks": f"/unit/{b.pk}/cold/", "First power": f"/unit/{a.pk}/power/?step=full", "Suspects": f"/unit/{b.pk}/suspects/",
        "Hand-over": f"/unit/{a.pk}/handover/", "Reckoner": "/reckoner/", "One reckoning": "/reckoner/discharge/", "Shelf": "/shelf/",
        "Ledger": "/ledger/", "Calendar": "/calendar/", "Gather for all": "/gather/", "Triage": f"/job/{b.job_id}/triage/",
    }  # fmt: skip
    print(f"a fixed piece of plain Python takes {pace():.1f} ms just now")
    found = {}
    for name, url in views.items():
        assert client.get(url).status_code == 200, url
        found[name] = _times(lambda url=url: client.get(url))
        asked(f"page {name}, × plain Python", found[name], ANY, "×")
    asked("the median of these pages, × plain Python", statistics.median(found.values()), MEDIAN, "×")
    needles = f"/board/{supply.pk}/choose/needles/?place=C18"
    asked("the needles of Choose, after the page, × plain Python", _times(lambda: client.get(needles)), None, "×")


def _clear(state: object, part: object) -> list[str]:
    """The parts that go into a place without a doubt."""
    from idlebench.web.unit import fits

    return [c.part.part for c in fits.ranking_for(state, part).candidates if c.verdict == "fits"]


def acts() -> None:
    """An act with the page that follows it."""
    from django.test import Client
    from django.urls import reverse

    from idlebench.web.proving.services import take_reading
    from idlebench.web.records.models import Board
    from idlebench.web.unit.state import board_state, unit_state

    client = Client(SERVER_NAME="127.0.0.1")
    board = Board.objects.get(unit__name="B", name="PS-2")
    state, found = board_state(board.pk)
    # the smallest that is open: what it may hold asks no discharge of its own
    small = sorted((p for p in found.places if not p.swap and not p.mains_question), key=lambda p: p.core.value)
    ref = next(p.ref for p in small if len(_clear(state, p)) > 1)
    offered = _clear(state, found.find(ref))[:2]
    unit = board.unit_id
    store = unit_state(unit).proof.discharges[0]

    def send(name: str, pk: int, sent: dict[str, str]) -> None:
        answer = client.post(reverse(name, args=[pk]), sent, follow=True)
        assert answer.status_code == 200 and answer.redirect_chain, (name, answer.status_code)

    def take() -> None:
        seen = board_state(board.pk)[1].find(ref).settled_as
        send("choose_take", board.pk, {"place": ref, "item": next(p for p in offered if p != seen), "seen": seen})

    def swap() -> None:
        swapped = board_state(board.pk)[1].find(ref).swap is not None
        send("swap_back" if swapped else "swap_done", board.pk, {"place": ref})

    asked("take a part, and the page after it, × plain Python", _times(take), ACT, "×")
    asked(
        "log a reading, and the page after it, × plain Python",
        _times(lambda: send("reading", unit, {"step": "cold", f"r:{store.key}": "0.4"})), ACT, "×",
    )  # fmt: skip
    asked(
        "tick a look, and the page after it, × plain Python",
        _times(lambda: send("look", unit, {"key": "smell"})),
        ACT,
        "×",
    )
    for check in unit_state(unit).proof.discharges:
        take_reading(unit, check.key, "0.4")
    asked("swap a part or take it back, and the page after it, × plain Python", _times(swap), ACT, "×")


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


#: Watches for tasks that hold the browser up, for what a press waits, and for gaps between frames.
WATCH = (
    "() => { window.long = []; new PerformanceObserver(l => l.getEntries().forEach(e => long.push(e.duration)))"
    ".observe({ entryTypes: ['longtask'] }); window.pressed = [];"
    " new PerformanceObserver(l => l.getEntries().forEach(e => pressed.push(e.duration)))"
    ".observe({ type: 'event', durationThreshold: 16 });"
    " window.gaps = []; let at = performance.now();"
    " const tick = now => { gaps.push(now - at); at = now; requestAnimationFrame(tick); }; requestAnimationFrame(tick); }"
)


def large_board(home: str) -> None:
    """The page with 400 parts, and the longest task of the browser while one of them is dragged across it."""
    from django.test import Client
    from playwright.sync_api import sync_playwright

    pk = many_parts()
    client, url = Client(SERVER_NAME="127.0.0.1"), f"/board/{pk}/survey/?part=C200"
    asked(f"page with {MANY} parts, × plain Python", _times(lambda: client.get(url)), LARGE, "×")
    with served(home) as address, sync_playwright() as play:
        browser = play.chromium.launch(executable_path=shutil.which("chromium-headless-shell"), args=CHROMIUM)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(address + url)
        page.wait_for_load_state("networkidle")
        page.evaluate(WATCH)
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
    asked(f"tasks over 50 ms while one of {MANY} parts is dragged through 120 moves", len(tasks), 0, "")
    print(f"longest gap between two frames meanwhile {max(gaps):.0f} ms of {len(gaps)}")


def on_a_phone(home: str) -> None:
    """First power and Swap on a phone's processor: what a press waits for its paint, and the longest task while something is typed."""
    from playwright.sync_api import sync_playwright

    from idlebench.web.records.models import Board, Unit

    board = Board.objects.get(unit__name="B", name="PS-2")
    monitor = Unit.objects.get(job__machine="Monitor VM-12")
    with served(home) as address, sync_playwright() as play:
        browser = play.chromium.launch(executable_path=shutil.which("chromium-headless-shell"), args=CHROMIUM)
        for name, url, key in (
            ("First power", f"/unit/{monitor.pk}/power/", "d"), ("Swap", f"/board/{board.pk}/swap/", "m"),
        ):  # fmt: skip
            page = browser.new_page(viewport={"width": 390, "height": 844})
            page.context.new_cdp_session(page).send("Emulation.setCPUThrottlingRate", {"rate": PHONE})
            page.goto(address + url)
            page.wait_for_load_state("networkidle")
            page.evaluate(WATCH)
            page.keyboard.press(key)
            fields = page.locator("main input:visible:not([type=hidden]):not([type=file]):not([type=checkbox])")
            if fields.count():
                fields.first.click()
                page.keyboard.type("C24 esr 4.2 0.35", delay=30)
            page.wait_for_timeout(300)
            tasks, pressed = page.evaluate("() => [window.long, window.pressed]")
            asked(f"{name} on a phone, a press until it is painted", max(pressed, default=0.0), PRESS, "ms")
            asked(f"{name} on a phone, the longest task over 50 ms while typing", max(tasks, default=0.0), TASK, "ms")
            page.close()
        browser.close()

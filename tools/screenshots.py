"""Takes the pictures in docs/screenshots from the demo, one of each main view."""

from __future__ import annotations

import shutil
from pathlib import Path

from playwright.sync_api import sync_playwright
from with_demo import CHROMIUM, demo_home, served

OUT = Path(__file__).resolve().parents[1] / "docs" / "screenshots"
DESK, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}


def views() -> dict[str, tuple[str, dict[str, int], str]]:
    """Name of the picture: address, size, theme."""
    from idlebench.web.records.models import Board, Unit

    a, b, *_ = Unit.objects.all()
    supply, main = Board.objects.filter(unit=b)
    monitor = Unit.objects.get(name="M")
    photographed = Board.objects.get(unit__name="C")
    return {
        "bench": ("/", DESK, "light"), "intake": (f"/unit/{b.pk}/intake/", DESK, "light"),
        "survey": (f"/board/{main.pk}/survey/?part=C22", DESK, "light"), "choose": (f"/board/{supply.pk}/choose/?place=C18", DESK, "light"),
        "figures": ("/ledger/figures/", DESK, "light"), "practice": ("/practice/1/?place=C14", DESK, "light"),
        "gather": ("/gather/?aim=cost", DESK, "light"),
        "swap": (f"/board/{main.pk}/swap/?place=C19", DESK, "light"),
        "cold-checks": (f"/unit/{b.pk}/round/?step=cold&check=cold.pin.b{main.pk}.u5.16", DESK, "light"),
        "hand-over": (f"/unit/{a.pk}/handover/", DESK, "light"),
        "suspects": (f"/unit/{b.pk}/suspects/?seen=ripple %2B5V;crackle", DESK, "light"), "shelf": ("/shelf/?q=100u", DESK, "light"),
        "measuring": (f"/board/{main.pk}/measure/?part=C5&last=C4", DESK, "dark"),
        "supply": (f"/board/{supply.pk}/supply/", DESK, "light"),
        "signs-phone": (f"/unit/{monitor.pk}/suspects/?seen=no height at the bottom#signs-picture", PHONE, "light"),
        "calendar": ("/calendar/", DESK, "light"),
        "found": (f"/board/{photographed.pk}/found/?like=C8", DESK, "light"),
        "triage": (f"/job/{b.job_id}/triage/", DESK, "light"),
        "first-power": (f"/unit/{a.pk}/power/", DESK, "light"),
    }  # fmt: skip


def plan_what_to_buy() -> None:
    """The buying plan of the demo."""
    from idlebench.web.gather import planning

    planning.make()


def plan_the_calendar() -> None:
    """The parcel of that plan ordered, and the calendar planned."""
    from idlebench.web.calendar import services
    from idlebench.web.gather import ordering, planning

    plan, _ = planning.latest()
    for parcel in plan.kept.aims["cost"].orders[:1]:
        ordering.order(parcel.supplier, "cost")
    services.make()


def practise() -> None:
    """A practice machine in the middle of it."""
    from idlebench.web.practice import services

    row = services.begin("bridge", "7")
    for move in (
        "empty",
        "look C14",
        "power lamp dummy",
        "power full dummy",
        "read +5V ripple",
        "power off",
        "empty",
        "read C14 esr",
    ):
        services.do(row.pk, move, str(len(services.sit(row.pk).run.said)))


def measure_a_part() -> None:
    """A reading of C4 of unit B by the simulated meter meter, in circuit."""
    from idlebench.web.records.models import Board
    from idlebench.web.survey import measuring
    from idlebench.web.unit.state import board_state

    state, board = board_state(Board.objects.get(unit__name="B", name="MB-80").pk)
    measuring.take(state, board, board.find("C4"), "", "", in_circuit=True)


def find_parts() -> None:
    """The parts in the photo of unit C's mainboard looked for, and C8 of them listed."""
    from idlebench.web.records.models import Board
    from idlebench.web.survey import photo_finding
    from idlebench.web.unit.state import board_state

    _, board = board_state(Board.objects.get(unit__name="C").pk)
    photo_finding.find(board, print)
    seen = photo_finding.findings(board, board.row.underlays.get())
    found = min(seen.open, key=lambda one: abs(one.found.x - 82) + abs(one.found.y - 101))
    photo_finding.take(board.row, "C8 10u 16V", found.found, seen.room(found.number))


def power_unit_a() -> None:
    """Unit A as it was just before its hand-over, with power on again and one rail that ripples: the picture of First power."""
    from idlebench.web.proving import services
    from idlebench.web.records.models import Event, Unit
    from idlebench.web.unit.state import unit_state

    unit = Unit.objects.get(name="A")
    unit.handed_over = None
    unit.save()
    Event.objects.filter(unit=unit, kind="handed over").delete()
    services.power_on(unit.pk, "feed", unit_state(unit.pk).last_event)
    services.take_reading(unit.pk, "up.feed.−12-v.ripple", "164m")


def main() -> None:
    """Serve the demo, visit each view, keep its picture."""
    with demo_home() as home, served(str(home)) as address, sync_playwright() as play:
        prepare = {
            "first-power": power_unit_a,
            "measuring": measure_a_part,
            "found": find_parts,
            "gather": plan_what_to_buy,
            "calendar": plan_the_calendar,
            "practice": practise,
        }
        OUT.mkdir(parents=True, exist_ok=True)
        browser = play.chromium.launch(executable_path=shutil.which("chromium-headless-shell"), args=CHROMIUM)
        for name, (url, size, theme) in views().items():
            prepare.get(name, lambda: None)()
            context = browser.new_context(
                viewport=size, base_url=address, has_touch=size is PHONE, is_mobile=size is PHONE
            )
            context.add_cookies([{"name": "theme", "value": theme, "url": address}])
            page = context.new_page()
            page.goto(url)
            page.wait_for_load_state("networkidle")
            page.screenshot(path=OUT / f"{name}.png")
            context.close()
            print(OUT / f"{name}.png")
        browser.close()


if __name__ == "__main__":
    main()

"""Measures whether a page takes longer because other units lie on the bench: shops of 25 to 400 units of 100 parts."""

from __future__ import annotations

import random
from collections.abc import Callable

from asked import asked
from timing import median_ms

#: Units in the shop, one after the other end; parts of a unit; the share of them with a make series.
SHOPS, PARTS, WITH_SERIES = (25, 50, 100, 200, 400), 100, 0.6
#: The most by which a page may grow from the first shop to one of so many units.
FLAT, AT = 1.2, 200
#: Units in a job, and how many different series the shop's machines hold.
IN_A_JOB, SERIES = 5, 40


def template() -> tuple:
    """One unit as people would survey it, through the services: its rows are what the shop is made of."""
    from idlebench.core.board.first_look import first_look
    from idlebench.web.choose import services as choosing
    from idlebench.web.intake import forms, services
    from idlebench.web.records.models import Unit
    from idlebench.web.survey.services import paste
    from idlebench.web.unit.state import unit_state

    dice = random.Random(11)
    job = services.take_in_job(
        forms.job_facts({"name": "Shop of many", "machine": "Tide computer", "made": "1985", "worth": "300"}), "T"
    )
    unit = job.units.get()
    boards = []
    for name, supply in (("PS-7", "linear"), ("MB-7", "")):
        facts = {"name": name, "supply": supply, "width": "200", "height": "150", "expected": str(PARTS // 2)}
        facts |= {"fuse": "T 1 A 250 V", "rails": "+5 V 2 A min 0.5 A\n+12 V 1 A"} if supply else {}
        boards.append(services.add_board(unit, forms.board_facts(facts)))
    for board in boards:
        lines = []
        for i in range(PARTS // 2):
            series = f" series S{dice.randrange(SERIES)}" if dice.random() < WITH_SERIES else ""
            look = dice.choice((" sound", " sound", " leaking", " esr 0.4", ""))
            at = f"at {12 + 17 * (i % 10)},{12 + 25 * (i // 10)}"
            lines.append(
                f"C{i + 1} {dice.choice((10, 22, 47, 100))}u 25V 6.3x11 p2.5 decoupling rail +5V {at}{look}{series}"
            )
        loaded = paste(board, "\n".join(lines), good_rows=False)
        assert loaded.added == PARTS // 2, loaded.problems
    unit.first_look = [look.key for look in first_look(unit_state(unit.pk).traits)]
    unit.save()
    for board in boards:
        state = unit_state(unit.pk).board(board.pk)
        choosing.settle_all(board.pk, [(p.ref, choosing.LEFT_IN) for p in state.places[:10]])
    return Unit.objects.get(pk=unit.pk), boards


def copies(unit, boards, count: int, since: int) -> None:
    """More units like the first one, each with its own values and series."""
    from django.db import transaction
    from django.utils import timezone

    from idlebench.web.records.models import Board, Choice, Entry, Job, Part, Unit

    year = timezone.localdate().year
    with transaction.atomic():
        for i in range(count):
            number = since + i
            if number % IN_A_JOB == 0 or i == 0:
                job = Job.objects.create(name=f"Job of shop {number}", machine="Tide computer", made=1985)
            own = Unit.objects.create(job=job, name=f"U{number}", first_look=unit.first_look, worth=200 + number)
            for board in boards:
                parts = list(board.parts.all())
                choices = {c.part_id: c for c in Choice.objects.filter(part__board=board)}
                new = Board.objects.get(pk=board.pk)
                new.pk, new.unit = None, own
                new.save(force_insert=True)
                rows = []
                for part in parts:
                    row = Part.objects.model(
                        **{f.attname: getattr(part, f.attname) for f in Part._meta.concrete_fields}
                    )
                    row.pk, row.board = None, new
                    if row.series:
                        row.series = f"S{(int(row.series[1:]) + number) % SERIES}"
                    row.condemned = row.judged_alone(year)
                    rows.append(row)
                made = Part.objects.bulk_create(rows)
                Choice.objects.bulk_create(
                    Choice(part=row, action=c.action, item=c.item, verdict=c.verdict, reasons=c.reasons, at=c.at)
                    for row, part in zip(made, parts, strict=True)
                    if (c := choices.get(part.pk))
                )
            Entry.objects.bulk_create(
                Entry(unit=own, at=timezone.now(), kind="survey", text=f"Line {n} of unit {own.name}.")
                for n in range(60)
            )


def addresses(unit, boards) -> dict[str, Callable[[object], object]]:
    """The pages that are measured, each a call with a client."""
    _, main = boards

    def get(url: str) -> Callable[[object], object]:
        return lambda client: client.get(url)

    def reading(client: object) -> object:
        return client.post(f"/unit/{unit.pk}/reading/", {"r:cold.mains": "231"})

    return {
        "Bench": get("/"),
        "Survey": get(f"/board/{main.pk}/survey/?part=C7"),
        "Choose": get(f"/board/{main.pk}/choose/?place=C11"),
        "Triage": get(f"/job/{unit.job_id}/triage/"),
        "First power": get(f"/unit/{unit.pk}/power/"),
        "a posted reading": reading,
        "Ledger": get("/ledger/"),
        "figures": get("/ledger/figures/"),
        "find": get("/find/?q=C1"),
    }


def growth() -> None:
    """The table: each page in each shop, ms, with what was asked beside it."""
    from django.test import Client

    unit, boards = template()
    here, found = 1, {}
    client = Client(SERVER_NAME="127.0.0.1")
    calls = addresses(unit, boards)
    for shop in SHOPS:
        copies(unit, boards, shop - here, here)
        here = shop
        for name, call in calls.items():
            found.setdefault(name, []).append(median_ms(lambda call=call: _good(call(client)), 15))
    print(f"{'page, ms, at':<18}{''.join(f'{shop:>8}' for shop in SHOPS)}")
    for name, taken in found.items():
        print(f"{name:<18}{''.join(f'{ms:8.1f}' for ms in taken)}")
    for name, taken in found.items():
        asked(f"{name} at {AT} units, times that at {SHOPS[0]}", taken[SHOPS.index(AT)] / taken[0], FLAT, "×")


def _good(response: object) -> object:
    assert response.status_code in (200, 302, 303), (response.status_code, response.content[:400])
    return response


if __name__ == "__main__":
    from with_demo import demo_home

    with demo_home():
        growth()

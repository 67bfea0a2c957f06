"""Measures what is kept instead of gone through anew: the shop's figures, and the catalogue after a change of the Shelf."""

from __future__ import annotations

import statistics
import time

from asked import asked
from timing import median_ms

#: Units at which the figures are compared, and by how much the larger shop may take longer; swaps of a unit.
FEW, MANY, FLAT, SWAPS = 25, 205, 1.5, 30
#: Rows of the Shelf, and by how much a Choose after a change of it may take longer than one before.
ROWS, AFTER = 50_000, 1.2


def kept() -> None:
    """Both, each as a ratio in one run."""
    figures()
    shelf()


def figures() -> None:
    """The figures of a shop of many units against those of a few."""
    from django.test import Client
    from growth import _good, copies, template

    client, (unit, boards) = Client(SERVER_NAME="127.0.0.1"), template()
    taken, here = [], 1
    for shop in (FEW, MANY):
        copies(unit, boards, shop - here, here)
        here = shop
        _swapped()
        _good(client.get("/ledger/figures/"))
        taken.append(median_ms(lambda: _good(client.get("/ledger/figures/")), 25))
    ratio = taken[1] / taken[0]
    asked(f"figures at {MANY} units ({taken[1]:.0f} ms), times those at {FEW} ({taken[0]:.0f} ms)", ratio, FLAT, "×")


def _swapped() -> None:
    """Some parts of every unit swapped, as its door would have written it."""
    from django.db.models import F

    from idlebench.web.records.models import CatalogueItem, Part, Swap, Unit

    items = list(CatalogueItem.objects.values_list("part", flat=True)[:60])
    done = set(Swap.objects.values_list("part_id", flat=True))
    for unit in Unit.objects.all():
        Swap.objects.bulk_create(
            Swap(part=part, item=items[part.pk % 60], value=part.value, kind=part.kind, mounting=part.mounting)
            for part in Part.objects.filter(board__unit=unit)[:SWAPS]
            if part.pk not in done
        )
    Unit.objects.update(turn=F("turn") + 1)


def shelf() -> None:
    """Choose on a Shelf of many rows: the same page again and again, and each time after a piece was counted in."""
    from django.test import Client
    from growth import _good

    from idlebench.web.records.models import Board, CatalogueItem
    from idlebench.web.unit.stock import count_in

    some = list(CatalogueItem.objects.filter(kind="wet")[:50])
    names = [f.attname for f in CatalogueItem._meta.concrete_fields if f.attname != "id"]
    CatalogueItem.objects.bulk_create(
        CatalogueItem(
            **{**{name: getattr(one, name) for name in names}, "part": f"{one.part}-{i}", "volts": one.volts + i % 7}
        )
        for i in range(ROWS // len(some))
        for one in some
    )
    client, board = Client(SERVER_NAME="127.0.0.1"), Board.objects.exclude(supply="").first()
    url = f"/board/{board.pk}/choose/?place={board.parts.filter(kind='wet').first().ref}"
    part = CatalogueItem.objects.filter(kind="wet").first().part
    _good(client.get(url))

    taken: tuple[list[float], list[float]] = ([], [])
    for _ in range(21):
        # by turns, for a machine is faster at one moment than at another
        for changes, into in zip((False, True), taken, strict=True):
            if changes:
                count_in(part, 1)
            start = time.perf_counter()
            _good(client.get(url))
            into.append(1000 * (time.perf_counter() - start))
    same, changed = map(statistics.median, taken)
    words = f"Choose on {CatalogueItem.objects.count()} rows after a change of the Shelf ({changed:.0f} ms), times without ({same:.0f} ms)"
    asked(words, changed / same, AFTER, "×")


if __name__ == "__main__":
    from with_demo import demo_home

    with demo_home():
        kept()

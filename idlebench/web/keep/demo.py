"""The demo: Skerry Point's three terminals and the timer of its fog signal, taken in like anybody's own jobs, in the middle of the work."""

from __future__ import annotations

from pathlib import Path

from django.db import transaction

from idlebench.core.wording import many

from ..gather import counting, ordering, planning
from ..gather.terms import say_terms
from ..procedures import services as procedures
from ..proving import services as proving
from ..records.models import Job, Order, Unit
from ..shelf.services import ensure_house_catalogue, stock_up
from ..survey import services as surveying
from ..swap import services as swapping
from ..unit.state import unit_state
from .bundle import import_folder

#: What the two shops ask, sample figures.
TERMS = (
    {"supplier": "Lampwright Supply", "postage": "4.90", "free_above": "40", "handling": "0.10"},
    {"supplier": "North Quay Parts", "postage": "3.50", "free_above": "25", "handling": "0.15", "minimum": "5"},
)
DEMO = Path(__file__).resolve().parents[2] / "demo"
FOLDER, SECOND, THIRD = DEMO / "skerry-point", DEMO / "fog-signal", DEMO / "amber-monitor"
#: A kit that somebody sold for the mainboard: one kind is too short in volts, one has a value nobody asked for, one is too few.
KIT = """
2 x 47u 6.3V 5x11 p2 105C name KIT-47
3 x 330u 16V 8x11.5 p3.5 105C name KIT-330
1 x 22u 25V 5x11 p2 105C name KIT-22
"""
#: What came off with a part, and how it was mended.
MEND = "pad C19 + to C20 + wire 0.5 insulated glued before OL"


def load_demo() -> str:
    """Load the demo onto an empty bench; says what was done."""
    ensure_house_catalogue()
    if Job.objects.exists():
        return "The bench has jobs already: the demo is only loaded onto an empty one."
    stock_up((FOLDER / "shelf.csv").read_bytes())
    for terms in TERMS:
        say_terms(terms)
    job, second, third = (import_folder(folder) for folder in (FOLDER, SECOND, THIRD))
    with transaction.atomic():
        # what the demo tells was read of its machines: the simulated bench is switched on after that
        meters = dict(Job.objects.values_list("pk", "meter"))
        Job.objects.update(meter="")
        _in_the_middle(job)
        for pk, meter in meters.items():
            Job.objects.filter(pk=pk).update(meter=meter)
    named = ", ".join(
        f"job {one.number}, {one.name}: {many(one.units.count(), 'unit')}" for one in (job, second, third)
    )
    return f"Loaded {named}.".replace(": 1 units", ": 1 unit")


def _in_the_middle(job: Job) -> None:
    """What was done lately: parcels of both jobs ordered, one come short; a kit counted in; a pad mended; a board that dries."""
    b, c = job.units.get(name="B"), job.units.get(name="C")
    counting.take_kit(b.pk, KIT, str(Unit.objects.get(pk=b.pk).turn))
    _parcels()
    main = b.boards.get(name="MB-80")
    surveying.load_nets(main, (FOLDER / "MB-80-nets.csv").read_bytes(), good_rows=False)
    for check in unit_state(b.pk).proof.discharges:
        proving.take_reading(b.pk, check.key, "0.3")
    swapping.mend(main.pk, MEND)
    wash = procedures.add(b.pk, "board-wash-alcohol", main.pk)
    for number in (1, 2, 3, 4):
        procedures.done(b.pk, wash.pk, number)
    begun = procedures.add(c.pk, "case-wash")
    procedures.done(c.pk, begun.pk, 1)


def _parcels() -> None:
    """The parcels of the plan for both jobs ordered; of the first all came but two kinds, which came short."""
    plan = planning.make()
    for parcel in plan.kept.aims["cost"].orders:
        ordering.order(parcel.supplier, "cost")
    first = max(Order.objects.all(), key=lambda order: order.lines.count())
    lines = sorted(first.lines.all(), key=lambda line: -line.quantity)
    for line in lines[2:]:
        ordering.arrived(line.pk, line.quantity)
    for line in lines[:2]:
        if line.quantity > 1:
            ordering.arrived(line.pk, line.quantity // 2)

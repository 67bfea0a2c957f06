"""Weighing the units of a job, and moving boards between them."""

from __future__ import annotations

from collections.abc import Mapping

from django.db import transaction

from idlebench.core.judge.triage import TIMES, Estimate, Times, UnitFacts, estimate, minutes_of, shop_times
from idlebench.core.prove import interlocks
from idlebench.core.refusal import BadInput, Blocked

from ..records.models import Board, CatalogueItem, Job, ShopTimes, Unit
from ..unit.door import MOVED_AWAY, in_unit_transaction, opened_all
from ..unit.log import log
from ..unit.moved import take_along
from ..unit.rows import board_id
from ..unit.summary import UnitSummary, Weighed, summaries
from ..unit.times import own_times

#: Money reckoned for a place where nothing is chosen yet.
UNPRICED = 0.25


def facts_of(unit: Unit, found: Weighed, prices: Mapping[str, float]) -> UnitFacts:
    """What triage needs of a unit, from its survey, choices and checks."""
    return UnitFacts(
        name=unit.name,
        swaps=found.mountings,
        parts_cost=sum(prices.get(item, UNPRICED) for item in found.items),
        not_seen=found.not_seen,
        missing=found.missing,
        damage=unit.damage,
        checks=found.checks,
        leaking=found.leaking,
        worth=unit.worth,
        surveyed=found.surveyed,
    )


def weigh(job: Job) -> list[tuple[Unit, UnitSummary, Estimate]]:
    """Every unit of a job that is not handed over, with what it would take."""
    waiting = list(job.units.filter(handed_over=None).select_related("job"))
    found = summaries(waiting)
    names = {item for one in found.values() for item in one.weighed.items if item}
    prices = dict(CatalogueItem.objects.filter(part__in=names).values_list("part", "price"))
    times = own_times()
    return [
        (unit, one, estimate(facts_of(unit, one.weighed, prices), job.hour_rate, times))
        for unit in waiting
        if (one := found.get(unit.pk)) is not None
    ]


@transaction.atomic
def keep_times(minutes: dict[str, float]) -> Times:
    """Keep the shop's own times, in minutes; what is not among them goes by what a shop starts with."""
    row = ShopTimes.objects.first() or ShopTimes()
    row.minutes = minutes
    row.save()
    return shop_times(minutes)


def times_shown() -> list[tuple[str, str, float]]:
    """Each time by its name, with its words and its minutes."""
    minutes = minutes_of(own_times())
    return [(name, words, minutes[name]) for name, words in TIMES.items()]


@in_unit_transaction("The unit cannot be changed")
def value(unit: Unit, worth: float | None, damage: int) -> None:
    """Say what a unit is worth, and how many pads and traces are damaged."""
    unit.worth, unit.damage = worth, damage
    unit.save(update_fields=["worth", "damage"])
    log(
        unit,
        "triage",
        f"Worth {'not given' if unit.worth is None else f'€{unit.worth:.2f}'}, damaged pads or traces: {unit.damage}.",
    )


def move_board(board: Board, to: Unit) -> None:
    """Move a board to another unit of its job; both logs say so, and its checks are asked again there.

    Raises:
        BadInput: not a unit to move to. Blocked: one of the two has power or is handed over, or a store that
            is within reach may be charged.
    """
    title, here = f"{board.name} cannot be moved", board.unit
    if to.pk == here.pk or to.job_id != here.job_id:
        raise BadInput(to.name, "another unit of the same job", field="to")
    with opened_all(sorted([here.pk, to.pk]), title) as units:
        if reasons := interlocks.moving([unit.state.proof for unit in units], [board_id(board.pk)]):
            raise Blocked(title, reasons)
        board.refresh_from_db()
        if board.unit_id != here.pk:
            raise Blocked(title, MOVED_AWAY)
        if board.replaced or board.stands_for_id:
            raise BadInput(
                board.name, "a board that replaces no other and is not replaced",
                "Put the old board back at Intake first; a donor's board then goes back to its unit.", field="board",
            )  # fmt: skip
        if to.boards.filter(name=board.name).exists():
            raise BadInput(
                board.name,
                f"a board that unit {to.name} does not have",
                f"Rename unit {to.name}'s own first.",
                field="to",
            )
        board.unit = to
        board.save(update_fields=["unit"])
        take_along(board)
        log(here, "move", f"{board.name} given to unit {to.name}.")
        log(to, "move", f"{board.name} taken from unit {here.name}. Its checks are asked again here.")

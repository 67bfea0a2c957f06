"""Weighing the units of a job, and moving boards between them."""

from __future__ import annotations

from collections.abc import Mapping

from django.db import transaction

from idlebench.core.judge.triage import TIMES, Estimate, Times, UnitFacts, estimate, minutes_of, shop_times
from idlebench.core.judge.verdict import NOT_SEEN
from idlebench.core.prove import gates
from idlebench.core.refusal import BadInput, GateShut

from ..records.models import Board, CatalogueItem, ShopTimes, Unit
from ..unit.door import MOVED_AWAY, inside, opened_all
from ..unit.log import log
from ..unit.state import UnitState

#: Money reckoned for a place where nothing is chosen yet.
UNPRICED = 0.25


def facts_of(state: UnitState, prices: Mapping[str, float]) -> UnitFacts:
    """What triage needs of a unit, from its survey, choices and checks."""
    open_places = [p for p in state.parts if p.to_fill and not p.swap and not p.kept]
    cost = sum(prices.get(p.choice.item, UNPRICED) if p.choice else UNPRICED for p in open_places)
    to_find = sum(max(0, (b.row.expected or 0) - len(b.parts)) for b in state.boards)
    cold = state.proof.steps[0]
    return UnitFacts(
        state.row.name,
        tuple(p.core.mounting for p in open_places),
        cost,
        sum(p.verdict.name == NOT_SEEN for p in state.parts) + to_find,
        sum(p.core.looks == "missing" and not p.swap for p in state.parts),
        state.row.damage,
        len(state.proof.open_checks(cold)),
        sum(p.core.looks in ("leaking", "burst") and not p.swap for p in state.parts),
        state.row.worth,
        bool(state.parts),
    )


def weigh(states: list[UnitState]) -> list[tuple[UnitState, Estimate]]:
    """Every unit that is not handed over, with what it would take."""
    waiting = [s for s in states if not s.row.handed_over]
    names = {p.choice.item for s in waiting for p in s.parts if p.taken}
    prices = dict(CatalogueItem.objects.filter(part__in=names).values_list("part", "price"))
    times = own_times()
    return [(s, estimate(facts_of(s, prices), s.job.hour_rate, times)) for s in waiting]


def own_times() -> Times:
    """The shop's own times."""
    row = ShopTimes.objects.first()
    return shop_times(row.minutes if row else {})


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


@inside("Nothing of it can be changed")
def value(unit: Unit, worth: float | None, damage: int) -> None:
    """Say what a unit is worth, and how many pads and traces are damaged."""
    unit.worth, unit.damage = worth, damage
    unit.save(update_fields=["worth", "damage"])
    log(
        unit,
        "triage",
        f"Worth {'not said' if unit.worth is None else f'€{unit.worth:.2f}'}, damaged pads or traces: {unit.damage}.",
    )


def move_board(board: Board, to: Unit) -> None:
    """Move a board to another unit of its job; both logs say so, and its checks are asked again there.

    Raises:
        BadInput: not a unit to move to. GateShut: one of the two has power or is handed over.
    """
    title, here = f"{board.name} cannot be moved", board.unit
    if to.pk == here.pk or to.job_id != here.job_id:
        raise BadInput(to.name, "another unit of the same job", "", "to")
    with opened_all(sorted([here.pk, to.pk]), title) as units:
        reasons = gates.moving([unit.state.proof for unit in units])
        if reasons:
            raise GateShut(title, reasons)
        board.refresh_from_db()
        if board.unit_id != here.pk:
            raise GateShut(title, MOVED_AWAY)
        if to.boards.filter(name=board.name).exists():
            raise BadInput(
                board.name, f"a board that unit {to.name} does not have", f"Rename unit {to.name}'s own first.", "to"
            )
        board.unit = to
        board.save(update_fields=["unit"])
        log(here, "move", f"{board.name} given to unit {to.name}.")
        log(to, "move", f"{board.name} taken from unit {here.name}. Its checks are asked again here.")

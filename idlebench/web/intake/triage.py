"""Weighing the units of a job, and moving boards between them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping

from django.db import transaction

from idlebench.core.board.serials import Numbered, swapped_boards
from idlebench.core.judge.triage import (
    CONDITIONS,
    DECISIONS,
    TIMES,
    Estimate,
    Times,
    UnitFacts,
    estimate,
    minutes_of,
    shop_times,
)
from idlebench.core.prove import interlocks
from idlebench.core.refusal import BadInput, Blocked

from ..records.models import Board, CatalogueItem, Job, Photo, ShopTimes, Unit
from ..unit.door import MOVED_AWAY, in_unit_transaction, opened_all
from ..unit.log import log
from ..unit.moved import take_along
from ..unit.rows import board_id
from ..unit.summary import UnitSummary, Weighed, summaries

#: Money reckoned for a place where nothing is chosen yet.
UNPRICED = 0.25


def numbered(units: Iterable[Unit]) -> tuple[str, ...]:
    """What serial numbers of the units of a job say of boards that were swapped."""
    boards: dict[int, list[tuple[str, str]]] = {}
    rows = list(units)
    for unit, name, called, serial in Board.objects.filter(unit__in=rows, replaced="").values_list(
        "unit_id", "name", "called", "serial"
    ):
        boards.setdefault(unit, []).append((called or name, serial))
    return swapped_boards([Numbered(name=u.name, serial=u.serial, boards=tuple(boards.get(u.pk, ()))) for u in rows])


def facts_of(unit: Unit, found: Weighed, prices: Mapping[str, float], shown: tuple[int, int] = (0, 0)) -> UnitFacts:
    """What triage needs of a unit, from its survey, choices and checks. shown: boards on a photo, and boards listed."""
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
        shown=shown,
        condition=conditions(unit),
        decided=unit.decision,
        why=unit.decision_why,
    )


def weigh(job: Job, times: Times) -> list[tuple[Unit, UnitSummary, Estimate]]:
    """Every unit of a job that is not handed over, with what it would take by the shop's own times."""
    waiting = list(job.units.filter(handed_over=None).select_related("job"))
    found = summaries(waiting)
    names = {item for one in found.values() for item in one.weighed.items if item}
    prices = dict(CatalogueItem.objects.filter(part__in=names).values_list("part", "price"))
    on_photos = Counter(
        Photo.objects.filter(unit__in=waiting, removed=None)
        .exclude(board=None)
        .values_list("unit_id", "board_id")
        .distinct()
    )
    seen = Counter(pk for pk, _ in on_photos)
    return [
        (
            unit,
            one,
            estimate(facts_of(unit, one.weighed, prices, (seen[unit.pk], len(one.boards))), job.hour_rate, times),
        )
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


def times_shown(times: Times) -> list[tuple[str, str, float]]:
    """Each time by its name, with its words and its minutes."""
    minutes = minutes_of(times)
    return [(name, words, minutes[name]) for name, words in TIMES.items()]


def conditions(unit: Unit) -> tuple[str, ...]:
    """How a unit looks before its survey; words that this version does not know are left out."""
    return tuple(word for word in unit.condition.split(", ") if word in CONDITIONS)


@in_unit_transaction("The unit cannot be changed")
def decide(unit: Unit, decision: str, why: str) -> None:
    """Say by hand what becomes of a unit: save, donor, wait, or "" for no decision. Nothing more is planned for a donor.

    Raises:
        BadInput: none of these, or a donor without a reason.
    """
    why = " ".join(why.split())[:200]
    if decision and decision not in DECISIONS:
        raise BadInput(decision, f"one of {', '.join(DECISIONS)}", field="decision")
    if decision == "donor" and len(why) < 4:
        raise BadInput(
            why, "why it becomes a donor, in a few words", "Such as: traces eaten under the socket.", field="why"
        )
    unit.decision, unit.decision_why = decision, why if decision else ""
    unit.save(update_fields=["decision", "decision_why"])
    log(unit, "triage", f"Decided by hand: {decision or 'taken back'}{', ' + why if decision and why else ''}.")


@in_unit_transaction("The unit cannot be changed")
def value(unit: Unit, worth: float | None, damage: int, condition: tuple[str, ...] = ()) -> None:
    """Say what a unit is worth, how many pads and traces are damaged, and how it looks before its survey."""
    unit.worth, unit.damage, unit.condition = worth, damage, ", ".join(condition)
    unit.save(update_fields=["worth", "damage", "condition"])
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

"""The one door through which a unit is changed.

A unit is read, judged against and written in one immediate transaction: whoever comes second reads what the first one wrote.
What was changed of it, by whatever service, is found by looking before and after, and goes into the record as events.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import contextmanager
from datetime import datetime
from functools import cached_property, wraps
from typing import TypeVar

from django.db import models, transaction
from django.utils import timezone

from idlebench.core.prove import Event, changes, hazards, interlocks
from idlebench.core.prove.hazards import Unlisted
from idlebench.core.prove.record import MAINS
from idlebench.core.refusal import BadInput, Block, Blocked

from ..records import steady
from ..records.models import Board, Choice, DeviceChoice, DeviceSwap, Reading, Unit
from ..records.models import Event as EventRow
from .looking import UnitSnapshot, corrected, described_anew, look
from .parts import BoardState, PartState
from .state import UnitState, unit_state

T = TypeVar("T")
#: Why something cannot be done to what somebody moved in the same moment.
MOVED_AWAY = (Block("moved", "It went to another unit meanwhile.", "Load the page again."),)


class Open:
    """A unit while it is being changed. state: the unit as it stands, read inside the transaction when it is first asked for."""

    def __init__(self, pk: int) -> None:
        self.pk = pk
        self._out: dict[str, str] = {}

    def out(self, row: str, why: str) -> None:
        """Say that a part or board leaves for good, by its row: a gate asked that what it stores was empty, so it is asked no more."""
        self._out[row] = why

    def is_out(self, store: Unlisted) -> str:
        """Why a store left for good, "" where nobody said so."""
        return self._out.get(store.row) or self._out.get(store.board, "")

    @cached_property
    def state(self) -> UnitState:
        return unit_state(self.pk)

    def board(self, pk: int) -> BoardState:
        """A board of the unit.

        Raises:
            Blocked: it went to another unit since the request looked for it.
        """
        found = next((board for board in self.state.boards if board.row.pk == pk), None)
        if found is None:
            raise Blocked("The board is not here", MOVED_AWAY)
        return found

    def place(self, board: int, ref: str) -> tuple[BoardState, PartState]:
        """A part of a board by its reference.

        Raises:
            BadInput: the board has no such part.
        """
        found = self.board(board)
        part = found.find(ref)
        if part is None:
            raise BadInput(ref, f"a place of {found.row.name}", field="place")
        return found, part


@contextmanager
def unit_transaction(pk: int, title: str, *, closed_too: bool = False) -> Iterator[Open]:
    """Change one unit.

    Args:
        title: what cannot be done, should a gate be shut. closed_too: a handed-over unit is opened as well.

    Raises:
        Blocked: the unit is handed over, or what was changed stands under power; nothing is written.
        Unit.DoesNotExist: there is none.
    """
    with opened_all([pk], title, closed_too=closed_too) as units:
        yield units[0]


@contextmanager
def opened_all(pks: list[int], title: str, *, closed_too: bool = False) -> Iterator[list[Open]]:
    """Change several units of a job at once; all of it or nothing."""
    with transaction.atomic():
        rows = [Unit.objects.get(pk=pk) for pk in pks]
        before = {pk: look(pk) for pk in pks}
        units = [Open(pk) for pk in pks]
        shut = [] if closed_too else [row for row in rows if row.handed_over is not None]
        reasons = [reason for row in shut for reason in interlocks.closed(unit_state(row.pk).proof)]
        if reasons:
            raise Blocked(title, tuple(reasons))
        yield units
        after = {pk: look(pk) for pk in pks}
        changed = [unit for unit in units if before[unit.pk] != after[unit.pk]]
        for unit in changed:
            _outdate(corrected(before[unit.pk], after[unit.pk]), described_anew(before[unit.pk], after[unit.pk]))
        gone = _gone(changed, before, after)
        for unit in units:
            if unit in changed or unit.pk in gone:
                _log_changes(unit.pk, title, before[unit.pk], after[unit.pk], gone.get(unit.pk, []))
        Unit.objects.filter(pk__in=pks).update(turn=models.F("turn") + 1)


def _outdate(told: Mapping[int, str], devices: Mapping[tuple[int, str], str]) -> None:
    """Choices for places that were corrected count no more, unless the new part is soldered in already."""
    for choice in Choice.objects.filter(part__in=told, part__swap=None) if told else ():
        # no choice of its own: to take the last choice back must not bring an outdated one up
        Choice.objects.filter(pk=choice.pk).update(outdated=told[choice.part_id])
    for (board, ref), words in devices.items():
        if not DeviceSwap.objects.filter(board=board, ref=ref).exists():
            DeviceChoice.objects.filter(board=board, ref=ref).update(verdict=DeviceChoice.OUTDATED, reasons=[words])


def _gone(
    changed: Iterable[Open], before: Mapping[int, UnitSnapshot], after: Mapping[int, UnitSnapshot]
) -> dict[int, list[Event]]:
    """Stores that are on no list any more, as events by unit."""
    units = {unit.pk: unit for unit in changed if not before[unit.pk].only_grew(after[unit.pk])}
    if not units:
        return {}
    was, is_ = {pk: before[pk].listed for pk in units}, {pk: one.listed for pk, one in after.items()}
    said = lambda store: next(filter(None, (unit.is_out(store) for unit in units.values())), "")  # noqa: E731
    return hazards.newly_unlisted(was, is_, timezone.now().timestamp(), said)


def _log_changes(pk: int, title: str, before: UnitSnapshot, after: UnitSnapshot, gone: Iterable[Event]) -> None:
    """What was changed of a unit, as events.

    Raises:
        Blocked: it has power, and something it rests on was changed under it.
    """
    now = timezone.now()
    found = [*changes(before.things, after.things, now.timestamp()), *gone]
    if before.way != after.way:
        found.append(Event(kind=MAINS, at=now.timestamp(), words="mains or way up"))
    if not found:
        return
    unit = Unit.objects.get(pk=pk)
    if unit.handed_over is not None:
        # its job's settings may change; what it was handed over with stays as it was
        return
    if unit.sessions.filter(ended=None).exists():
        reasons = interlocks.change(unit_state(pk).proof, found)
        if reasons:
            raise Blocked(title, reasons)
    EventRow.objects.bulk_create(EventRow.of(unit, event, now) for event in found)


def note(unit: Unit, kind: str, at: datetime, *, reading: Reading | None = None, **facts: object) -> tuple[int, Event]:
    """Write one event into a unit's record, inside its door; its key, and the event."""
    moment = steady.moment(at)
    event = Event(kind=kind, at=moment.at, boot=moment.boot, steady=moment.steady, **facts)
    row = EventRow.of(unit, event, at, reading=reading)
    row.save()
    return row.pk, event


def unit_of(row: models.Model) -> int:
    """The unit a row belongs to: a unit itself, a board, a part, a photo, a step of the dismantling log, a reforming run."""
    if isinstance(row, Unit):
        return row.pk
    if hasattr(row, "unit_id"):
        return row.unit_id
    return unit_of(row.part if hasattr(row, "part_id") else row.board)


def unit_of_board(pk: int) -> int:
    """The unit a board is in. Board.DoesNotExist where there is none."""
    return Board.objects.values_list("unit_id", flat=True).get(pk=pk)


def in_unit_transaction(title: str) -> Callable[[Callable[..., T]], Callable[..., T]]:
    """A service whose first argument is a row of a unit, run inside that unit's door.

    The row came in with a request and was read before the door opened. Inside it is read anew, for somebody may have written
    it since; DoesNotExist where it is gone.
    """

    def wrap(service: Callable[..., T]) -> Callable[..., T]:
        @wraps(service)
        def run(row: models.Model, *args: object, **kwargs: object) -> T:
            pk = unit_of(row)
            with unit_transaction(pk, title):
                row.refresh_from_db()
                if unit_of(row) != pk:
                    raise Blocked(title, MOVED_AWAY)
                return service(row, *args, **kwargs)

        return run

    return wrap

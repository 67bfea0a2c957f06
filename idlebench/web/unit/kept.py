"""A unit's boards as they are judged, and its record, kept in this process by the stamps that the database makes at every write.

What is kept is core values and columns, never rows: each who asks gets rows of its own. The key is all that a verdict rests on: the
stamp of boards and parts, the policy, the year, what of the job is asked, and how the series of its parts have done. The rules are
those of the process. What time can change (power, what is wet, how old a reading is) is not in it.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any, TypeVar

from django.db import connections
from django.db.models import OuterRef, Subquery

from idlebench.core import prove
from idlebench.core.board.devices import read_device
from idlebench.core.board.monitor_lines import Monitor, read_monitor
from idlebench.core.board.monitor_places import MonitorPlace, stages_told, tell_monitor
from idlebench.core.board.parts import Fitted
from idlebench.core.board.replacement import read_wire
from idlebench.core.board.zones import ZonedPart, read_zone, tell
from idlebench.core.choose.need import Mains
from idlebench.core.choose.plan import bad_series
from idlebench.core.choose.supply_figures import PlaceFacts
from idlebench.core.choose.supply_model import Branch, places_of, read_model, tell_supply
from idlebench.core.judge.evidence import SeriesCount
from idlebench.core.judge.measure import read_with
from idlebench.core.judge.verdict import decide, wrong_one
from idlebench.core.refusal import BadInput
from idlebench.core.text.rails_and_chips import read_chip, read_rail
from idlebench.core.text.stored import Unread, read_lines

from ..records.models import Board, Event, Job, Part, Revision, SeriesTally, Unit
from ..records.prepared import Prepared
from .parts import BOARD_COLUMNS, PART_COLUMNS, BoardState, ChoiceState, PartState, SwapState
from .policies import policy_named
from .verdicts import verdict_of, year_now
from .work import Work, work_of

T = TypeVar("T")
#: So many units are kept, those asked for last.
MOST = 64

_UNIT_COLUMNS = tuple(f.attname for f in Unit._meta.concrete_fields)
_JOB_COLUMNS = tuple(f.attname for f in Job._meta.concrete_fields)
_CHOICE_COLUMNS = ("pk", "action", "item", "by_hand", "verdict", "reasons", "outdated", "at")
_SWAP_COLUMNS = ("pk", "item", "value", "kind", "mounting", "bipolar", "safety", "note", "at", "took")


def _stamp(name: str) -> Subquery:
    return Subquery(Revision.objects.filter(unit=OuterRef("pk")).values(name))


_UNIT = Prepared(
    lambda pk: (
        Unit.objects.order_by()
        .filter(pk=pk)
        .annotate(parts_stamp=_stamp("parts"), record_stamp=_stamp("record"))
        .values_list(*_UNIT_COLUMNS, *(f"job__{name}" for name in _JOB_COLUMNS), "parts_stamp", "record_stamp")
    )
)
_BOARDS = Prepared(lambda pk: Board.objects.filter(unit=pk).order_by("id").values_list(*BOARD_COLUMNS))
_PARTS = Prepared(
    lambda pk: (
        Part.objects.filter(board__unit=pk, board__replaced="")
        .order_by("board_id", "id")
        .values_list(
            *PART_COLUMNS,
            *(f"choice__{name}" for name in _CHOICE_COLUMNS),
            *(f"swap__{name}" for name in _SWAP_COLUMNS),
        )
    )
)
_SERIES = Prepared(
    lambda pk: SeriesTally.objects.filter(
        series__in=Part.objects.order_by().filter(board__unit=pk).values("series")
    ).values_list("series", "failed", "seen")
)


@dataclass(frozen=True)
class KeptUnit:
    """What is kept of a unit's boards. replaced: columns of boards that are out of the machine."""

    boards: tuple[tuple[tuple[Any, ...], BoardState], ...]
    replaced: tuple[tuple[Any, ...], ...]
    facts: tuple[prove.BoardFacts, ...]


@dataclass(frozen=True)
class KeptRecord:
    """A unit's events with their keys, and the record that they are."""

    recorded: tuple[tuple[int, prove.Event], ...]
    record: prove.Record


@dataclass(frozen=True)
class UnitRow:
    """A unit's own row with its job, read now, and the stamps that stood beside it; None where nothing was written yet."""

    row: Unit
    parts: int | None
    record: int | None


class _Store(OrderedDict[int, tuple[object, T]]):
    """The values of the units asked for last, each good for one key. Shared by the threads of a server."""

    def __init__(self) -> None:
        super().__init__()
        self._lock = threading.Lock()

    def of(self, unit: int, key: object) -> T | None:
        with self._lock:
            found = super().get(unit)
            if found is None or found[0] != key:
                return None
            self.move_to_end(unit)
            return found[1]

    def keep(self, unit: int, key: object, value: T) -> T:
        with self._lock:
            self[unit] = (key, value)
            self.move_to_end(unit)
            while len(self) > MOST:
                self.popitem(last=False)
        return value


_BOARDS_KEPT: _Store[KeptUnit] = _Store()
_RECORDS_KEPT: _Store[KeptRecord] = _Store()


def unit_row(pk: int) -> UnitRow:
    """A unit's row with its job. Unit.DoesNotExist where there is none."""
    rows = _UNIT.rows(pk)
    if not rows:
        raise Unit.DoesNotExist
    values, wide = rows[0], len(_UNIT_COLUMNS)
    unit = Unit.from_db(_alias(), _UNIT_COLUMNS, values[:wide])
    unit.job = Job.from_db(_alias(), _JOB_COLUMNS, values[wide:-2])
    return UnitRow(unit, values[-2], values[-1])


def _alias() -> str:
    """The connection that is in use: a trial has one of its own."""
    return Unit._base_manager.db


def _bench() -> tuple[str, str]:
    """Which bench is in use."""
    return _alias(), str(connections[_alias()].settings_dict["NAME"])


def series_of(pk: int) -> dict[str, SeriesCount]:
    """How the series of a unit's parts have done."""
    return {series: SeriesCount(failed, seen) for series, failed, seen in _SERIES.rows(pk)}


def boards_of(unit: UnitRow, counts: dict[str, SeriesCount]) -> tuple[tuple[BoardState, ...], KeptUnit]:
    """A unit's boards as they stand, with rows of their own, and what is kept of them."""
    job, pk = unit.row.job, unit.row.pk
    policy, year = policy_named(job.policy), year_now()
    asked = (job.school, job.made, job.meter_frequency, job.mains_volts, job.mains_frequency, job.earth_limit)
    key = (_bench(), unit.parts, policy, year, asked, tuple(job.traits), counts)
    # without a stamp nothing says when it changes: a unit of no boards, or a bench without its triggers
    kept = _BOARDS_KEPT.of(pk, key) if unit.parts is not None else None
    if kept is None:
        kept = _BOARDS_KEPT.keep(pk, key, _judged(unit.row, counts, year))
    return tuple(state.given_out(_board(values, unit.row)) for values, state in kept.boards), kept


def replaced_of(unit: Unit, kept: KeptUnit) -> list[Board]:
    """Rows of the boards that were replaced."""
    return [_board(values, unit) for values in kept.replaced]


def record_of(unit: UnitRow) -> KeptRecord:
    """The events of a unit in order, each with its key."""
    pk, key = unit.row.pk, (_bench(), unit.record)
    found = _RECORDS_KEPT.of(pk, key) if unit.record is not None else None
    if found is None:
        recorded = tuple(Event.to_core([pk]).get(pk, []))
        found = _RECORDS_KEPT.keep(pk, key, KeptRecord(recorded, prove.Record(tuple(event for _, event in recorded))))
    return found


def forget() -> None:
    """Let go of all that is kept: the next who asks reads and judges anew."""
    _BOARDS_KEPT.clear()
    _RECORDS_KEPT.clear()


def _board(values: tuple[Any, ...], unit: Unit) -> Board:
    row = Board.from_db(_alias(), BOARD_COLUMNS, values)
    row.unit = unit
    return row


@lru_cache(maxsize=256)
def monitor_lines(text: str) -> tuple[Monitor | None, tuple[Unread, ...]]:
    """The monitor's lines; one that cannot be read leaves all of them unread, and shuts power."""
    try:
        return read_monitor(text), ()
    except BadInput as error:
        return None, (Unread("monitor", text, str(error)),)


@lru_cache(maxsize=256)
def supply_lines(text: str) -> tuple[tuple[Branch, ...], tuple[Unread, ...]]:
    """The supply's lines; they speak of each other, so one that cannot be read leaves all of them unread."""
    try:
        return read_model(text), ()
    except BadInput as error:
        return (), (Unread("supply", text, str(error)),)


@lru_cache(maxsize=256)
def supply_facts(
    supply: tuple[Branch, ...], parts: tuple[Fitted, ...], mains: Mains
) -> tuple[dict[str, PlaceFacts], tuple[str, ...]]:
    """What a board's supply tells its places, remembered."""
    return places_of(supply, {p.ref: p for p in parts}, mains)


def _monitors(
    boards: Iterable[Board], refs: dict[int, set[str]]
) -> dict[int, tuple[Monitor | None, tuple[Unread, ...], dict[str, MonitorPlace]]]:
    """The monitor of each board, what of its lines cannot be read, and what its places are told."""
    read = {row.pk: monitor_lines(row.monitor_model) for row in boards}
    if not any(monitor for monitor, _ in read.values()):
        return {pk: (None, bad, {}) for pk, (_, bad) in read.items()}
    told = stages_told({pk: monitor for pk, (monitor, _) in read.items()}, refs)
    return {pk: (monitor, bad, told[pk]) for pk, (monitor, bad) in read.items()}


@dataclass(frozen=True)
class _Place:
    """A part as its columns tell it, with what was decided and done."""

    values: tuple[Any, ...]
    row: Part
    choice: ChoiceState | None
    swap: SwapState | None

    @classmethod
    def of(cls, columns: tuple[Any, ...]) -> _Place:
        wide, mid = len(PART_COLUMNS), len(PART_COLUMNS) + len(_CHOICE_COLUMNS)
        values, choice, swap = columns[:wide], columns[wide:mid], columns[mid:]
        row = Part.from_db(_alias(), PART_COLUMNS, values)
        return cls(
            values,
            row,
            _choice(choice) if choice[0] is not None else None,
            SwapState(**dict(zip(_SWAP_COLUMNS, swap, strict=True))) if swap[0] is not None else None,
        )

    @property
    def outdated(self) -> str:
        """What was corrected since it was chosen for, "" where the choice counts; a part that is in stays."""
        return self.choice.outdated if self.choice is not None and self.swap is None else ""


def _choice(row: Sequence[Any]) -> ChoiceState:
    told = dict(zip(_CHOICE_COLUMNS, row, strict=True))
    return ChoiceState(**{**told, "reasons": tuple(told["reasons"])})


def _judged(unit: Unit, counts: dict[str, SeriesCount], year: int) -> KeptUnit:
    """All boards of a unit, read and judged."""
    job, columns = unit.job, _BOARDS.rows(unit.pk)
    rows = {values[0]: _board(values, unit) for values in columns}
    here = {pk: row for pk, row in rows.items() if not row.replaced}
    places: dict[int, list[_Place]] = {pk: [] for pk in here}
    for values in _PARTS.rows(unit.pk):
        place = _Place.of(values)
        places[place.row.board_id].append(place)
    monitors = _monitors(here.values(), {pk: {place.row.ref for place in on} for pk, on in places.items()})
    work = work_of(here)
    boards = _boards(job, here, places, monitors, work, counts, year)
    by_key = {state.row.pk: state for state in boards}
    facts = tuple(state.facts(job) for state in boards)
    return KeptUnit(
        tuple((values, by_key[values[0]]) for values in columns if values[0] in here),
        tuple(values for values in columns if values[0] not in here),
        facts,
    )


def _boards(
    job: Job,
    rows: dict[int, Board],
    places: dict[int, list[_Place]],
    monitors: dict[int, tuple[Monitor | None, tuple[Unread, ...], dict[str, MonitorPlace]]],
    work: dict[int, Work],
    counts: dict[str, SeriesCount],
    year: int,
) -> list[BoardState]:
    policy, mains = policy_named(job.policy), Mains(job.mains_volts, job.mains_frequency)
    judged = []
    for pk, row in rows.items():
        zones, bad_zones = read_lines(row.zones, "zones", read_zone)
        supply, bad_supply = supply_lines(row.supply_model)
        monitor, bad_monitor, stages = monitors[pk]
        here = [tell(place.row.to_core(), zones) for place in places[pk]]
        facts, wrong = (
            supply_facts(supply, tuple(read_with(t.part, job.meter_frequency) for t in here), mains)
            if supply
            else ({}, ())
        )
        found = []
        for place, told in zip(places[pk], here, strict=True):
            core, said = tell_supply(told.part, facts)
            core, stage, wrong_part = tell_monitor(core, stages)
            told_all = ZonedPart(core, (*told.said, *said, *stage))
            found.append((place, told_all, wrong_one(verdict_of(place.row, core, job, counts, year=year), wrong_part)))
        unread = (*bad_zones, *bad_supply, *bad_monitor)
        judged.append(
            (
                row,
                BoardState(
                    row=row,
                    parts=(),
                    rails=(),
                    chips=(),
                    zones=zones,
                    others=(),
                    supply=supply,
                    supply_wrong=wrong,
                    unread=unread,
                    work=work[pk],
                    wiring=(),
                    monitor=monitor,
                ),
                found,
            )
        )
    bad = bad_series((told.part, verdict) for _, _, found in judged for _, told, verdict in found)
    boards = []
    for row, state, found in judged:
        on_mains = bool(row.supply) and not any(line.split()[1:2] == ["adapter"] for line in row.others.splitlines())
        parts = tuple(
            PartState(
                values=place.values,
                core=told.part,
                verdict=verdict,
                decision=decide(told.part, verdict, policy, bad),
                choice=None if place.outdated else place.choice,
                swap=place.swap,
                told=told.said,
                outdated=place.outdated,
                on_mains=on_mains,
                board=row,
            )
            for place, told, verdict in found
        )
        rails, bad_rails = read_lines(row.rails, "rails", read_rail)
        chips, bad_chips = read_lines(row.chips, "chips", read_chip)
        others, bad_others = read_lines(row.others, "regulators, fuses and the like", read_device)
        wiring, bad_wiring = read_lines(row.wiring, "wiring", read_wire)
        unread = (*state.unread, *bad_rails, *bad_chips, *bad_others, *bad_wiring, *state.work.unread)
        boards.append(
            replace(state, parts=parts, rails=rails, chips=chips, others=others, wiring=wiring, unread=unread)
        )
    return boards

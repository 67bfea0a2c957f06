"""A unit as it stands: rows read once, judged and planned by core, with the counts that the spine shows."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cached_property, lru_cache

from django.db.models import Prefetch, Q, QuerySet
from django.db.models.functions import Coalesce
from django.utils import timezone

from idlebench.core import prove
from idlebench.core.board.devices import Device, first_out, read_device
from idlebench.core.board.dismantle import still_open
from idlebench.core.board.first_look import Look, first_look
from idlebench.core.board.monitor_lines import Monitor, MonitorPlace, read_monitor, stages_told, tell_monitor
from idlebench.core.board.parts import Capacitor, Fitted
from idlebench.core.board.replacement import read_wire
from idlebench.core.board.spills import Spill, spill_of
from idlebench.core.board.zones import Told, read_zone, tell
from idlebench.core.choose.need import Mains
from idlebench.core.choose.plan import bad_series
from idlebench.core.choose.supply_model import Branch, PlaceFacts, places_of, read_model, tell_supply
from idlebench.core.judge.measure import read_with
from idlebench.core.judge.policy import Policy
from idlebench.core.judge.verdict import SeriesCount, decide, wrong_one
from idlebench.core.prove import gates
from idlebench.core.prove.hazards import Unlisted
from idlebench.core.prove.record import BENCH, IMPORTED, READ, SIMULATED
from idlebench.core.refusal import BadInput, Shut
from idlebench.core.text.rails_and_chips import read_chip, read_rail
from idlebench.core.text.stored import Unread, read_lines
from idlebench.instruments import HOUSE

from ..records import steady
from ..records.models import (
    Board,
    CatalogueItem,
    Event,
    ImportedRecord,
    Job,
    Part,
    PowerSession,
    Reading,
    ReformRun,
    Unit,
    UnitProcedure,
)
from ..records.prepared import Prepared
from .parts import BoardState, DeviceState, PartState, verdict_of, year_now
from .policies import policy_named
from .series import series_counts
from .spine import Stage, stages_of
from .work import Work, work_of


@dataclass(frozen=True)
class Wet:
    """What is wet in a unit, in words, and when it is dry; None where nothing dries yet."""

    words: str
    until: datetime | None


@dataclass(frozen=True)
class On:
    """What is on on the whole bench: the open session, reforming runs in words by unit, and what is wet."""

    session: PowerSession | None
    runs: dict[int, list[str]]
    wet: dict[int, list[Wet]]


#: Events with their keys.
Recorded = list[tuple[int, prove.Event]]


class UnitState:
    """A unit with its boards, its record of readings and its way up."""

    def __init__(
        self,
        row: Unit,
        boards: tuple[BoardState, ...],
        counts: dict[str, SeriesCount],
        on: On,
        recorded: Recorded | None = None,
    ) -> None:
        self.counts = counts
        self.row = row
        self.job: Job = row.job
        self.boards = boards
        # the one session that is open on the whole bench, this unit's or another's
        session = on.session
        self.session = session if session and session.unit_id == row.pk else None
        self._elsewhere = session.unit_id if session and session.unit_id != row.pk else 0
        self.reforming = tuple(on.runs.get(row.pk, ()))
        wet = on.wet.get(row.pk, ())
        self.wet = tuple(one.words for one in wet)
        #: when the next of it is dry, None where nothing dries
        self.dries = min((one.until for one in wet if one.until is not None), default=None)
        self.now = timezone.now()
        self._recorded = recorded

    @cached_property
    def live_elsewhere(self) -> str:
        """The unit that has power instead of this one, "" for none."""
        return Unit.objects.values_list("name", flat=True).get(pk=self._elsewhere) if self._elsewhere else ""

    @cached_property
    def recorded(self) -> Recorded:
        """The events of the unit in order, each with its key; read when somebody asks."""
        return Event.to_core([self.row.pk]).get(self.row.pk, []) if self._recorded is None else self._recorded

    def told(self, recorded: Recorded) -> None:
        """Judge the unit by another telling of its record, before anything was asked of it."""
        self._recorded = recorded

    def at(self, now: datetime) -> None:
        """Judge the unit as it is at another time: that of a bundle which is taken in."""
        self.now = now
        self.__dict__.pop("closing", None)
        if "proof" in self.__dict__:
            moment = steady.moment(now)
            self.__dict__["proof"] = self.proof.again(now=moment.at, steady=moment.steady)

    def happened(self, key: int, event: prove.Event) -> None:
        """Take an event that was just written into account, without reading the unit anew."""
        self.recorded.append((key, event))
        self.__dict__.pop("closing", None)
        if "proof" in self.__dict__:
            record = self.proof.record.with_(event)
            self.__dict__["proof"] = self.proof.again(record=record, live=self.session.step if self.session else "")

    @property
    def last_event(self) -> int:
        """The key of the last event, 0 where there is none: what a question is asked about."""
        return self.recorded[-1][0] if self.recorded else 0

    @cached_property
    def readings(self) -> list[Reading]:
        return list(self.row.readings.all())

    @cached_property
    def _latest(self) -> dict[str, Reading]:
        return {reading.key: reading for reading in self.readings}

    def reading_of(self, check: prove.Check) -> Reading | None:
        """The last reading of a check, as it was written down; one kept under a name is found too."""
        return next((self._latest[key] for key in (check.key, *check.names) if key in self._latest), None)

    @cached_property
    def facts(self) -> tuple[prove.BoardFacts, ...]:
        return tuple(board.facts(self.job) for board in self.boards)

    @cached_property
    def proof(self) -> prove.Proof:
        """The unit as its gates see it."""
        return prove.Proof(
            boards=self.facts,
            record=prove.Record(tuple(event for _, event in self.recorded)),
            now=self.now.timestamp(),
            boot=steady.boot(),
            steady=steady.moment(self.now).steady,
            way=self.job.way,
            mains=self.job.mains_volts,
            name=self.row.name,
            looks=self.first_look,
            looked=frozenset(self.row.first_look),
            skipped=self.row.look_skipped,
            live=self.session.step if self.session else "",
            live_elsewhere=self.live_elsewhere,
            handed_over=self.row.handed_over is not None,
            reforming=self.reforming,
            wet=self.wet,
            simulated=self.job.meter == HOUSE,
            blown=self._blown,
            unsettled=tuple(p.ref for p in (*self.unsettled, *self.devices_unsettled)),
        )

    @property
    def _blown(self) -> dict[str, int]:
        """Fuses that blew since a cause was last logged, by place. They go with their board, wherever it is moved."""
        return {f"{b.row.name} {ref}": count for b in self.boards for ref, count in b.work.blown.items()}

    @cached_property
    def closing(self) -> prove.Proof:
        """The same, with what of the dismantling log is not back: what hand-over is asked from."""
        told = [(row.to_core(), row.back is not None) for row in self.row.dismantling.all()]
        return replace(self.proof, apart=still_open(told))

    @property
    def unsettled(self) -> list[PartState]:
        """Places that are neither swapped nor left in."""

        def waits(p: PartState) -> bool:
            return p.taken or p.left_out or (p.decision.replace and p.choice is None)

        return [p for p in self.parts if not p.swap and waits(p)]

    @property
    def devices_unsettled(self) -> list[DeviceState]:
        """Places of other parts for which something was taken that is not in."""
        return [d for b in self.boards for d in b.devices if d.choice and not d.swap]

    @property
    def unread(self) -> list[tuple[BoardState, Unread]]:
        """Stored lines that cannot be read, with their board: each page says so, and goes on without them."""
        return [(b, line) for b in self.boards for line in b.unread]

    @property
    def unlisted(self) -> tuple[Unlisted, ...]:
        """Stores that are on no list any more and are asked for all the same."""
        listed = prove.hazards.stores_here(
            self.facts, max((abs(rail.nominal) for rail in prove.fed_rails(self.facts)), default=0.0)
        )
        return tuple(store for store in self.proof.unlisted if store.row not in listed)

    @cached_property
    def unconfirmed(self) -> int:
        """How many readings came with a file and prove nothing here: nobody at this bench has taken them over."""
        return sum(event.imported and event.kind == READ for _, event in self.recorded)

    @cached_property
    def imported_record(self) -> ImportedRecord | None:
        """That it came with a file, None where it was taken in here."""
        came = any(event.kind == IMPORTED for _, event in self.recorded)
        return ImportedRecord.objects.filter(unit=self.row.pk).first() if came else None

    @property
    def read_on(self) -> dict[str, str]:
        """What a reading notes where the unit is tried on the simulated bench: whoever types it there reads no machine."""
        return {BENCH: SIMULATED} if self.job.meter == HOUSE else {}

    @property
    def one_clock(self) -> bool:
        """Whether this computer has a wall clock alone: nothing then tells a wait from a clock that was set."""
        return not steady.boot()

    @property
    def left_out(self) -> tuple[Shut, ...]:
        """Mains filter parts that are out for a test: the unit is unfinished, and every page of it says so."""
        return gates.left_out(self.facts)

    @property
    def live_step(self) -> str | None:
        return self.session.step if self.session else None

    @cached_property
    def policy(self) -> Policy:
        """The job's way of deciding."""
        return policy_named(self.job.policy)

    @property
    def mains(self) -> Mains:
        return Mains(self.job.mains_volts, self.job.mains_frequency)

    @cached_property
    def fitted(self) -> dict[str, Capacitor]:
        """The pieces that were soldered in, by part, as far as the Shelf knows them."""
        items = {p.swap.item for p in self.parts if p.swap and not p.is_out}
        return {row.part: row.to_core() for row in CatalogueItem.objects.filter(part__in=items)} if items else {}

    @cached_property
    def first_look(self) -> tuple[Look, ...]:
        return first_look(self.traits)

    @property
    def traits(self) -> set[str]:
        """What the machine has: as told, and as its boards and parts show."""
        shown = {"supply"} if any(b.row.supply for b in self.boards) else set()
        shown |= {"tube"} if any(b.monitor for b in self.boards) else set()
        if any(o.what == "battery" for b in self.boards for o in b.others):
            shown.add("battery")
        return shown | set(self.job.traits)

    @property
    def outdated(self) -> list[tuple[BoardState, PartState]]:
        """Places that were chosen for before they were corrected: they are chosen for again, and nothing is bought for them."""
        return [(b, p) for b in self.boards for p in b.parts if p.outdated]

    @property
    def outdated_devices(self) -> list[tuple[BoardState, str, str]]:
        """The same of what is no capacitor: board, reference, and what was described anew."""
        return [(b, ref, words) for b in self.boards for ref, words in b.work.outdated.items()]

    @property
    def leaking(self) -> list[tuple[BoardState, Device, Spill]]:
        """Batteries that leak, with the board they sit on and what ran out of them: they come out first."""
        return [(b, o, spill_of(o)) for b in self.boards for o in first_out(d.standing for d in b.devices)]

    @property
    def looked(self) -> int:
        """How many of the first look are done: ticked, or skipped with a reason."""
        done = {*self.row.first_look, *self.row.look_skipped}
        return sum(look.key in done for look in self.first_look)

    def board(self, pk: int) -> BoardState:
        """A board of the unit. Board.DoesNotExist where it is none, or was replaced."""
        found = next((b for b in self.boards if b.row.pk == pk), None)
        if found is None:
            raise Board.DoesNotExist
        return found

    @property
    def replaced(self) -> list[Board]:
        """Boards that were replaced: they are out of the machine."""
        return [row for row in self.row.boards.all() if row.replaced]

    @cached_property
    def parts(self) -> list[PartState]:
        return [p for b in self.boards for p in b.parts]

    @cached_property
    def stages(self) -> list[Stage]:
        """The eight stations with what is left at each."""
        return stages_of(self)

    @property
    def waits_for(self) -> Stage | None:
        """The first station with something left."""
        return next((s for s in self.stages if not s.done), None)


def _units() -> QuerySet[Unit]:
    parts = Part.objects.select_related("choice", "swap")
    return Unit.objects.select_related("job").prefetch_related(
        "boards",
        Prefetch("boards__parts", queryset=parts),
    )


#: What is on on the whole bench; none of it asks for a key.
_SESSIONS = Prepared(
    lambda _: PowerSession.objects.order_by().filter(ended=None).values_list("pk", "unit_id", "step", "title", "began")
)
_RUNS = Prepared(
    lambda _: (
        ReformRun.objects.order_by()
        .filter(discharged=None)
        .values_list("part__board__unit_id", "part__ref", "part__board__name")
    )
)
_WET = Prepared(
    lambda _: (
        UnitProcedure.objects.order_by()
        .filter(Q(dries_until__isnull=False) | Q(soaked=True))
        .annotate(where=Coalesce("board__unit_id", "unit_id"))
        .values_list("where", "title", "dries_until", "boot", "dries_steady", "soaked")
    )
)


def _open() -> On:
    """What is on on the whole bench: the session that is open, reforming runs by unit, and what is wet."""
    live = None
    for pk, unit, step, title, began in _SESSIONS.rows(0):
        live = PowerSession(pk=pk, unit_id=unit, step=step, title=title, began=began)
    by_unit: dict[int, list[str]] = {}
    for unit, ref, board in _RUNS.rows(0):
        by_unit.setdefault(unit, []).append(f"{ref} on {board}")
    return On(live, by_unit, wet_now())


def wet_now() -> dict[int, list[Wet]]:
    """What dries or is to be dried, in words by unit. A board takes the water in it along to another unit."""
    found: dict[int, list[Wet]] = {}
    for unit, title, until, boot, by_steady, soaked in _WET.rows(0):
        at = dries_at(until, boot, by_steady)
        if at is None and not soaked:
            continue
        words = f" dries until {timezone.localtime(at):%H:%M on %-d %b}" if at else " is begun, and nothing dries yet"
        found.setdefault(unit, []).append(Wet(f"{title}{words}", at))
    return found


def dries_at(until: datetime | None, boot: str, by_steady: datetime | None) -> datetime | None:
    """When a wait is over, by the later of both clocks; None where none runs.

    Args:
        until: by the wall clock. boot, by_steady: the same by the steady clock of a start of this machine.
    """
    now, steady_now = timezone.now(), steady.now()
    ends = [until] if until is not None else []
    if steady_now is not None and by_steady is not None and boot == steady.boot():
        ends.append(now + (by_steady - steady_now))
    last = max(ends, default=None)
    return last if last is not None and last > now else None


def monitor_lines(text: str) -> tuple[Monitor | None, tuple[Unread, ...]]:
    """The monitor's lines; one that cannot be read leaves all of them unread, and shuts power."""
    try:
        return read_monitor(text), ()
    except BadInput as error:
        return None, (Unread("monitor", text, str(error)),)


def _monitors(unit: Unit) -> dict[int, tuple[Monitor | None, tuple[Unread, ...], dict[str, MonitorPlace]]]:
    """The monitor of each board, what of its lines cannot be read, and what its places are told."""
    rows = [row for row in unit.boards.all() if not row.replaced]
    read = {row.pk: monitor_lines(row.monitor_model) for row in rows}
    if not any(monitor for monitor, _ in read.values()):
        return {pk: (None, bad, {}) for pk, (_, bad) in read.items()}
    refs = {row.pk: {part.ref for part in row.parts.all()} for row in rows}
    told = stages_told({pk: monitor for pk, (monitor, _) in read.items()}, refs)
    return {pk: (monitor, bad, told[pk]) for pk, (monitor, bad) in read.items()}


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


def _outdated(part: Part) -> str:
    """What was corrected of a place since it was chosen for, "" where the choice counts; a part that is in stays."""
    choice = getattr(part, "choice", None)
    return choice.outdated if choice is not None and getattr(part, "swap", None) is None else ""


def _state(
    unit: Unit, counts: dict[str, SeriesCount], on: On, work: dict[int, Work], recorded: Recorded | None = None
) -> UnitState:
    job = unit.job
    policy, year = policy_named(job.policy), year_now()
    judged = []
    monitors = _monitors(unit)
    for row in unit.boards.all():
        if row.replaced:
            continue
        zones, bad_zones = read_lines(row.zones, "zones", read_zone)
        supply, bad_supply = supply_lines(row.supply_model)
        monitor, bad_monitor, stages = monitors[row.pk]
        rows = list(row.parts.all())
        here = [tell(part.to_core(), zones) for part in rows]
        mains = Mains(job.mains_volts, job.mains_frequency)
        facts, wrong = (
            supply_facts(supply, tuple(read_with(t.part, job.meter_frequency) for t in here), mains)
            if supply
            else ({}, ())
        )
        places = []
        for part, told in zip(rows, here, strict=True):
            core, said = tell_supply(told.part, facts)
            core, stage, wrong_part = tell_monitor(core, stages)
            places.append((part, Told(core, (*told.said, *said, *stage)), wrong_part))
        judged.append(
            (
                row,
                (zones, supply, wrong, (*bad_zones, *bad_supply, *bad_monitor), monitor),
                [(p, t, wrong_one(verdict_of(p, t.part, job, counts, year=year), bad)) for p, t, bad in places],
            )
        )
    bad = bad_series((told.part, verdict) for _, _, parts in judged for _, told, verdict in parts)
    boards = []
    for row, (zones, supply, wrong, unread, monitor), parts in judged:
        states = tuple(
            PartState(
                part,
                told.part,
                verdict,
                decide(told.part, verdict, policy, bad),
                None if _outdated(part) else getattr(part, "choice", None),
                getattr(part, "swap", None),
                told.said,
                _outdated(part),
                bool(row.supply) and not any(line.split()[1:2] == ["adapter"] for line in row.others.splitlines()),
            )
            for part, told, verdict in parts
        )
        rails, bad_rails = read_lines(row.rails, "rails", read_rail)
        chips, bad_chips = read_lines(row.chips, "chips", read_chip)
        others, bad_others = read_lines(row.others, "regulators, fuses and the like", read_device)
        done = work[row.pk]
        wiring, bad_wiring = read_lines(row.wiring, "wiring", read_wire)
        unread = (*unread, *bad_rails, *bad_chips, *bad_others, *bad_wiring, *done.unread)
        boards.append(
            BoardState(row, states, rails, chips, zones, others, supply, wrong, unread, done, wiring, monitor)
        )
    return UnitState(unit, tuple(boards), counts, on, recorded)


def unit_state(pk: int) -> UnitState:
    """A unit as it stands. Unit.DoesNotExist where there is none."""
    return _state(unit := _units().get(pk=pk), _counts([unit]), _open(), _work([unit]))


def states_of(units: Iterable[int]) -> list[UnitState]:
    """Some units as they stand, in the bench's order."""
    rows = list(_units().filter(pk__in=units))
    work = _work(rows)
    counts, on, recorded = _counts(rows), _open(), Event.to_core([unit.pk for unit in rows])
    return [_state(unit, counts, on, work, recorded.get(unit.pk, [])) for unit in rows]


def _work(units: list[Unit]) -> dict[int, Work]:
    """What was done on these units' boards beside capacitors."""
    return work_of(board.pk for unit in units for board in unit.boards.all())


def _counts(units: list[Unit]) -> dict[str, SeriesCount]:
    """How the series of these units' parts have done."""
    return series_counts(part.series for unit in units for board in unit.boards.all() for part in board.parts.all())


def board_state(pk: int) -> tuple[UnitState, BoardState]:
    """A board within its unit. Unit.DoesNotExist where there is none."""
    unit = _units().get(pk__in=Board.objects.filter(pk=pk).values("unit_id"))
    state = _state(unit, _counts([unit]), _open(), _work([unit]))
    return state, state.board(pk)

"""A unit as it stands: rows read once, judged and planned by core, with the counts that its stages show."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from datetime import datetime
from functools import cached_property

from django.utils import timezone

from idlebench.core import prove
from idlebench.core.board.device_lines import first_out
from idlebench.core.board.devices import Device
from idlebench.core.board.dismantle import still_open
from idlebench.core.board.first_look import FirstLookItem, first_look
from idlebench.core.board.parts import Capacitor
from idlebench.core.board.spills import Spill, spill_of
from idlebench.core.choose.need import Mains
from idlebench.core.judge.evidence import SeriesCount
from idlebench.core.judge.policy import Policy
from idlebench.core.prove import interlocks
from idlebench.core.prove.hazards import Unlisted
from idlebench.core.prove.record import IMPORTED, READ
from idlebench.core.prove.status import BENCH, SIMULATED
from idlebench.core.refusal import Block
from idlebench.core.text.stored import Unread
from idlebench.instruments import HOUSE

from ..records import steady
from ..records.models import (
    Board,
    CatalogueItem,
    ImportedRecord,
    Job,
    Reading,
    Unit,
)
from ..records.prepared import Prepared
from .bench_power import BenchPower, open
from .kept import KeptUnit, UnitRow, boards_of, record_of, replaced_of, series_of, unit_row
from .parts import BoardState, DeviceState, PartState
from .policies import policy_named
from .stage_rail import Stage, stages_of

#: Events with their keys.
Recorded = list[tuple[int, prove.Event]]


class UnitState:
    """A unit with its boards, its record of readings and its way up."""

    def __init__(
        self,
        *,
        unit: UnitRow,
        boards: tuple[BoardState, ...],
        counts: dict[str, SeriesCount],
        on: BenchPower,
        kept: KeptUnit,
    ) -> None:
        self.counts = counts
        self._unit, self._kept = unit, kept
        self.row = row = unit.row
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
        self._recorded: Recorded | None = None
        #: the record as it is kept, None where it has grown since or is told otherwise
        self._record: prove.Record | None = None

    @cached_property
    def live_elsewhere(self) -> str:
        """The unit that has power instead of this one, "" for none."""
        return Unit.objects.values_list("name", flat=True).get(pk=self._elsewhere) if self._elsewhere else ""

    @cached_property
    def recorded(self) -> Recorded:
        """The events of the unit in order, each with its key; read when somebody asks."""
        if self._recorded is not None:
            return self._recorded
        kept = record_of(self._unit)
        self._record = kept.record
        return list(kept.recorded)

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
        self._record = None
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
        return self._kept.facts

    @cached_property
    def proof(self) -> prove.Proof:
        """The unit as its gates see it."""
        events = self.recorded
        return prove.Proof(
            boards=self.facts,
            record=self._record or prove.Record(tuple(event for _, event in events)),
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
            asked=self.job.rounds,
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
    def left_out(self) -> tuple[Block, ...]:
        """Mains filter parts that are out for a test: the unit is unfinished, and every page of it says so."""
        return interlocks.left_out(self.facts)

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
        return CatalogueItem.cores(items)

    @cached_property
    def first_look(self) -> tuple[FirstLookItem, ...]:
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
        return replaced_of(self.row, self._kept)

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


def _state(pk: int, on: BenchPower) -> UnitState:
    unit, counts = unit_row(pk), series_of(pk)
    boards, kept = boards_of(unit, counts)
    return UnitState(unit=unit, boards=boards, counts=counts, on=on, kept=kept)


def unit_state(pk: int) -> UnitState:
    """A unit as it stands. Unit.DoesNotExist where there is none."""
    return _state(pk, open())


def states_of(units: Iterable[int]) -> list[UnitState]:
    """Some units as they stand, in the bench's order."""
    keys, on = list(Unit.objects.filter(pk__in=units).values_list("pk", flat=True)), open()
    return [_state(pk, on) for pk in keys]


_UNIT_OF = Prepared(lambda pk: Board.objects.filter(pk=pk).order_by().values_list("unit_id"))


def board_state(pk: int) -> tuple[UnitState, BoardState]:
    """A board within its unit. Board.DoesNotExist where there is none, or where it was replaced."""
    found = _UNIT_OF.rows(pk)
    if not found:
        raise Board.DoesNotExist
    state = unit_state(found[0][0])
    return state, state.board(pk)

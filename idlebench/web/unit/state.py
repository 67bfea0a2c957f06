"""A unit as it stands: rows read once, judged and planned by core, with the counts that the spine shows."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import TypeVar

from django.db.models import Prefetch, QuerySet
from django.urls import reverse
from django.utils import timezone

from idlebench.core import prove
from idlebench.core.board.devices import Device, first_out, read_device
from idlebench.core.board.first_look import Look, first_look
from idlebench.core.board.parts import Fitted
from idlebench.core.board.zones import Told, Zone, hidden, read_zone, tell
from idlebench.core.choose.need import Mains
from idlebench.core.choose.plan import bad_series, count_series, without
from idlebench.core.choose.supply_model import Branch, PlaceFacts, places_of, read_model, tell_supply
from idlebench.core.judge.policy import Policy
from idlebench.core.judge.verdict import NOT_SEEN, REPLACE, Decision, SeriesCount, Verdict, by_hand, decide, judge
from idlebench.core.refusal import BadInput
from idlebench.core.text.dates import year_of
from idlebench.core.text.rails_and_chips import Chip, Rail, read_chip, read_rail

from ..records.models import Board, Choice, Job, Part, PowerSession, Reading, Swap, Unit
from .policies import policy_named

T = TypeVar("T")


@dataclass(frozen=True)
class PartState:
    """A part with its verdict, what the policy asks, and what was decided and done.

    core: the part with what the zones tell its place; told: that in words.
    """

    row: Part
    core: Fitted
    verdict: Verdict
    decision: Decision
    choice: Choice | None
    swap: Swap | None
    told: tuple[str, ...] = ()

    @property
    def ref(self) -> str:
        return self.core.ref

    @property
    def standing(self) -> Fitted:
        """What stands in the place now: the new part once it is swapped."""
        new = self.swap
        return self.core.after_swap(new.value, new.kind, new.mounting, new.bipolar) if new else self.core

    @property
    def to_fill(self) -> bool:
        """Whether the place is one to settle: the policy asks it, or a person decided about it."""
        return self.decision.replace or self.choice is not None

    @property
    def taken(self) -> bool:
        return self.choice is not None and self.choice.action == Choice.TAKE

    @property
    def kept(self) -> bool:
        return self.choice is not None and self.choice.action == Choice.KEEP

    @property
    def outcome(self) -> str:
        """The state its gabled tag tells."""
        if self.choice is None:
            return "not yet"
        return "keep" if self.kept else self.choice.verdict


@dataclass(frozen=True)
class BoardState:
    """A board with its parts judged."""

    row: Board
    parts: tuple[PartState, ...]
    rails: tuple[Rail, ...]
    chips: tuple[Chip, ...]
    zones: tuple[Zone, ...] = ()
    others: tuple[Device, ...] = ()
    supply: tuple[Branch, ...] = ()
    supply_wrong: tuple[str, ...] = ()

    @property
    def hidden(self) -> tuple[str, ...]:
        """Parts under a daughter board that are not listed yet."""
        return hidden(self.zones, (p.ref for p in self.parts))

    @property
    def bad(self) -> int:
        """Parts judged to be replaced that still stand there."""
        return sum(p.verdict.name == REPLACE and not p.swap for p in self.parts)

    def find(self, ref: str) -> PartState | None:
        return next((p for p in self.parts if p.ref == ref.upper()), None)

    @property
    def places(self) -> tuple[PartState, ...]:
        return tuple(p for p in self.parts if p.to_fill)

    @property
    def to_swap(self) -> tuple[PartState, ...]:
        return tuple(p for p in self.parts if p.taken)

    @property
    def counted(self) -> str:
        """How many were found of how many the board should have."""
        expected = self.row.expected
        return f"{len(self.parts)} of {expected}" if expected is not None else f"{len(self.parts)}"

    @property
    def complete(self) -> bool:
        return bool(self.parts) and (self.row.expected is None or len(self.parts) == self.row.expected)

    def tally(self, name: str) -> int:
        return sum(p.verdict.name == name for p in self.parts)

    def facts(self) -> prove.BoardFacts:
        """The board as the proof needs it."""
        row = self.row
        swapped = frozenset(p.ref for p in self.parts if p.swap)
        return prove.BoardFacts(
            row.name,
            row.supply,
            tuple(p.standing for p in self.parts),
            swapped,
            self.rails,
            self.chips,
            row.fuse,
            row.source_volts,
            row.source_va,
        )


@dataclass(frozen=True)
class Stage:
    """A station on the spine: its address, what is left, and its state: done, open or here."""

    key: str
    title: str
    url: str
    left: str
    done: bool


class UnitState:
    """A unit with its boards, its record of readings and its way up."""

    def __init__(
        self,
        row: Unit,
        boards: tuple[BoardState, ...],
        readings: list[Reading],
        session: PowerSession | None,
        counts: dict[str, SeriesCount],
    ) -> None:
        self.counts = counts
        self.row = row
        self.job: Job = row.job
        self.boards = boards
        self.readings = readings
        self.session = session

    @cached_property
    def latest(self) -> dict[str, Reading]:
        """The reading that counts, by check."""
        return {reading.key: reading for reading in self.readings}

    @cached_property
    def record(self) -> dict[str, prove.Seen]:
        return {
            key: prove.Seen(r.value if r.value is not None else float("inf"), r.passed, r.overridden)
            for key, r in self.latest.items()
        }

    @cached_property
    def facts(self) -> tuple[prove.BoardFacts, ...]:
        return tuple(board.facts() for board in self.boards)

    @cached_property
    def progress(self) -> prove.Progress:
        return prove.Progress(prove.way_up(self.facts, self.job.way, self.job.mains_volts), self.record)

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

    @property
    def first_look(self) -> tuple[Look, ...]:
        return first_look(self.traits)

    @property
    def traits(self) -> set[str]:
        """What the machine has: as told, and as its boards and parts show."""
        shown = {"supply"} if any(b.row.supply for b in self.boards) else set()
        if any(o.what == "battery" for b in self.boards for o in b.others):
            shown.add("battery")
        return shown | set(self.job.traits)

    @property
    def leaking(self) -> list[tuple[BoardState, Device]]:
        """Batteries that leak, with the board they sit on: they come out first."""
        return [(b, o) for b in self.boards for o in first_out(b.others)]

    @property
    def looked(self) -> int:
        return sum(look.key in self.row.first_look for look in self.first_look)

    def board(self, pk: int) -> BoardState:
        return next(b for b in self.boards if b.row.pk == pk)

    @property
    def parts(self) -> list[PartState]:
        return [p for b in self.boards for p in b.parts]

    @cached_property
    def stages(self) -> list[Stage]:
        """The eight stations with what is left at each."""
        places = [p for p in self.parts if p.to_fill]
        settled = sum(p.choice is not None for p in places)
        taken = [p for p in self.parts if p.taken]
        swapped = sum(p.swap is not None for p in taken)
        survey_done = bool(self.boards) and all(b.complete for b in self.boards)
        cold = self.progress.steps[0]
        cold_done = sum(prove.done(c, self.record) for c in cold.checks)
        up = self.progress.steps[1:]
        up_done = sum(prove.step_done(s, self.record) for s in up)
        expected = [b.row.expected for b in self.boards]
        total = f" of {sum(expected)}" if expected and None not in expected else ""
        unit, first = self.row.pk, self.boards[0].row.pk if self.boards else 0

        def on_board(name: str, wanted: Iterable[BoardState]) -> str:
            board = next(iter(wanted), None)
            return reverse(name, args=[board.row.pk if board else first]) if first else reverse("intake", args=[unit])

        handed = self.row.handed_over is not None
        return [
            Stage(
                "intake",
                "Intake",
                reverse("intake", args=[unit]),
                f"{self.looked} of {len(self.first_look)}",
                self.looked == len(self.first_look),
            ),
            Stage(
                "survey",
                "Survey",
                on_board("survey", (b for b in self.boards if not b.complete)),
                f"{len(self.parts)}{total}",
                survey_done,
            ),
            Stage(
                "choose",
                "Choose",
                on_board("choose", (b for b in self.boards if any(p.choice is None for p in b.places))),
                f"{settled} of {len(places)}",
                bool(places) and settled == len(places),
            ),
            Stage(
                "gather",
                "Gather",
                reverse("gather", args=[unit]),
                f"{len({p.choice.item for p in taken})} kinds",
                bool(taken) and swapped == len(taken),
            ),
            Stage(
                "swap",
                "Swap",
                on_board("swap", (b for b in self.boards if any(p.swap is None for p in b.to_swap))),
                f"{swapped} of {len(taken)}",
                bool(taken) and swapped == len(taken),
            ),
            Stage(
                "cold",
                "Cold checks",
                reverse("cold", args=[unit]),
                f"{cold_done} of {len(cold.checks)}",
                cold_done == len(cold.checks),
            ),
            Stage(
                "power",
                "First power",
                reverse("power", args=[unit]),
                f"{up_done} of {len(up)}" if up else "no rails",
                bool(up) and up_done == len(up),
            ),
            Stage("handover", "Hand-over", reverse("handover", args=[unit]), "done" if handed else "", handed),
        ]

    @property
    def waits_for(self) -> Stage | None:
        """The first station with something left."""
        return next((s for s in self.stages if not s.done), None)


def _units() -> QuerySet[Unit]:
    parts = Part.objects.select_related("choice", "swap")
    return Unit.objects.select_related("job").prefetch_related(
        "boards",
        Prefetch("boards__parts", queryset=parts),
        "readings",
        Prefetch("sessions", queryset=PowerSession.objects.filter(ended=None), to_attr="open_sessions"),
    )


def year_now() -> int:
    return timezone.localdate().year


def judged_alone(parts: Iterable[Part]) -> list[tuple[Fitted, bool]]:
    """Parts of a series with whether their own looks and readings condemn them."""
    year = year_now()
    cores = (p.to_core() for p in parts if p.series)
    return [(core, _judged(core, year, None, "strict", 120.0, None, False).name == REPLACE) for core in cores]


def series_counts() -> dict[str, SeriesCount]:
    """How each make series has done, over all jobs."""
    return count_series(judged_alone(Part.objects.exclude(series="")))


@lru_cache(maxsize=4096)
def _judged(
    core: Fitted, year: int, made: int | None, school: str, frequency: float, count: SeriesCount | None, reformed: bool
) -> Verdict:
    """A verdict, remembered: a part and what is known beside it judge the same each time."""
    return judge(
        core,
        year=year,
        made=year_of(core.date, made),
        school=school,
        meter_frequency=frequency,
        series={core.series: count} if count else {},
        reformed=reformed,
    )


def verdict_of(part: Part, core: Fitted, job: Job, counts: dict[str, SeriesCount], school: str = "") -> Verdict:
    """A part judged by the job's school, or by the one named; a verdict by hand stands before it."""
    year, school = year_now(), school or job.school
    count = None
    if core.series:
        alone = _judged(core, year, None, "strict", 120.0, None, False).name == REPLACE
        count = without(counts, core, alone).get(core.series)
    found = _judged(core, year, job.made, school, job.meter_frequency, count, part.reformed)
    return by_hand(found, part.by_hand, part.by_hand_reason) if part.by_hand else found


def _lines_of(text: str, read_one: Callable[[str], T]) -> tuple[T, ...]:
    return tuple(read_one(line) for line in text.splitlines() if line.strip())


@lru_cache(maxsize=256)
def _supply_facts(
    supply: tuple[Branch, ...], parts: tuple[Fitted, ...], mains: Mains
) -> tuple[dict[str, PlaceFacts], tuple[str, ...]]:
    """What a board's supply tells its places, remembered."""
    return places_of(supply, {p.ref: p for p in parts}, mains)


def _state(unit: Unit, counts: dict[str, SeriesCount]) -> UnitState:
    job = unit.job
    policy = policy_named(job.policy)
    judged = []
    for row in unit.boards.all():
        zones, supply = _lines_of(row.zones, read_zone), read_model(row.supply_model)
        rows = list(row.parts.all())
        here = [tell(part.to_core(), zones) for part in rows]
        mains = Mains(job.mains_volts, job.mains_frequency)
        facts, wrong = _supply_facts(supply, tuple(t.part for t in here), mains) if supply else ({}, ())
        places = []
        for part, told in zip(rows, here, strict=True):
            core, said = tell_supply(told.part, facts)
            places.append((part, Told(core, (*told.said, *said))))
        judged.append((row, (zones, supply, wrong), [(p, t, verdict_of(p, t.part, job, counts)) for p, t in places]))
    bad = bad_series((told.part, verdict) for _, _, parts in judged for _, told, verdict in parts)
    boards = []
    for row, (zones, supply, wrong), parts in judged:
        states = tuple(
            PartState(
                part,
                told.part,
                verdict,
                decide(told.part, verdict, policy, bad),
                getattr(part, "choice", None),
                getattr(part, "swap", None),
                told.said,
            )
            for part, told, verdict in parts
        )
        rails, chips = _lines_of(row.rails, read_rail), _lines_of(row.chips, read_chip)
        others = _lines_of(row.others, read_device)
        boards.append(BoardState(row, states, rails, chips, zones, others, supply, wrong))
    return UnitState(unit, tuple(boards), list(unit.readings.all()), next(iter(unit.open_sessions), None), counts)


def unit_state(pk: int) -> UnitState:
    """A unit as it stands. Unit.DoesNotExist where there is none."""
    return _state(_units().get(pk=pk), series_counts())


def all_states() -> list[UnitState]:
    """Every unit on the bench."""
    counts = series_counts()
    return [_state(unit, counts) for unit in _units()]


def board_state(pk: int) -> tuple[UnitState, BoardState]:
    """A board within its unit. Board.DoesNotExist where there is none."""
    state = unit_state(Board.objects.values_list("unit_id", flat=True).get(pk=pk))
    return state, state.board(pk)


def place_on(pk: int, ref: str) -> tuple[UnitState, BoardState, PartState]:
    """A part of a board by its reference, within its unit.

    Raises:
        BadInput: the board has no such part.
    """
    state, board = board_state(pk)
    part = board.find(ref)
    if part is None:
        raise BadInput(ref, "a place of this board", "", "place")
    return state, board, part


__all__ = [
    "NOT_SEEN",
    "BoardState",
    "PartState",
    "Stage",
    "UnitState",
    "all_states",
    "board_state",
    "place_on",
    "series_counts",
    "unit_state",
    "verdict_of",
]

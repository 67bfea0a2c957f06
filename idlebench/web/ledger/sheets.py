"""What the hand-over sheet tells of a unit."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from math import isinf

from django.utils import timezone

from idlebench.core import prove
from idlebench.core.board.modifications import troubles
from idlebench.core.draw.gauge import Gauge, from_nought, gauge
from idlebench.core.judge.verdict import DOUBTFUL, REPLACE
from idlebench.core.prove import Check
from idlebench.core.prove.record import FUSE, MEND, PART, REOPENED, SWAP, SWAP_BACK
from idlebench.core.text.quantity import show
from idlebench.core.wording import many

from ..records.models import Clue, DismantleStep, KnownFault, ProcedureStep, Reading, ReformRun, UnitProcedure
from ..unit.expecting import expecting
from ..unit.parts import PartState
from ..unit.rows import mend_id
from ..unit.state import UnitState

#: Steps of taking it apart that stand on the sheet.
OPENED = 60
#: What a rail reading is called on the sheet.
ASPECTS = {"volts": "volts", "ripple": "ripple, peak to peak", "lowest": "lowest under a load step"}


@dataclass(frozen=True, kw_only=True)
class Measured:
    """A rail reading on the sheet: where on the way up, what of the rail, the reading, and what the parts should give.

    reason: why more may be expected than is allowed, "" where it is not.
    """

    step: str
    what: str
    reading: Reading
    expected: str = ""
    check: Check | None = None
    reason: str = ""

    @property
    def rail(self) -> str:
        """The rail, and the board that makes it."""
        board = self.check.board if self.check else ""
        return f"{self.reading.point} on {board}" if board and board not in self.reading.point else self.reading.point


@dataclass(frozen=True)
class Row:
    """A reading as a row of the sheet: board, place and what was checked."""

    told: str
    reading: Reading


@dataclass(frozen=True)
class Failed:
    """A reading that failed, what was done after it, and how it read in the end, None where it was not read again."""

    reading: Reading
    done: str
    then: Reading | None
    told: str = ""


@dataclass(frozen=True, kw_only=True)
class Sheet:
    """What is handed over with a unit."""

    replaced: list[PartState]
    kept: list[PartState]
    unsettled: list[PartState]
    rails: list[Measured]
    cold: list[Row]
    powered: list[Row]
    overridden: list[Row]
    skipped: list[tuple[str, str]]
    reopened: list[prove.Event]
    not_done: list[Check]
    left_out: list[tuple[str, list[str]]]
    reformed: list[tuple[str, str]]
    failed: list[Failed]
    devices: list[tuple[str, str, str, str]]
    mended: list[Mended]
    procedures: list[tuple[str, str, list[ProcedureStep]]]
    known_faults: list[KnownFault]
    as_found: list[str]
    opened: list[DismantleStep]
    modifications: list[tuple[str, str, tuple[str, ...]]]
    proven: bool
    made_at: datetime


def sheet(state: UnitState, whole: bool = True) -> Sheet:
    """What was judged, replaced, kept, measured, skipped and overridden. whole: with what each rail should read by its parts."""
    proof = state.proof
    rails, cold, powered = [], [], []
    for step in proof.steps:
        should = (
            expecting(state, step).of
            if whole and any(c.aspect in ASPECTS and proof.done(c) for c in step.checks)
            else {}
        )
        for check in step.checks:
            reading = state.reading_of(check)
            if reading is None or not proof.done(check):
                continue
            if step.key == "cold":
                cold.append(Row(check.told, reading))
            elif check.live and check.aspect in ASPECTS:
                band = should.get(check.key)
                rails.append(
                    Measured(
                        step=step.title,
                        what=ASPECTS[check.aspect],
                        reading=reading,
                        expected=band.words if band else "",
                        check=check,
                        reason=band.more_than_allowed(check.high) if band and reading.passed else "",
                    )
                )
            elif check.live:
                powered.append(Row(f"{step.title}: {check.told}", reading))
    skipped = state.row.look_skipped
    return Sheet(
        replaced=[p for p in state.parts if p.swap and not p.is_out],
        kept=[
            p
            for p in state.parts
            if not p.swap and not p.taken and not p.left_out and not (p.decision.replace and p.choice is None)
        ],
        unsettled=state.unsettled,
        rails=rails,
        cold=cold,
        powered=powered,
        overridden=[Row(told_of(state, r), r) for r in state.readings if r.overridden],
        skipped=[(look.text, skipped[look.key]) for look in state.first_look if look.key in skipped],
        reformed=_reformed(state),
        failed=_failed(state),
        devices=_devices(state),
        mended=_mended(state),
        procedures=_procedures(state),
        not_done=[c for step in proof.steps for c in step.checks if c.optional and not proof.done(c)],
        left_out=proof.left_out_of(proof.steps),
        reopened=[e for _, e in state.recorded if e.kind == REOPENED],
        known_faults=list(KnownFault.objects.filter(unit=state.row).select_related("follow_up")),
        as_found=[c.text for c in Clue.objects.filter(unit=state.row, as_found=True, dropped=None)],
        opened=list(DismantleStep.objects.filter(unit=state.row)[:OPENED]) if whole else [],
        modifications=_modifications(state),
        proven=proof.proven,
        made_at=timezone.now(),
    )


@dataclass(frozen=True, kw_only=True)
class RailProof:
    """A rail as it was read last, under the fullest load that it was read at: its volts on a gauge, its ripple on another."""

    name: str
    volts: Measured
    drawn: Gauge
    ripple: Measured | None
    ripple_drawn: Gauge | None


def rail_proofs(found: Sequence[Measured]) -> list[RailProof]:
    """One for each rail of a sheet, in the order in which they were first read."""
    last: dict[tuple[str, str], Measured] = {}
    for one in found:
        if one.check is not None and one.reading.value is not None:
            last[one.reading.point, one.check.aspect] = one
    names = dict.fromkeys(name for name, aspect in last if aspect == "volts")
    return [_proof_of(name, last[name, "volts"], last.get((name, "ripple"))) for name in names]


def _proof_of(name: str, volts: Measured, ripple: Measured | None) -> RailProof:
    check = volts.check
    drawn = gauge(check.nominal or 0.0, check.low or 0.0, check.high or 0.0, volts.reading.value)
    waves = from_nought(ripple.check.high or 0.0, ripple.reading.value) if ripple else None
    return RailProof(name=name, volts=volts, drawn=drawn, ripple=ripple, ripple_drawn=waves)


def _reformed(state: UnitState) -> list[tuple[str, str]]:
    """Stores that were reformed, or given up in it: the place, and what came of it."""
    words = {"done": "reformed", "stop": "stopped and condemned", "left": "stopped early"}
    runs = ReformRun.objects.filter(part__board__unit=state.row).select_related("part__board")
    return [(f"{run.part.board.name} {run.part.ref}", words.get(run.outcome, "not finished")) for run in runs]


#: What is done about a failed reading, as the record calls it.
WORK = (SWAP, SWAP_BACK, PART, MEND, FUSE)


def _failed(state: UnitState) -> list[Failed]:
    """Failed readings in order, each with the work after it and the next reading of the same check."""
    found = []
    for i, reading in enumerate(state.readings):
        if reading.passed or reading.overridden:
            continue
        then = next((later for later in state.readings[i + 1 :] if later.key == reading.key), None)
        until = then.at.timestamp() if then else float("inf")
        work = [e.words for _, e in state.recorded if e.kind in WORK and reading.at.timestamp() <= e.at <= until]
        found.append(Failed(reading, "; ".join(dict.fromkeys(work)), then, told_of(state, reading)))
    return found


def told_of(state: UnitState, reading: Reading) -> str:
    """Board, place and what was checked; of a check that is asked no more, as it was written down."""
    check = state.proof.check(reading.key)
    if check is not None:
        return check.told
    return f"{reading.point}: {reading.ask}" if reading.ask else reading.point


def _devices(state: UnitState) -> list[tuple[str, str, str, str]]:
    """What is no capacitor: place, what stood there, what is there now, and why or what was seen."""
    found = []
    for board in state.boards:
        for d in board.devices:
            place, device = f"{board.row.name} {d.ref}", d.device
            was = f"{device.title} {device.note if device.what == 'chip' else device.marked}".strip()
            why = "; ".join(d.choice.reasons) if d.choice else ""
            if d.swap is not None:
                read_out = f"the old one: {d.swap.read_out}" if d.swap.read_out else ""
                found.append((place, was, d.swap.item, "; ".join(filter(None, [read_out, d.swap.note, why]))))
            elif d.choice is not None:
                found.append((place, was, f"{d.choice.item}, not fitted yet", why))
            elif device.what == "battery":
                done = "taken out" if device.looks == "missing" else device.looks or "old part kept"
                found.append((place, was, done, device.note))
            elif d.verdict.name in (REPLACE, DOUBTFUL):
                found.append((place, was, f"old part kept, judged {d.verdict.shown}", d.verdict.leading))
    return found


@dataclass(frozen=True)
class Mended:
    """A mend on the sheet: its board, what it is, Ω before in words, and its check's last reading, None where none is asked."""

    board: str
    title: str
    before: str
    reading: Reading | None


def _mended(state: UnitState) -> list[Mended]:
    """Damage and its mends, each with what was read before and after."""
    found = []
    for board in state.boards:
        for mend in board.work.mends:
            core = mend.core
            check = state.proof.check(f"cold.mend.{mend_id(mend.row.pk)}")
            read = "" if core.before is None else "OL" if isinf(core.before) else show(core.before, "Ω")
            found.append(Mended(board.row.name, core.title, read, state.reading_of(check) if check else None))
    return found


def _modifications(state: UnitState) -> list[tuple[str, str, tuple[str, ...]]]:
    """Modifications: board and what it is, all that is known of it with how it is put back, and what of it is too much."""
    found = []
    for board in state.boards:
        for one in board.work.modifications:
            core = one.core
            told = [f"parts: {core.parts}"] if core.parts else []
            told += [f"{core.height:g} mm high"] if core.height else []
            told += [f"wire {core.wire:g} mm"] if core.wire else []
            told += [f"{show(core.heat, 'W')} of heat"] if core.heat else []
            told += [f"level {show(core.level[0], 'V')}, {show(core.level[1], 'V')} wanted"] if core.level else []
            told += [f"ripple {show(core.ripple, 'V')}"] if core.ripple is not None else []
            told += [f"tried: {core.tried}"] if core.tried else []
            told.append(f"put back: {core.back}")
            found.append((f"{board.row.name}: {core.title}", "; ".join(told), troubles(core, board.zones)))
    return found


def _procedures(state: UnitState) -> list[tuple[str, str, list[ProcedureStep]]]:
    """Procedures that were begun: title and board, how far, and the steps that were skipped, failed or read."""
    by_row: dict[UnitProcedure, list[ProcedureStep]] = {}
    for step in ProcedureStep.objects.filter(procedure__unit=state.row).select_related("procedure__board"):
        by_row.setdefault(step.procedure, []).append(step)
    found = []
    for row, steps in by_row.items():
        told = [step for step in steps if step.reason or step.typed not in ("", "yes")]
        where = f"{row.title} on {row.board.name}" if row.board else row.title
        far = (
            f"done {row.ended:%-d %b %Y}" if row.ended else f"{len(steps)} of {many(len(row.to_core().steps), 'step')}"
        )
        found.append((where, far, told))
    return found

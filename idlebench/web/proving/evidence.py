"""What a unit already tells of its faults: readings, clues, what its parts show and what is new in it."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, replace

from django.utils import timezone

from idlebench.core.faults.clues import ClueReading, Mark
from idlebench.core.faults.signs import Sign, joints_noted, read_signs
from idlebench.core.judge.device_verdict import PLAIN
from idlebench.core.judge.verdict import REPLACE, SOUND
from idlebench.core.prove.checks import Check
from idlebench.core.prove.expect import rails_are_read, state_at
from idlebench.core.prove.facts import DISCHARGED
from idlebench.core.refusal import BadInput
from idlebench.core.simulate.readings import FUSE_OHMS, Asked
from idlebench.core.simulate.state import State
from idlebench.core.simulate.stores import SHORT
from idlebench.core.simulate.supply import USUAL, Bench
from idlebench.core.simulate.truth import Fault
from idlebench.core.text.quantity import show

from ..records.models import Cause, Clue
from ..unit.expecting import Known, bench_of, setting_of
from ..unit.parts import BoardState, DeviceState, PartState
from ..unit.state import UnitState
from . import clue_keeping, faulting
from .clue_keeping import reading_of

#: What is read of a rail for each aspect of a check.
READS = {"volts": "dc", "ripple": "ripple", "lowest": "lowest"}


#: Most lines of further readings, and suspects and measurements that are shown.
MOST_LINES, SHOWN = 40, 6


#: How much likelier its looks make a part, a joint that was noted as broken, and how much less likely it is once it was ruled out.
LOOKS, NOTED, RULED_OUT = 8.0, 20.0, 0.02
#: By how much a part that reads open or shorted is likelier the cause, and one that was measured sound out of its circuit.
PLAIN_READ, MEASURED_SOUND = 40.0, 0.1


#: A part is as bad as it was measured from so many times a new one's ESR on, or under so much of its value.
WORSE, LESS = 2.0, 0.75


@dataclass(frozen=True)
class KnownReadings:
    """What is known of a supply's readings. failing: rails of which one failed. left_out: those that something was changed after."""

    readings: tuple[ClueReading, ...]
    failing: tuple[str, ...]
    left_out: tuple[str, ...]


def told_by(state: UnitState, board: BoardState, bench: Bench) -> KnownReadings:
    """Readings of the record that count, the newest of each point."""
    how, left_out, failing = setting_of(state, board), [], {}
    newest: dict[tuple[str, str, str], tuple[float, ClueReading]] = {}
    for step in state.proof.steps:
        for check in step.checks:
            live = check.live and check.aspect in READS and check.rail in bench.rails and rails_are_read(step.key)
            if not live and not _is_cold_read(check, board, bench):
                continue
            stood = state.proof.status_of(check)
            event = stood.event
            if event is None or event.overridden:
                continue
            if stood.void:
                what = f"{check.rail} {check.aspect}" if live else check.point
                left_out.append(f"{what} at {step.title}: {stood.void}")
                continue
            if live:
                where = state_at(step.key, how.way, how.mains, how.frequency, how.lamp, check.aspect == "lowest")
                one = _live_read(check, event.value, where)
            else:
                one = _cold_read(check, event.value, stood.failed, how.frequency)
            if one is None:
                continue
            if stood.failed and check.rail:
                failing[check.rail] = None
            key = (one.asked.point, one.asked.what, one.state.load)
            if key not in newest or newest[key][0] <= event.at:
                newest[key] = event.at, one
    return KnownReadings(tuple(one for _, one in newest.values()), tuple(failing), tuple(left_out))


def _is_cold_read(check: Check, board: BoardState, bench: Bench) -> bool:
    """Whether the model tells something of a cold check: a rail to ground, the fuse, line to neutral."""
    if check.key.startswith("cold.rail."):
        return check.rail in bench.rails
    own = check.board == board.row.name
    return own and (check.key.startswith("cold.mains-ohms.") or (check.point == "fuse" and check.kind == "continuity"))


def _live_read(check: Check, value: float | None, where: State | None) -> ClueReading | None:
    if where is None or value is None or not math.isfinite(value):
        return None
    # the least of a rail is told by size
    value = abs(value) if check.aspect == "lowest" else value
    return ClueReading(where, Asked(point=check.rail, what=READS[check.aspect], typed=check.rail), value)


def _cold_read(check: Check, value: float | None, failed: bool, frequency: float) -> ClueReading | None:
    """A cold check as the model reads it. What else stands on a rail reads some ohms; only a short tells, or that there is none."""
    off = State(frequency=frequency, load="none")
    if check.key.startswith("cold.rail."):
        shown = f"{check.point} {show(value, 'Ω') if value is not None and math.isfinite(value) else 'off the scale'}"
        return ClueReading(
            off, Asked(point=check.rail, what="ohms", typed=check.point), SHORT if failed else None, shown
        )
    if check.point == "fuse":
        said = "fuse open" if failed else "fuse whole"
        return ClueReading(
            off, Asked(point=USUAL["fuse"], what="ohms", typed="fuse"), None if failed else FUSE_OHMS, said
        )
    # what passes is copper, which its label told already
    open_ = value is None or math.isinf(value)
    return ClueReading(off, Asked(point="l-n", what="ohms", typed="L-N"), None if open_ else value) if failed else None


def clues_told(
    case: faulting.Case, bench: Bench
) -> tuple[list[clue_keeping.ClueStatus], tuple[ClueReading, ...], list[Sign], list[str]]:
    """Kept signs and readings: all of them; the readings and signs that count; and in words those that do not."""
    kept, readings, signs, left_out = case.clues, [], [], []
    for one in kept:
        if one.void:
            left_out.append(f"{one.row.text}: {one.void}")
            continue
        try:
            if one.row.kind == Clue.SIGN:
                signs += read_signs(one.row.text, bench)
            else:
                live = clue_keeping.live_state(case.state, case.board, one.row.step)
                readings.append(reading_of(one.row.text, bench, live, cold=not one.row.step))
        except BadInput as error:
            # the lines or the survey were typed anew, and it speaks of what is there no more
            left_out.append(f"{one.row.text}: {error.plain}")
    return kept, tuple(readings), signs, left_out


def typed_readings(text: str, bench: Bench, live: State) -> tuple[ClueReading, ...]:
    """Further readings, a line each: a point, what was read there, the number, such as ``C1 ripple 1.2``.

    Raises:
        BadInput: naming the line.
    """
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if len(lines) > MOST_LINES:
        raise BadInput(f"{len(lines)} lines", f"at most {MOST_LINES}", field="read")
    found = []
    for number, line in enumerate(lines, 1):
        try:
            found.append(reading_of(line, bench, live))
        except BadInput as error:
            raise error.within(f"line {number}") from None
    return tuple(found)


def marks_of(case: faulting.Case) -> tuple[Mark, ...]:
    """What is known of parts themselves: how they look, and what was ruled out."""
    marks = [
        Mark(p.ref, "", LOOKS, f"{p.ref} looks {p.core.looks}")
        for p in (case.board.parts if case.board else ())
        if p.core.looks not in ("", "sound") and not p.swap
    ]
    # outside of the supply's lines no model weighs what a part itself read
    modelled = _modelled(case.board)
    marks += [
        Mark(f"{home}{p.ref}", "", LOOKS, f"{p.ref}: {p.verdict.leading}")
        for b in case.state.boards
        for p in b.parts
        if p.verdict.name == REPLACE and not p.swap
        # with one board its parts are called without its name
        for home in (f"{b.row.name} ", *([""] if len(case.state.boards) == 1 and p.ref not in modelled else []))
    ]
    marks += [mark for b in case.state.boards for d in b.devices for mark in _device_marks(b.row.name, d)]
    marks += [
        Mark(f"{home}{p.ref}", "", MEASURED_SOUND, f"{p.ref} was measured sound, out of its circuit")
        for b in case.state.boards
        for p in b.parts
        if p.verdict.name == SOUND and p.core.esr is not None and not p.core.in_circuit and not p.swap
        for home in ("", f"{b.row.name} ")
    ]
    marks += [mark for p in (case.board.parts if case.board else ()) for mark in _far_off(p)]
    marks += failed_marks(case.state)
    # a joint that was noted at Intake, wherever it stands
    for ref, sentence in joints_noted(case.state.row.found).items():
        homes = ["", *(f"{b.row.name} " for b in case.state.boards)]
        marks += [Mark(f"{home}{ref}", "cracked", NOTED, f"noted at Intake: {sentence}") for home in homes]
    for row in (one for one in case.causes if one.outcome == Cause.RULED_OUT):
        home = next((b.row.name for b in case.state.boards if b.row.pk == row.board_id), "")
        for ref in {row.ref, f"{home} {row.ref}"}:
            marks.append(
                Mark(ref, row.failure, RULED_OUT, f"ruled out on {timezone.localtime(row.settled):%-d %b}: {row.words}")
            )
    return tuple(marks)


def _modelled(board: BoardState | None) -> set[str]:
    """References of the capacitors that the lines of a supply speak of."""
    if board is None:
        return set()
    found = {ref for branch in board.supply for ref in branch.stores}
    rails = (rail for branch in board.supply if branch.converter for rail in branch.converter.rails)
    return found | {ref for rail in rails for ref in (*rail.stores, *rail.after)}


def _far_off(place: PartState) -> list[Mark]:
    """A capacitor of the supply whose ESR is far over its limit though it was read in circuit, where it can only read better than it is."""
    part, limit = place.core, next((e.limit for e in place.verdict.evidence if e.rule == "esr" and e.limit), None)
    if place.swap or part.esr is None or not part.in_circuit or limit is None or part.esr < FAR_OVER * limit:
        return []
    return [
        Mark(
            place.ref,
            "",
            PLAIN_READ,
            f"{place.ref} reads {show(part.esr, 'Ω')} in circuit, {part.esr / limit:.0f} times its limit",
        )
    ]


#: A part with this many times its ESR limit, read in circuit, is bad whatever stands beside it.
FAR_OVER = 3.0
_REF = re.compile(r"\b[A-Z]{1,4}\d{1,4}[A-Z]?\b")


def failed_marks(state: UnitState) -> list[Mark]:
    """What failed checks say of the parts that they name: pins of a regulator, a winding, a joint, a repair.

    Args:
        state: the unit.

    Returns:
        A mark for each part, with and without its board's name before it; none for what the supply's model weighs itself.
    """
    marks = []
    for step in state.proof.steps:
        for check in step.checks:
            stood = state.proof.status_of(check)
            if not stood.failed or stood.event is None or stood.event.overridden or check.fact == DISCHARGED:
                continue
            board = next((b for b in state.boards if b.row.name == check.board), None)
            known = (
                {p.ref for p in board.parts} | {d.ref for d in board.devices} | {c.ref for c in board.chips}
                if board
                else set()
            )
            refs = [ref for ref in dict.fromkeys(_REF.findall(check.point)) if ref in known]
            if check.key.startswith("cold.winding") and not refs:
                refs = ["T1"]
            shown = "not as it should be" if check.seen or stood.value is None else show(stood.value, check.unit)
            words = f"{check.point}: {shown}, limit {check.limits}" if not check.seen else f"{check.point}: {shown}"
            marks += [Mark(f"{home}{ref}", "", PLAIN_READ, words) for ref in refs for home in ("", f"{check.board} ")]
    return marks


def _device_marks(board: str, place: DeviceState) -> list[Mark]:
    """What is known of a part that is no capacitor by its looks and readings, with and without its board's name before it."""
    verdict, homes = place.verdict, ("", f"{board} ")
    if place.swap:
        return []
    if verdict.name == REPLACE:
        plain = any(e.points >= PLAIN for e in verdict.evidence)
        return [
            Mark(f"{home}{place.ref}", "", PLAIN_READ if plain else LOOKS, f"{place.ref}: {verdict.leading}")
            for home in homes
        ]
    if verdict.name == SOUND and place.device.reads and place.device.lifted:
        return [
            Mark(f"{home}{place.ref}", "", MEASURED_SOUND, f"{place.ref} was measured sound, out of its circuit")
            for home in homes
        ]
    return []


def renewed_of(board: BoardState, known: Known, bench: Bench) -> dict[str, tuple[Fault, ...]]:
    """What new parts would be where the old ones were measured as bad, by reference."""
    plain = tuple(p.with_(esr=None, capacitance=None, leakage=None) for p in known.parts)
    fresh = bench_of(replace(known, parts=plain))
    return {
        ref: (Fault(ref, "cap", new.value), Fault(ref, "esr", new.esr))
        for ref, new in fresh.stores.items()
        if (now := bench.stores.get(ref)) and (now.esr > WORSE * new.esr or now.value < LESS * new.value)
    }

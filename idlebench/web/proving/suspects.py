"""Suspects of a unit's supply: what its record, signs and further readings say of each part, and what to measure next."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from idlebench.core.faults.further import further
from idlebench.core.faults.signs import ALONE, read_signs
from idlebench.core.faults.suspects import Inquiry, Read
from idlebench.core.prove.expect import rails_are_read, state_at
from idlebench.core.refusal import BadInput
from idlebench.core.simulate.readings import COLD, UNITS, Asked, read_asked
from idlebench.core.simulate.state import State
from idlebench.core.simulate.supply import Bench
from idlebench.core.text.quantity import read

from ..unit.expecting import Known, bench_of, known_of, setting_of
from ..unit.parts import BoardState
from ..unit.state import UnitState, unit_state

#: What is read of a rail for each aspect of a check.
READS = {"volts": "dc", "ripple": "ripple", "lowest": "lowest"}
#: Most lines of further readings.
MOST_LINES = 40


@lru_cache(maxsize=8)
def _inquiry(known: Known) -> Inquiry:
    """Runs are kept: the same supply is asked about again and again."""
    return Inquiry(bench_of(known))


@dataclass(frozen=True)
class Told:
    """What is known of a supply's readings. left_out: those that something was changed after, in words."""

    readings: tuple[Read, ...]
    left_out: tuple[str, ...]


def told_by(state: UnitState, board: BoardState, bench: Bench) -> Told:
    """Readings of the record that count, the newest of each rail."""
    how, left_out = setting_of(state, board), []
    newest: dict[tuple[str, str], tuple[datetime, Read]] = {}
    for step in state.proof.steps:
        if not step.live or not rails_are_read(step.key):
            continue
        for check in step.checks:
            row = state.reading_of(check) if check.aspect in READS and check.rail in bench.rails else None
            where = (
                state_at(step.key, how.way, how.mains, how.frequency, how.lamp, check.aspect == "lowest")
                if row
                else None
            )
            if row is None or where is None or row.value is None:
                continue
            void = state.proof.standing(check).void
            if void:
                left_out.append(f"{check.rail} {check.aspect} at {step.title}: {void}")
            else:
                # the least of a rail is told by size
                value = abs(row.value) if check.aspect == "lowest" else row.value
                key, one = (
                    (check.rail, check.aspect),
                    Read(where, Asked(check.rail, READS[check.aspect], check.rail), value),
                )
                if key not in newest or newest[key][0] <= row.at:
                    newest[key] = row.at, one
    return Told(tuple(one for _, one in newest.values()), tuple(left_out))


def typed_readings(text: str, bench: Bench, live: State) -> tuple[Read, ...]:
    """Further readings, a line each: a point, what was read there, the number, such as ``C1 ripple 1.2``.

    Raises:
        BadInput: naming the line.
    """
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if len(lines) > MOST_LINES:
        raise BadInput(f"{len(lines)} lines", f"at most {MOST_LINES}", "", "read")
    found = []
    for number, line in enumerate(lines, 1):
        words = line.rsplit(maxsplit=1)
        try:
            if len(words) < 2:
                raise BadInput(line, "a point, what was read there, and the number, such as C1 ripple 1.2", "", "read")
            (asked,) = read_asked(words[0].rstrip(":"), bench)
            over = words[1].lower() in ("ol", "open", "inf")
            value = None if over else read(words[1], UNITS[asked.what], field="read", low=-1e6, high=1e12)
            where = State(frequency=live.frequency, load="none") if asked.what in COLD else live
            found.append(Read(where, asked, value))
        except BadInput as error:
            raise error.within(f"line {number}") from None
    return tuple(found)


def look(board: BoardState, state: UnitState, seen: str, typed: str) -> dict[str, object]:
    """The suspects of a supply, and the next measurements.

    Raises:
        BadInput: signs or readings that cannot be read, or that contradict each other.
    """
    known, how = known_of(state, board), setting_of(state, board)
    bench = bench_of(known)
    told = told_by(state, board, bench)
    full = state_at(state.live_step or "full", how.way, how.mains, how.frequency, how.lamp) or State(
        how.mains, how.frequency
    )
    signs = read_signs(seen, bench)
    readings = (*told.readings, *typed_readings(typed, bench, full))
    if not readings and not signs:
        return {"told": told, "nothing": True}
    inquiry = _inquiry(known)
    found = inquiry.look(readings, signs, full)
    now = full if state.live_step else State(frequency=how.frequency, load="none")
    return {
        "told": told,
        "found": found,
        "next": further(inquiry, found, now, readings),
        "readings": readings,
        "cold": not state.live_step,
    }


def suspects(request: HttpRequest, pk: int) -> HttpResponse:
    """Which parts explain what was read and seen. Nothing is kept: signs and further readings stand in the address."""
    state = unit_state(pk)
    made = [b for b in state.boards if b.row.supply and b.supply]
    board = next((b for b in made if str(b.row.pk) == request.GET.get("board", "")), next(iter(made), None))
    seen, typed = request.GET.get("seen", "")[:4000], request.GET.get("read", "")[:4000]
    context: dict[str, object] = {
        "state": state, "stage": "power", "board": board, "supplies": made, "seen": seen, "read": typed, "signs": ALONE[:9],
    }  # fmt: skip
    status = 200
    if board is not None:
        try:
            context |= look(board, state, seen, typed)
        except BadInput as error:
            context["complaint"], status = error, 422
    return render(request, "proving/suspects.html", context, status=status)

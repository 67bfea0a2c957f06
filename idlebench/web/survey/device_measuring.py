"""Parts that are no capacitors in a measuring run, and the text of a component tester for parts of all kinds."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.db import transaction
from django.utils import timezone

from idlebench.core.board.device_readings import OL, QUANTITIES, Measured, read_measured, write_measured
from idlebench.core.judge.device_limits import sound_readings
from idlebench.core.judge.tester_text import MOST_LINES, read_tester_line
from idlebench.core.prove import interlocks
from idlebench.core.prove.record import HANDS
from idlebench.core.refusal import BadInput, Blocked
from idlebench.instruments import HOUSE, Multimeter

from ..records.models import Board
from ..unit.door import in_unit_transaction, note
from ..unit.parts import BoardState, DeviceState
from ..unit.rows import board_id
from ..unit.state import UnitState, unit_state
from .measuring import meter_of, run_of, take
from .typed import write_typed


def take_device(state: UnitState, board: BoardState, device: DeviceState, typed: str, *, lifted: bool) -> str:
    """Take a reading of a part that is no capacitor, typed or its ohms from the job's meter; what was read, in words.

    Raises:
        BadInput: nothing that can be read of it, or no meter that reads it; nothing is written.
        Blocked: a store beside it may be charged, or the unit has power.
    """
    _may_measure(state, board, device.ref)
    if typed.strip():
        told = read_measured(typed, device.device.what, device.device.note)
        if told.rest or not told.readings:
            raise BadInput(
                typed,
                f"a reading of a {device.device.title}",
                f"Such as {example_of(device)}. OL where the meter shows OL.",
                field="reading",
            )
        readings, lifted = told.readings, told.lifted if told.lifted is not None else lifted
    else:
        readings = (_ohms(state, device),)
    _keep_device(board.row, device.ref, readings, lifted)
    return ", ".join(one.text for one in readings)


def example_of(device: DeviceState) -> str:
    """How a reading of such a part is typed."""
    return EXAMPLES.get(device.device.what, "2.2k")


#: How a reading is typed, by kind.
EXAMPLES = {
    "diode": "0.58 OL", "zener": "0.7 OL 5.1V", "transistor": "0.65 0.64 OL, or hfe 180", "optocoupler": "1.1 OL",
    "relay": "120, or coil 120 closed 0.1",
    "switch": "0.2 OL",
    "choke": "0.3, or 9.8uH", "battery": "3.5", "fuse": "0.1", "varistor": "OL", "crystal": "OL", "lamp": "12",
    "connector": "0.1", "socket": "0.1", "holder": "0.1", "speaker": "7.2", "transformer": "12",
}  # fmt: skip


def _may_measure(state: UnitState, board: BoardState, ref: str) -> None:
    if reasons := interlocks.measure(state.proof, board_id(board.row.pk), "", None):
        raise Blocked(f"{ref} is not measured yet", reasons)


def _ohms(state: UnitState, device: DeviceState) -> Measured:
    """The ohms of a part from the job's meter."""
    what = next((one.what for one in sound_readings(device.device) if QUANTITIES[one.what].unit == "Ω"), "")
    if not what:
        raise BadInput(
            "", f"a reading of a {device.device.title}, typed", f"Such as {example_of(device)}.", field="reading"
        )
    address = meter_of(state)
    if address == HOUSE:
        raise BadInput(
            "",
            "a typed reading",
            f"The simulated meter reads capacitors only. Type it: {example_of(device)}.",
            field="reading",
        )
    with Multimeter(address) as meter:
        value = meter.read("resistance")
    return Measured(what, OL if value == OL else float(f"{abs(value):.4g}"))


@in_unit_transaction("Nothing is measured now")
def _keep_device(row: Board, ref: str, readings: Sequence[Measured], lifted: bool) -> None:
    """Keep readings with the part's line. The meter was asked outside of the door, so the gate is asked once more."""
    state = unit_state(row.unit_id)
    _may_measure(state, state.board(row.pk), ref)
    row.refresh_from_db(fields=["others"])
    write_typed(row, f"{ref} reads {write_measured(readings, lifted)}", change=True)
    note(row.unit, HANDS, timezone.now(), board=board_id(row.pk), words=f"{row.name} {ref} measured")


@dataclass(frozen=True)
class TesterPaste:
    """What a tester's text gave: references that were read, what no rule knew of them, and the lines that stay with their reasons."""

    taken: tuple[str, ...]
    unused: tuple[str, ...]
    left: tuple[tuple[int, str, str], ...]


def take_tester(state: UnitState, board: BoardState, text: str, *, good_rows: bool) -> TesterPaste:
    """Take what a component tester wrote: a line a part, out of its circuit. Nothing is kept unless all can be, or good_rows.

    Raises:
        BadInput: no line, or too many.
    """
    lines = [(number, line) for number, line in enumerate(text.splitlines(), 1) if line.strip()]
    if not 0 < len(lines) <= MOST_LINES:
        raise BadInput(f"{len(lines)} lines", f"1 to {MOST_LINES}, one part a line: R5 2.19k", field="tester")
    places = {place.ref: place for place in run_of(board).places}
    taken, unused, left = [], [], []
    with transaction.atomic():
        for number, line in lines:
            try:
                ref = line.replace(":", " ").replace("=", " ").split()[0].upper()
                place = places.get(ref)
                if place is None:
                    raise BadInput(ref, f"a part that is listed on {board.row.name} and can be measured", field="line")
                told = read_tester_line(line, "capacitor" if place.part else place.device.device.what)
                if place.part:
                    take(state, board, place.part, told.reading, "", in_circuit=False)
                else:
                    take_device(state, board, place.device, told.reading, lifted=True)
                taken.append(ref)
                unused += [f"{ref} {told.unused}"] if told.unused else []
            except BadInput as error:
                left.append((number, line, str(error)))
            except Blocked as error:
                left.append((number, line, " ".join(f"{r.text} {r.opens}" for r in error.reasons)))
        if left and not good_rows:
            transaction.set_rollback(True)
            return TesterPaste((), (), tuple(left))
    return TesterPaste(tuple(taken), tuple(unused), tuple(left))

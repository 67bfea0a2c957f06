"""A measuring run: the place lights up, a reading comes in, the verdict is told, the next one lights up."""

from __future__ import annotations

from dataclasses import dataclass, replace

from django.utils import timezone

from idlebench.core.board.device_readings import QUANTITIES, Measured
from idlebench.core.board.parts import OPEN_ESR, Fitted
from idlebench.core.judge.device_limits import sound_readings
from idlebench.core.judge.measure import (
    in_walking_order,
    next_unread,
    read_typed_reading,
    shut_before_meter,
    with_reading,
)
from idlebench.core.judge.verdict import Verdict
from idlebench.core.prove import interlocks
from idlebench.core.prove.record import HANDS, READ
from idlebench.core.refusal import BadInput, Blocked
from idlebench.core.text.quantity import read, show
from idlebench.instruments import (
    HOUSE,
    NAME,
    LcrMeter,
    LcrReading,
    Probed,
    beside,
    open_meter,
    read_address,
)

from ..records.models import Instrument, Part, Reading
from ..unit.door import in_unit_transaction, note
from ..unit.log import log
from ..unit.parts import BoardState, DeviceState, PartState
from ..unit.rows import board_id, part_id
from ..unit.series import save_part
from ..unit.state import UnitState, unit_state
from .device_views import listed_devices

#: Looks of what is not there to be measured.
GONE = ("missing", "burst")


@dataclass(frozen=True)
class RunPlace:
    """A place of a run: a capacitor, or another part of which a meter can tell something."""

    ref: str
    part: PartState | None = None
    device: DeviceState | None = None

    @property
    def read(self) -> bool:
        """Whether it has a reading."""
        return (
            self.part.core.esr is not None or self.part.core.capacitance is not None if self.part else bool(self._reads)
        )

    @property
    def _reads(self) -> tuple[Measured, ...]:
        return self.device.device.reads if self.device else ()

    @property
    def verdict(self) -> Verdict:
        return self.part.verdict if self.part else self.device.verdict

    @property
    def text(self) -> str:
        """What was read of it, in words."""
        if self.part:
            core = self.part.core
            value = show(core.capacitance, "F") if core.capacitance and not core.in_circuit else ""
            return ", ".join(filter(None, [core.esr_text, value]))
        return ", ".join(f"{QUANTITIES[one.what].title} {one.text}" for one in self._reads)

    @property
    def in_circuit(self) -> bool:
        return self.part.core.in_circuit if self.part else not self.device.device.lifted

    @property
    def side(self) -> str:
        return self.part.core.side if self.part else "parts"


@dataclass(frozen=True)
class Run:
    """Where a run stands: its places in the order of the leads, the one that is lit, and how many have a reading."""

    places: tuple[RunPlace, ...]
    lit: RunPlace | None

    @property
    def total(self) -> int:
        return len(self.places)

    @property
    def measured(self) -> int:
        return sum(place.read for place in self.places)

    def beside(self, step: int) -> str:
        """The place before (-1) or after (1) the one that is lit."""
        return self.places[(self.places.index(self.lit) + step) % self.total].ref if self.lit else ""

    def after(self, ref: str) -> str:
        """The place that lights up after one was read; "" when all have a reading."""
        return next_unread([p.ref for p in self.places], {p.ref for p in self.places if p.read}, ref)


def run_of(board: BoardState, ref: str = "") -> Run:
    """The run of a board with a place lit: the one named, or the next without a reading."""
    there = [RunPlace(p.ref, part=p) for p in board.parts if not p.swap and p.core.looks not in GONE]
    there += [
        RunPlace(d.ref, device=d)
        for d in listed_devices(board)
        if not d.swap and d.device.looks not in GONE and sound_readings(d.device)
    ]
    at = {p.ref: (p.part.core.x, p.part.core.y) if p.part else (p.device.device.x, p.device.device.y) for p in there}
    by_ref = {p.ref: p for p in there}
    order = in_walking_order((one, *place) for one, place in at.items())
    run = Run(tuple(by_ref[one] for one in order), by_ref.get(ref.upper()))
    lit = run.lit or by_ref.get(run.after("")) or next(iter(run.places), None)
    return replace(run, lit=lit)


def _probed(board: BoardState, part: PartState, in_circuit: bool, frequency: float) -> Probed:
    """What the stand-in's probes touch: the part, and in circuit its neighbours on the same rail."""
    core = part.core
    near = [
        p.core
        for p in board.parts
        if in_circuit and core.rail and p.core.rail == core.rail and p.ref != part.ref and p.core.looks != "missing"
    ]
    total = sum(p.value for p in near)
    shared = sum(1 / beside(p.value, p.volts or 25.0, frequency) for p in near)
    own = not core.in_circuit
    return Probed(
        value=core.value,
        volts=core.volts or 0.0,
        kind=core.kind,
        looks=core.looks,
        seed=f"{board.row.unit.name} {board.row.name} {core.ref}",
        in_circuit=in_circuit,
        beside_value=total,
        beside_esr=1 / shared if shared else 0.0,
        true_value=(core.capacitance or 0.0) if own else 0.0,
        true_esr=(core.esr or 0.0) if own and core.esr_frequency in (None, frequency) else 0.0,
    )


def meter_of(state: UnitState) -> str:
    """The address of the job's meter.

    Raises:
        BadInput: none is named, or not on this machine.
    """
    if not state.job.meter:
        raise BadInput(
            "", "a meter's address at Intake, under Job and ways of working", "Or type the reading.", field="meter"
        )
    if state.job.meter != HOUSE and not Instrument.objects.filter(address__in=_ways_to_write(state.job.meter)).exists():
        raise BadInput(
            state.job.meter,
            "a meter that is named under Devices on this machine",
            "No other address is connected to. Or type the reading.",
            field="meter",
        )
    return state.job.meter


def from_meter(state: UnitState, board: BoardState, part: PartState, left: str, in_circuit: bool) -> LcrReading:
    """What the job's meter shows of a part, once the meter may touch it.

    Raises:
        BadInput: no meter, or one that misbehaves. Blocked: the part may be charged, or the unit has power.
    """
    _free(state, board, part, left)
    return _from_meter(state, board, part, in_circuit)


def _free(state: UnitState, board: BoardState, part: PartState, left: str) -> float | None:
    """The volts left across a part, None where nobody typed them; refused where a meter may not touch it."""
    volts = read(left, "V", field="left", low=-2000, high=2000) if left.strip() else None
    before = shut_before_meter(part.core, volts)
    if reasons := interlocks.measure(state.proof, board_id(board.row.pk), part_id(part.row.pk), before):
        raise Blocked(f"{part.ref} is not measured yet", reasons)
    return volts


def _from_meter(state: UnitState, board: BoardState, part: PartState, in_circuit: bool) -> LcrReading:
    with open_meter(meter_of(state)) as meter:
        return _asked(meter, board, part, in_circuit, state.job.meter_frequency)


def _ways_to_write(address: str) -> set[str]:
    """An instrument's address, short and as VISA has it."""
    visa = read_address(address)
    _, host, port, _ = visa.split("::")
    return {address, visa, f"{host}:{port}"}


def _asked(meter: LcrMeter, board: BoardState, part: PartState, in_circuit: bool, frequency: float) -> LcrReading:
    if meter.identity == NAME:
        meter.tell(f"FREQ {frequency:g}")
        meter.tell(_probed(board, part, in_circuit, frequency).as_command())
    return meter.read()


def _typed(text: str, part: Fitted, frequency: float) -> LcrReading:
    """A reading as typed: ESR, and perhaps the capacitance after it: ``6.8`` or ``6.8 71u``."""
    esr, value = read_typed_reading(text)
    return LcrReading(value or part.capacitance or 0.0, esr if esr is not None else part.esr or 0.0, frequency)


def take(
    state: UnitState,
    board: BoardState,
    part: PartState,
    typed: str,
    left: str,
    in_circuit: bool,
    metered: LcrReading | None = None,
) -> LcrReading:
    """Take a reading of a part: typed, or from the job's meter where nothing is typed.

    Args:
        left: volts left across it, as typed. in_circuit: whether it still stands in its board. metered: what the meter showed, where it was
            asked before.

    Raises:
        BadInput: no meter, a meter that misbehaves, or a reading that cannot be read; nothing is written.
        Blocked: it may be charged, or the unit has power.
    """
    volts = _free(state, board, part, left)
    by_hand = bool(typed.strip())
    frequency = state.job.meter_frequency
    found = _typed(typed, part.core, frequency) if by_hand else metered or _from_meter(state, board, part, in_circuit)
    esr, value = read_typed_reading(typed) if by_hand else (found.esr, found.capacitance)
    if esr is None and in_circuit:
        raise BadInput(
            typed,
            "ESR: in circuit its neighbours are measured with it",
            "Capacitance is read out of circuit.",
            field="reading",
        )
    _keep(part.row, found, in_circuit, volts, has_value=value is not None, has_esr=esr is not None)
    return found


def _discharged(row: Part, state: UnitState, volts: float) -> None:
    """The volts that were read across a store before the meter stand for its discharge as well."""
    check = next((c for c in state.proof.discharges if c.key == f"cold.discharge.{part_id(row.pk)}"), None)
    if check is None:
        return
    unit, now = row.board.unit, timezone.now()
    reading = Reading.objects.create(
        unit=unit, key=check.key, step=check.step, point=check.point, ask=check.ask[:300], typed=f"{volts:g}", value=volts,
        symbol=check.unit, limits=check.limits, passed=check.passes(volts), at=now,
    )  # fmt: skip
    was = {**check.evidence, **state.read_on}
    note(unit, READ, now, reading=reading, key=check.key, value=volts, was=was)


@in_unit_transaction("Nothing is measured now")
def _keep(
    row: Part, found: LcrReading, in_circuit: bool, volts: float | None, *, has_value: bool, has_esr: bool
) -> None:
    """Keep a reading. The meter was asked outside of the door, so the gate is asked once more."""
    before = shut_before_meter(row.to_core(), volts)
    state = unit_state(row.board.unit_id)
    if reasons := interlocks.measure(state.proof, board_id(row.board_id), part_id(row.pk), before):
        raise Blocked(f"{row.ref} is not measured yet", reasons)
    if volts is not None:
        _discharged(row, state, volts)
    fitted = with_reading(row.to_core(), found.capacitance, found.esr, found.frequency, in_circuit or not has_value)
    if not has_esr:
        before_it = row.to_core()
        fitted = fitted.with_(esr=before_it.esr, esr_frequency=before_it.esr_frequency)
    row.take(fitted.with_(in_circuit=in_circuit))
    save_part(row)
    words = f"{row.board.name} {row.ref} measured"
    note(row.board.unit, HANDS, timezone.now(), row=part_id(row.pk), board=board_id(row.board_id), words=words)
    text = (
        "ESR OL"
        if has_esr and found.esr >= OPEN_ESR
        else show(found.capacitance, "F")
        if not has_esr
        else found.text
        if has_value and not in_circuit
        else f"{show(found.esr, 'Ω')} at {show(found.frequency, 'Hz')}"
    )
    where = "in circuit" if in_circuit else "out of circuit"
    empty = f", {show(volts, 'V')} left before" if volts is not None else ""
    log(row.board.unit, "survey", f"{row.board.name} {row.ref} measured {text}, {where}{empty}.")

"""Readings by the job's meter: a real one over the network, or the stand-in, which reads the simulated bench.

What the stand-in reads is marked so: it counts only while the job's meter is the stand-in, and no unit is handed over on it.
"""

from __future__ import annotations

import math

import numpy as np

from idlebench.core import prove
from idlebench.core.prove import by_meter, interlocks
from idlebench.core.prove.expect import state_at
from idlebench.core.prove.meter_watch import lifted_passes
from idlebench.core.prove.scope import Capture, from_trace, ripple_of
from idlebench.core.prove.status import SIMULATED
from idlebench.core.refusal import BadInput, Blocked
from idlebench.core.simulate.monitor import shows
from idlebench.core.simulate.readings import Asked
from idlebench.core.simulate.sitting import Sitting
from idlebench.core.simulate.state import State
from idlebench.core.simulate.supply import USUAL
from idlebench.core.simulate.truth import Fault, read_truth
from idlebench.core.text.quantity import show
from idlebench.instruments import HOUSE, BenchServer, Multimeter, Scope, Session, Source

from ..records.models import Instrument, Reading
from ..unit.expecting import bench_of, known_of, setting_of
from ..unit.parts import BoardState
from ..unit.rows import board_id
from ..unit.state import UnitState, unit_state
from . import services

#: What a stand-in says it is begins so.
SIMULATED_MAKER = "IDLE BENCH,"
#: Points of a trace of the stand-in's scope: enough for what switches at some tens of kilohertz.
TRACED = 20_000


def may_read(state: UnitState, check: prove.Check) -> bool:
    """Whether the job has a meter that can answer a check."""
    if check.kind == "amps":
        return _of_kind("source") is not None
    if not state.job.meter or not by_meter.kind_of(check):
        return False
    if state.job.meter != HOUSE:
        return True
    if _monitor(state, check) is not None:
        return True
    supply = _supply(state, check)
    return supply is not None and bool(_point(supply, check)) and by_meter.simulates(check)


def _point(supply: BoardState, check: prove.Check) -> str:
    """Where the stand-in's probe goes for a check: a rail that the supply's lines make, a part of its survey, its fuse."""
    made = {b.regulator.rail for b in supply.supply if b.regulator}
    made |= {rail.name for b in supply.supply if b.converter for rail in b.converter.rails}
    return by_meter.point_of(check, made, {p.ref for p in supply.parts} | {USUAL["fuse"]})


def take(unit: int, key: str, by_scope: bool = False) -> Reading:
    """Take a reading of a check by the job's meter. The meter is asked outside of the door; every gate is asked again inside.

    Args:
        by_scope: ripple as the stand-in's scope shows it, peak to peak.

    Raises:
        BadInput: no meter, one that cannot read this, or one that misbehaves: nothing is written, power stays as it is.
        Blocked: it may not be read now.
    """
    state = unit_state(unit)
    check = state.proof.check(key)
    if check is None:
        raise BadInput(key, "a check of this unit", "The board may have changed: load the page again.", field="check")
    if reasons := interlocks.reading(state.proof, check):
        raise Blocked(f"{check.point} cannot be read now", reasons)
    if check.kind == "amps":
        amps, mark = _amps(check)
        return services.take_reading(unit, check.key, f"{amps:.6g}", mark)
    if not state.job.meter:
        raise BadInput(
            "", "a meter's address at Intake, under Job and ways of working", "Or type the reading.", field="meter"
        )
    if state.job.meter == HOUSE and (board := _monitor(state, check)) is not None:
        return services.take_reading(unit, check.key, _of_monitor(state, board, check), SIMULATED)
    kind = by_meter.kind_of(check)
    if not kind:
        raise BadInput(check.point, "what a meter can read", "Answer it by hand.", field="meter")
    simulated = state.job.meter == HOUSE
    if by_scope:
        whole = ripple_of(traced(state, check), state.job.mains_frequency).whole
        return services.take_reading(unit, check.key, f"{whole:.6g} pp", SIMULATED)
    value, mark = value_of(state, check)
    if lifted_passes(check) and not simulated and (abs(value) < AIR or math.isinf(value)):
        # a hand that presses a key may have put the leads down first
        shown = "OL" if math.isinf(value) else show(value, check.unit)
        raise BadInput(
            f"{shown} by the meter", "a reading that shows contact",
            "Leads in the air read the same. Read it in the round, where contact is shown first, or type it.", field="meter",
        )  # fmt: skip
    return services.take_reading(unit, check.key, by_meter.as_typed(check, value), mark)


def value_of(state: UnitState, check: prove.Check) -> tuple[float, str]:
    """What the job's meter shows at a check now, SI, and how the reading is marked.

    Raises:
        BadInput: no meter, one that cannot read this, or one that misbehaves.
    """
    kind = by_meter.kind_of(check)
    if not state.job.meter or not kind or check.kind == "amps":
        raise BadInput(check.point, "what this job's meter can read", "Type the reading.", field="meter")
    if state.job.meter == HOUSE:
        return _simulated(state, check, kind), SIMULATED
    return _asked(state.job.meter, kind)


def ohms_of_leads(state: UnitState) -> float:
    """What the job's meter reads across its own leads, Ω.

    Raises:
        BadInput: no meter, or one that misbehaves.
    """
    if not state.job.meter:
        raise BadInput("", "a meter that is named for this job", "Type the reading.", field="meter")
    return 0.0 if state.job.meter == HOUSE else _asked(state.job.meter, "resistance")[0]


#: A reading under this is what leads in the air show, V.
AIR = 0.05
#: Readings of a monitor that the stand-in gives, by how their keys begin; and the error of its probe, %.
OF_MONITOR = ("up.mlamp.", "up.mrise.", "up.mpart.", "up.mline.", "up.msoak.")
#: How far the mains are up at the steps of a line stage that are not full yet, by the steps of a supply.
NOT_FULL = {"mrise": "limited", "mpart": "half"}
PROBE_ERROR = 2.0


def supply_truth(board: BoardState) -> list[Fault]:
    """What of a supply is not as surveyed: without what befell its monitor's stages."""
    refs = board.monitor.refs if board.monitor else frozenset()
    return [fault for fault in read_truth(board.row.truth) if fault.ref not in refs]


def _monitor(state: UnitState, check: prove.Check) -> BoardState | None:
    """The board of a monitor whose reading the stand-in gives: B+, its ripple, the heater, the anode."""
    if check.seen or not check.key.startswith(OF_MONITOR):
        return None
    board = next((b for b in state.boards if b.monitor and check.key.endswith(f".{board_id(b.row.pk)}")), None)
    return board if board is not None and _feeding(state, board) is not None else None


def _feeding(state: UnitState, board: BoardState) -> tuple[BoardState, str] | None:
    """The supply that makes a monitor's B+, and its rail."""
    stage = board.monitor.stage if board.monitor else None
    for supply in state.boards:
        for rail in supply.rails if supply.supply and stage else ():
            if abs(rail.nominal - stage.supply) < 0.01 * stage.supply:
                return supply, rail.name
    return None


def _of_monitor(state: UnitState, board: BoardState, check: prove.Check) -> str:
    """What the stand-in reads of a monitor, as a person would type it."""
    supply, rail = _feeding(state, board)
    how = setting_of(state, supply)
    step = check.step.partition(".")[0]
    way = "lamp" if step == "mrise" else how.way
    at = state_at(NOT_FULL.get(step, "full"), way, how.mains, how.frequency, how.lamp)
    b_plus, ripple = (
        clue_read(state, supply, Asked(point=rail, what=what, typed=rail), at) or 0.0 for what in ("dc", "ripple")
    )
    # what stands there, not what the sheet says
    values = {p.ref: p.swap.value if p.swap else p.row.value for b in state.boards for p in b.parts}
    found = shows(board.monitor, b_plus, ripple, values, read_truth(board.row.truth), how.frequency)
    if check.kind == "tube_volts":
        return f"{found.anode / 1000:.5g} kV probe {PROBE_ERROR:g} %"
    if check.kind == "tube_ratio":
        return f"{found.anode / 1000:.5g} kV probe {PROBE_ERROR:g} % at {found.b_plus:.5g} V"
    if check.kind == "ripple":
        return f"{ripple:.5g} pp"
    return f"{found.heater if '.heater.' in check.key else found.b_plus:.5g}"


def _of_kind(kind: str) -> Instrument | None:
    """The instrument of a kind that is named on this machine, the first where there are several."""
    return Instrument.objects.filter(kind=kind).first()


def scope_named() -> str:
    """The name of the shop's scope, "" where none is."""
    found = _of_kind("scope")
    return found.name if found else ""


def captured(rail: str) -> Capture:
    """A trace of the shop's scope, its tip where a hand has put it.

    Raises:
        BadInput: none is named, or it does not answer as one.
    """
    found = _of_kind("scope")
    if found is None:
        raise BadInput(
            "no scope", "a scope that is named under Devices", "Or choose the file that it saved.", field="capture"
        )
    with Scope(found.address) as scope:
        if _mark_of(scope):
            raise BadInput(
                f"{found.name}, the simulated bench", "a scope on a machine",
                "Make the simulated meter this job's meter at Intake to try it.",
                field="capture",
            )  # fmt: skip
        time, volts = scope.trace(TRACED)
    return from_trace(time, volts, rail)


def _mark_of(session: Session) -> str:
    """How a reading of an instrument is marked: the simulated bench at whatever address proves nothing of a machine."""
    return SIMULATED if session.identity.upper().startswith(SIMULATED_MAKER) else ""


def _amps(check: prove.Check) -> tuple[float, str]:
    """What the shop's bench supply gives now, A, and how the reading is marked.

    Raises:
        BadInput: none is named, or it does not answer, or it is off.
    """
    found = _of_kind("source")
    if found is None:
        raise BadInput(
            check.point, "a bench supply that is named under Devices", "Or type the amps that it shows.", field="meter"
        )
    with Source(found.address) as source:
        if not source.is_on:
            raise BadInput(
                f"{found.name}, its output off",
                "an output that is on",
                "Switch it on by hand, and read again.",
                field="meter",
            )
        return source.amps(), _mark_of(source)


def source_amps() -> str:
    """A that a named bench supply gives now, as typed; "" where none is named or none answers."""
    found = _of_kind("source")
    if found is None:
        return ""
    try:
        with Source(found.address) as source:
            return f"{source.amps():.6g}" if source.is_on else ""
    except BadInput:
        return ""


def _asked(address: str, kind: str) -> tuple[float, str]:
    if not Instrument.objects.filter(address=address).exists():
        raise BadInput(
            address, "a meter that is named under Devices on this machine", "No other address is connected to. Or type the reading.",
            field="meter",
        )  # fmt: skip
    with Multimeter(address) as meter:
        return meter.read(kind), _mark_of(meter)


def _supply(state: UnitState, check: prove.Check) -> BoardState | None:
    """The supply board a check speaks of that has lines to simulate."""
    made = [board for board in state.boards if board.row.supply and board.supply]
    own = [board for board in made if check.board == board.row.name or any(r.name == check.rail for r in board.rails)]
    return next(iter(own), None)


def _sitting(state: UnitState, check: prove.Check) -> tuple[Sitting, str]:
    """The supply of a check on the simulated bench as the unit is now, and the point that is read there.

    Raises:
        BadInput: it has none that can be simulated.
    """
    supply = _supply(state, check)
    point = _point(supply, check) if supply else ""
    if supply is None or not point or not by_meter.simulates(check):
        raise BadInput(
            check.point, "a point of a supply whose lines are typed",
            "The simulated meter reads supplies that it can simulate. Type the reading.", field="meter",
        )  # fmt: skip
    how = setting_of(state, supply)
    setting = by_meter.setting(check, state.live_step or "", how.way, how.mains, how.frequency, how.lamp)
    return Sitting(
        bench=bench_of(known_of(state, supply)),
        faults=supply_truth(supply),
        state=setting,
        seed=state.last_event,
        seconds=_on_for(state),
    ), point


def clue_read(state: UnitState, supply: BoardState, asked: Asked, setting: State) -> float | None:
    """What the stand-in reads at a point of a supply that the suspects page asks for; None off the scale.

    Raises:
        BadInput: the job's meter is another, or it cannot be read so.
    """
    if state.job.meter != HOUSE:
        raise BadInput("", "the simulated meter as this job's meter", "Type the reading.", field="meter")
    sitting = Sitting(
        bench=bench_of(known_of(state, supply)),
        faults=supply_truth(supply),
        state=setting,
        seed=state.last_event + 1,
        seconds=_on_for(state),
    )
    return sitting.read(asked).value


def _simulated(state: UnitState, check: prove.Check, kind: str) -> float:
    """What the stand-in reads: the same conversation as with a real meter, on a port of this machine."""
    sitting, point = _sitting(state, check)
    with BenchServer(sitting) as server, Multimeter(server.address) as meter:
        meter.probe(point)
        return meter.read(kind)


def traced(state: UnitState, check: prove.Check) -> Capture:
    """What the stand-in's scope shows of a rail.

    Raises:
        BadInput: it has none that can be simulated, or no power.
    """
    if not state.live_step or state.job.meter != HOUSE:
        raise BadInput(
            "no power", "a unit that has power on the simulated bench", "Power it on first.", field="capture"
        )
    sitting, _ = _sitting(state, check)
    volts, step = sitting.trace(check.rail, TRACED, cycles=4)
    return Capture(np.arange(len(volts)) * step, volts, ("time", check.rail))


def _on_for(state: UnitState) -> float:
    """How long the power has been on, s."""
    return (state.now - state.session.began).total_seconds() if state.session else 0.0

"""What the place of a regulator, fuse, cell or diode asks, from its line, the supply of its board, and the rails that feed it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from idlebench.core.board.devices import Device
from idlebench.core.choose import by_limits, fuses, resistors
from idlebench.core.choose import cells_and_diodes as small
from idlebench.core.choose import regulators_and_fuses as rules
from idlebench.core.choose.branch_circuit import Store, new_store, old_store, settle, sound_store, supply_of
from idlebench.core.choose.cells_and_diodes import BatteryNeed, DiodeNeed
from idlebench.core.choose.fed_regulators import fed_by_rail
from idlebench.core.choose.fuses import FuseNeed
from idlebench.core.choose.regulators_and_fuses import Judged, OutputCapacitor, RegulatorNeed
from idlebench.core.choose.supply_figures import BranchState
from idlebench.core.choose.supply_model import HIGH, LOW, reckon
from idlebench.core.circuit.supply import Settled
from idlebench.core.prove.cold_rails import fed_rails
from idlebench.core.refusal import BadInput
from idlebench.core.text.rails_and_chips import Rail, rail_volts

from .parts import BoardState
from .state import UnitState
from .supply import branch_of, chosen_parts, measured


@dataclass(frozen=True)
class Kind:
    """How parts of a kind are judged: what a place asks, one part against it, and all of them ranked."""

    need: Callable[[UnitState, BoardState, Device], Any]
    judge: Callable[[Any, Any], Judged]
    rank: Callable[..., list[Judged]]


def regulator_need(state: UnitState, board: BoardState, other: Device) -> RegulatorNeed:
    """What a regulator's place asks, from the branch that feeds it, or the rail.

    Raises:
        BadInput: its volts are not known, or what feeds it.
    """
    branch = next((b for b in board.supply if b.regulator and b.regulator.ref == other.ref), None)
    room = room_at(board, other)
    if branch is None and board.row.supply:
        raise BadInput(
            other.ref,
            "a line of the supply that ends in it",
            f"Write it at Intake: … regulator {other.ref} 5V 1A.",
            field="supply",
        )
    if branch is None:
        need = fed_by_rail(other, _rails(state), room=room, policy=state.policy)
        return replace(need, outputs=_outputs(state, board, need.volts))
    fed, new = branch.regulator, chosen_parts(board)
    cores = measured(state, board)
    found = reckon(branch, cores, state.mains, new)
    low, high = (_at(found, percent) for percent in (LOW, HIGH))
    return RegulatorNeed(
        old=other,
        volts=fed.volts,
        current=fed.current,
        v_in_low=low.v_min,
        v_in_high=high.v_avg,
        v_in_peak=high.supply.unloaded,
        theta_sa=fed.theta_sa,
        ambient=fed.ambient,
        height=room,
        outputs=_outputs(state, board, fed.volts),
        policy=state.policy,
    )


def _outputs(state: UnitState, board: BoardState, volts: float) -> tuple[OutputCapacitor, ...]:
    """The capacitors at a regulator's output as they will stand: the one that is chosen or fitted, else the old one."""
    found, new, olds = [], chosen_parts(board), measured(state, board)
    for part in board.parts:
        old = olds[part.ref]
        if old.role != "regulator_output" or rail_volts(old.rail) != volts:
            continue
        if item := new.get(part.ref):
            found.append(OutputCapacitor(part.ref, item.part, new_store(item).esr_high, item.esr > 0))
        elif part.to_fill and not part.kept:
            found.append(OutputCapacitor(part.ref, "to be replaced", sound_store(old).esr_high, False))
        else:
            known = old.esr is not None and not old.in_circuit
            found.append(OutputCapacitor(part.ref, "the old part", old_store(old).esr_high, known))
    return tuple(found)


def room_at(board: BoardState, other: Device) -> float | None:
    """mm free above a place, where a zone tells it."""
    return next((z.room for z in board.zones if z.room and z.holds(other.x, other.y)), None)


def _rails(state: UnitState) -> tuple[Rail, ...]:
    """The rails that feed the boards of a unit which make none."""
    return fed_rails(state.facts)


def _at(found: BranchState, percent: float) -> Settled:
    """A branch with what is in it now, on mains that stray."""
    supply = found.after.supply.at(percent)
    return settle(replace(supply, load=found.after.supply.load))


def place_of_fuse(state: UnitState, board: BoardState, other: Device) -> tuple[FuseNeed, float]:
    """What a fuse's place asks, and the peak of its switch-on pulse, A.

    Raises:
        BadInput: no rating is marked.
    """
    if not board.row.supply:
        highest = max((abs(rail.nominal) for rail in _rails(state)), default=0.0)
        return fuses.fuse_need(other, primary=False, dc=highest), 0.0
    primary = next((b for b in board.supply if not b.volts or b.fuse), None)
    branch = primary or next(iter(board.supply), None)
    pulse = peak = 0.0
    if primary is not None:
        cores = measured(state, board)
        found = reckon(primary, cores, state.mains, chosen_parts(board))
        pulse = next((f.after for f in found.figures if f.name.startswith("Inrush")), 0.0)
        high = supply_of(primary, _store_of(found), state.mains, HIGH)
        peak = high.peak / (high.source_resistance + high.store_esr)
    worked_out = (
        fuses.worked_out_rating(branch.converter, branch.va, state.job.mains_volts)
        if branch and not other.current
        else 0.0
    )
    return fuses.fuse_need(other, primary=True, pulse=pulse, worked_out=worked_out, charges=bool(board.supply)), peak


def _store_of(found: BranchState) -> Store:
    supply = found.after.supply
    return Store(supply.store, supply.store_esr, supply.store_esr, "")


def battery_need(state: UnitState, board: BoardState, other: Device) -> BatteryNeed:
    """What a cell's place asks.

    Raises:
        BadInput: its volts are not known.
    """
    return small.battery_need(other, room_at(board, other))


def diode_need(state: UnitState, board: BoardState, other: Device) -> DiodeNeed:
    """What a diode's place asks: as marked, and as the branch sees it whose store it charges.

    Raises:
        BadInput: neither is known.
    """
    switching = board.row.supply == "switching"
    branch = branch_of(board, other.serves) if other.serves else None
    if branch is None or other.serves not in branch.stores:
        return small.diode_need(other, switching=switching)
    found = reckon(branch, measured(state, board), state.mains, chosen_parts(board))
    high = supply_of(branch, _store_of(found), state.mains, HIGH)
    bridge, half = high.topology == "bridge", high.topology == "half"
    amps = high.load.amount if high.load.kind != "resistance" else _at(found, HIGH).v_avg / high.load.amount
    return small.diode_need(
        other,
        # a store stands at the peak while the winding swings as far the other way, but a bridge halves that
        reverse=high.peak * (1 if bridge else 2),
        average=amps * (1.0 if half or "bridge" in other.note.lower() else 0.5),
        pulse=high.peak / (high.source_resistance + high.store_esr),
    )


def _by(need: Callable[[Device], Any]) -> Callable[[UnitState, BoardState, Device], Any]:
    """A need that the part's own line tells whole."""
    return lambda state, board, other: need(other)


def _optocoupler_need(state: UnitState, board: BoardState, other: Device) -> by_limits.OptocouplerNeed:
    return by_limits.optocoupler_need(other, mains=board.row.supply == "switching")


KINDS = {
    "regulator": Kind(regulator_need, rules.judge_regulator, rules.rank_regulators),
    "fuse": Kind(lambda state, board, other: place_of_fuse(state, board, other)[0], fuses.judge_fuse, fuses.rank_fuses),
    "battery": Kind(battery_need, small.judge_battery, small.rank_batteries),
    "diode": Kind(diode_need, small.judge_diode, small.rank_diodes),
    "resistor": Kind(_by(resistors.resistor_need), resistors.judge_resistor, by_limits.rank_by_limits),
    "zener": Kind(_by(by_limits.zener_need), by_limits.judge_zener, by_limits.rank_by_limits),
    "optocoupler": Kind(_optocoupler_need, by_limits.judge_optocoupler, by_limits.rank_by_limits),
    "transistor": Kind(_by(by_limits.transistor_need), by_limits.judge_transistor, by_limits.rank_by_limits),
}

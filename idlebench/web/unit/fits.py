"""What a place of a unit asks, and what of the shelf goes in."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from idlebench.core.choose.need import Need, need_of
from idlebench.core.choose.rank import Ranking, rank, rank_many
from idlebench.core.text.rails_and_chips import rail_volts

from .parts import PartState
from .state import UnitState
from .stock import columns, regulators


def need_for(state: UnitState, part: PartState) -> Need:
    """What a place asks, the range of its regulator with it where one is taken."""
    need = need_of(part.core, state.mains, policy=state.policy)
    if part.core.role != "regulator_output" or not part.core.rail:
        return need
    return replace(need, stable=_stable(state, part))


def _stable(state: UnitState, part: PartState) -> tuple[float, float] | None:
    """The window of ESR of the regulator that is used, or fitted, for the rail a capacitor stands on."""
    board = state.board(part.board.pk)
    rail = rail_volts(part.core.rail)
    refs = {b.regulator.ref for b in board.supply if b.regulator and b.regulator.volts == rail}
    refs |= {d.ref for d in board.others if d.what == "regulator" and d.volts == rail}
    taken = {d.settled_as for d in board.devices if d.ref in refs and (d.choice or d.swap)}
    found = next((r for r in regulators() if r.part in taken and r.has_window), None) if taken else None
    return (found.esr_low, found.esr_high) if found else None


def rankings_for(state: UnitState, parts: Iterable[PartState], fits: int = 6, refused: int = 3) -> list[Ranking]:
    """The shelf ranked for several places of a unit, in one run."""
    return rank_many([need_for(state, part) for part in parts], columns(), fits=fits, refused=refused)


def ranking_for(state: UnitState, part: PartState, fits: int = 6, refused: int = 3) -> Ranking:
    """The shelf ranked for a place."""
    return rank(need_for(state, part), columns(), fits=fits, refused=refused)

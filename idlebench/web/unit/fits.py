"""What a place of a unit asks, and what of the shelf goes in."""

from __future__ import annotations

from dataclasses import replace

from idlebench.core.choose.need import Need, need_of
from idlebench.core.choose.rank import Ranking, rank
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
    """The ESR range of the regulator that is taken for the rail a store stands on."""
    board = state.board(part.row.board_id)
    rail = rail_volts(part.core.rail)
    fed = next(
        (b.regulator for b in board.supply if b.regulator and b.regulator.volts == rail),
        None,
    )
    taken = board.work.choices.get(fed.ref) if fed else None
    found = next((r for r in regulators() if taken and r.part == taken.item), None)
    return (found.esr_low, found.esr_high) if found and found.esr_high else None


def ranking_for(state: UnitState, part: PartState, fits: int = 6, refused: int = 3) -> Ranking:
    """The shelf ranked for a place."""
    return rank(need_for(state, part), columns(), fits=fits, refused=refused)

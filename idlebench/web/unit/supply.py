"""A board's supply as its places see it: what was chosen for them, what they measure, and the branch each belongs to."""

from __future__ import annotations

from idlebench.core.board.parts import Capacitor, Fitted
from idlebench.core.choose.supply_model import Branch
from idlebench.core.judge.measure import read_with

from .parts import BoardState
from .state import UnitState


def chosen_parts(board: BoardState, also: Capacitor | None = None, ref: str = "") -> dict[str, Capacitor]:
    """The catalogue parts taken for a board's places; also: one that is looked at for a place, instead of what is taken there."""
    found = dict(board.chosen)
    if also is not None:
        found[ref] = also
    return found


def branch_of(board: BoardState, ref: str) -> Branch | None:
    """The branch that a store belongs to."""
    for branch in board.supply:
        rails = branch.converter.rails if branch.converter else ()
        if ref in branch.stores or any(ref in rail.stores for rail in rails):
            return branch
    return None


def measured(state: UnitState, board: BoardState) -> dict[str, Fitted]:
    """A board's parts by reference, their ESR at the frequency it was read at; reckoned once for each that asks for the board."""
    found = board.__dict__.get("measured")
    if found is None:
        found = board.__dict__["measured"] = {p.ref: read_with(p.core, state.job.meter_frequency) for p in board.parts}
    return found

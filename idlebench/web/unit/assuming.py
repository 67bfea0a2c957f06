"""A board with the supply that it most likely has, where nobody typed its lines: for Suspects alone."""

from __future__ import annotations

from functools import lru_cache

from idlebench.core.faults.assumed import assume_supply

from .kept import supply_lines
from .parts import BoardState
from .state import UnitState

_assumed = lru_cache(maxsize=128)(assume_supply)


def with_assumed(state: UnitState, board: BoardState) -> BoardState:
    """A board whose supply's lines are assumed where none are typed; itself where they are, or where nothing can be assumed."""
    row = board.row
    if not row.supply or board.supply or row.supply_model.strip():
        return board
    parts = tuple(p.core for p in board.parts)
    found = _assumed(
        row.supply, board.rails, parts, tuple(board.others), row.source_volts, row.source_va, state.job.mains_volts
    )
    if found is None:
        return board
    new = board.given_out(row)
    new.__dict__.update({"supply": supply_lines(found.lines)[0], "assumed": found})
    return new


def board_with_lines(state: UnitState, pk: int | None) -> BoardState | None:
    """A board of the unit by its key, its supply assumed where need be; None where there is no such board."""
    found = next((board for board in state.boards if board.row.pk == pk), None)
    return with_assumed(state, found) if found is not None else None

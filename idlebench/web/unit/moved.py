"""What goes along with a board that moves to another unit."""

from __future__ import annotations

from ..records.models import Board, UnitProcedure


def take_along(board: Board) -> None:
    """A procedure on the board goes on where the board is: what is wet of it dries there, and is looked at there."""
    UnitProcedure.objects.filter(board=board).exclude(unit=board.unit_id).update(unit=board.unit_id)

"""A whole board replaced: an old supply gives way to a modern unit, and comes back if it has to."""

from __future__ import annotations

from django.utils import timezone

from idlebench.core.board.replacement import Wire, check_wiring, held_against
from idlebench.core.prove import gates
from idlebench.core.refusal import BadInput, GateShut
from idlebench.core.text.rails_and_chips import Rail

from ..records.models import Board
from ..unit.door import opened, unit_of_board
from ..unit.log import log
from ..unit.rows import board_id


def replace_board(
    board: int, facts: dict[str, object], rails: tuple[Rail, ...], wires: tuple[Wire, ...], keeps: str
) -> tuple[Board, tuple[str, ...]]:
    """Put a modern unit in the place of a supply board; what is looked at twice with it.

    Args:
        facts: of the new board as a board's form reads them. rails, wires: what it makes, and the harness. keeps: what stays
            reversible, in words.

    Raises:
        BadInput: a rail is missing or too weak, the harness cannot be, no fuse, or nothing said of what stays reversible.
        GateShut: the unit has power, or a store of it may be charged.
    """
    with opened(unit_of_board(board), "The board cannot be replaced now") as door:
        old = door.board(board)
        if not old.row.supply:
            raise BadInput(old.row.name, "a supply board", "A fed board from a donor is moved at Triage.", "board")
        if reasons := gates.mend(door.state.proof, board_id(board)):
            raise GateShut("The board cannot be replaced now", reasons)
        if not facts["fuse"]:
            raise BadInput("", "the fuse's marking", "As the new unit's papers say; local codes come first.", "fuse")
        gates.needs_words(keeps)
        check_wiring(wires, rails)
        said = held_against(old.rails, rails)
        unit = old.row.unit
        if unit.boards.filter(name=facts["name"]).exists():
            raise BadInput(str(facts["name"]), "a name this unit does not have yet", "", "name")
        wiring = "\n".join(wire.as_line() for wire in wires)
        more = {"supply": Board.SWITCHING, "expected": 0, "wiring": wiring, "stands_for": old.row}
        new = Board.objects.create(unit=unit, **{**facts, **more})
        on = timezone.localdate()
        Board.objects.filter(pk=board).update(replaced=f"by {new.name} on {on:%-d %b %Y}; {keeps.strip()}"[:300])
        log(unit, "intake", f"{old.row.name} out, {new.name} in its place. {keeps.strip()}")
        return new, said


def bring_back(board: int) -> Board:
    """Put a board back that was replaced; what took its place comes out.

    Raises:
        GateShut: the unit has power, or a store of it may be charged. BadInput: it was not replaced.
    """
    with opened(unit_of_board(board), "The board does not come back now") as door:
        row = Board.objects.get(pk=board)
        if not row.replaced:
            raise BadInput(row.name, "a board that was replaced", "", "board")
        if reasons := gates.mend(door.state.proof, ""):
            raise GateShut("The board does not come back now", reasons)
        # what took its place may have been replaced itself
        followers, found = [row.pk], True
        while found:
            found = list(
                Board.objects.filter(stands_for__in=followers).exclude(pk__in=followers).values_list("pk", flat=True)
            )
            followers += found
        taken_out = Board.objects.filter(pk__in=followers[1:], unit=row.unit, replaced="")
        taken_out.update(replaced=f"taken out, {row.name} is back")
        row.replaced = ""
        row.save(update_fields=["replaced"])
        log(row.unit, "intake", f"{row.name} is back in its place.")
        return row

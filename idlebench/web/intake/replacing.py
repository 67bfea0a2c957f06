"""A whole board replaced: an old one gives way to a modern unit or to a donor's board, and comes back if it has to."""

from __future__ import annotations

from collections.abc import Collection

from django.utils import timezone

from idlebench.core.board.replacement import Whole, Wire, check_donor, check_wiring, free_name, held_against
from idlebench.core.prove import interlocks
from idlebench.core.refusal import BadInput, Blocked, SeveralRefused
from idlebench.core.text.rails_and_chips import Rail

from ..records.models import Board, Unit
from ..unit.door import MOVED_AWAY, opened_all, unit_of_board, unit_transaction
from ..unit.log import log
from ..unit.moved import take_along
from ..unit.parts import BoardState
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
        Blocked: the unit has power, or a store of it may be charged.
    """
    with unit_transaction(unit_of_board(board), "The board cannot be replaced now") as door:
        old = door.board(board)
        if not old.row.supply:
            raise BadInput(old.row.name, "a supply board", "For a fed board, use a donor's board.", field="board")
        if reasons := interlocks.mend(door.state.proof, board_id(board)):
            raise Blocked("The board cannot be replaced now", reasons)
        door.out(board_id(board), "the board was replaced, read empty before")
        if not facts["fuse"]:
            raise BadInput(
                "", "the fuse's marking", "As in the papers of the new unit; local codes come first.", field="fuse"
            )
        interlocks.needs_words(keeps)
        check_wiring(wires, rails)
        said = held_against(old.rails, rails)
        unit = old.row.unit
        if unit.boards.filter(name=facts["name"]).exists():
            raise BadInput(str(facts["name"]), "a name this unit does not have yet", field="name")
        more = {"supply": Board.SWITCHING, "expected": 0, "wiring": _lines(wires), "stands_for": old.row}
        new = Board.objects.create(unit=unit, **{**facts, **more})
        _out(old.row, f"by {new.name}", keeps)
        log(unit, "intake", f"{old.row.name} out, {new.name} in its place. {keeps.strip()}")
        return new, said


def donors_for(boards: list[BoardState], unit: Unit) -> dict[int, list[Board]]:
    """For each board, what other units of the job could give for it: a supply for a supply, the same board first."""
    there = list(
        Board.objects.filter(unit__job=unit.job_id, unit__handed_over=None, replaced="", stands_for=None)
        .exclude(unit=unit.pk)
        .select_related("unit")
        .order_by("unit__name", "name")
    )
    return {
        board.row.pk: sorted(
            (row for row in there if bool(row.supply) == bool(board.row.supply)), key=lambda row: row.name != board.row.name
        )
        for board in boards
    }  # fmt: skip


def from_donor(board: int, donor: int, wires: tuple[Wire, ...], keeps: str) -> tuple[Board, tuple[str, ...]]:
    """Put a board of another unit in the place of this one; what is looked at twice with it.

    It comes with its parts, its survey and what was chosen and swapped. What was proven of it was proven in the other unit: it is
    asked again here.

    Raises:
        BadInput: no board of another unit of the job, it does not fit, or nothing said of what stays reversible.
        Blocked: one of the two units has power or is handed over, or a store of the two boards may be charged.
    """
    title, here, there = "The board cannot be replaced now", unit_of_board(board), unit_of_board(donor)
    if here == there:
        raise BadInput(Board.objects.get(pk=donor).name, "a board of another unit", field="donor")
    with opened_all(sorted((here, there)), title) as doors:
        mine, theirs = sorted(doors, key=lambda door: door.pk != here)
        old, new = mine.board(board), theirs.board(donor)
        unit, giver = mine.state.row, theirs.state.row
        if unit.job_id != giver.job_id:
            raise BadInput(
                f"{new.row.name} of unit {giver.name}", "a board of another unit of the same job", field="donor"
            )
        if new.row.stands_for_id:
            raise BadInput(
                new.row.name,
                "a board that replaces no other",
                f"Put unit {giver.name}'s own board back first.",
                field="donor",
            )
        reasons = (
            *interlocks.moving([mine.state.proof, theirs.state.proof], [board_id(board), board_id(donor)]),
            *interlocks.mend(mine.state.proof, board_id(board)), *interlocks.mend(theirs.state.proof, board_id(donor)),
        )  # fmt: skip
        if reasons:
            raise Blocked(title, tuple(dict.fromkeys(reasons)))
        mine.out(board_id(board), "the board was replaced, read empty before")
        fed = [rail for one in mine.state.boards if one.row.supply for rail in one.rails]
        said = _fits(old, new, wires, fed, keeps)
        row, called = new.row, new.row.name
        row.name = free_name(called, giver.name, set(unit.boards.values_list("name", flat=True)))
        row.unit, row.came_from, row.called = unit, giver, called
        row.stands_for, row.wiring = old.row, _lines(wires)
        row.save(update_fields=["name", "unit", "came_from", "called", "stands_for", "wiring"])
        take_along(row)
        _out(old.row, f"by {called} of unit {giver.name}", keeps)
        log(unit, "move", f"{old.row.name} out, {called} of unit {giver.name} in its place. {keeps.strip()}")
        log(giver, "move", f"{called} given to unit {unit.name}, for its {old.row.name}.")
        return row, said


def _fits(old: BoardState, new: BoardState, wires: tuple[Wire, ...], fed: list[Rail], keeps: str) -> tuple[str, ...]:
    """What is looked at twice with a donor's board, once all that is asked of it is there.

    Raises:
        BadInput: all that is missing, at once.
    """
    wrong: list[BadInput] = []
    said: tuple[str, ...] = ()
    try:
        said = check_donor(_whole(old), _whole(new), wires, fed)
    except BadInput as error:
        wrong += error.each
    try:
        interlocks.needs_words(keeps)
    except BadInput as error:
        wrong.append(error)
    if wrong:
        raise SeveralRefused(wrong) if len(wrong) > 1 else wrong[0]
    return said


def bring_back(board: int) -> tuple[Board, str]:
    """Put a board back that was replaced; what took its place comes out, a donor's board back to its unit.

    Returns:
        The board, and what became of what stood for it, in words.

    Raises:
        Blocked: one of the units has power, or a store of it may be charged. BadInput: it was not replaced.
    """
    title, here = "The board does not come back now", unit_of_board(board)
    with opened_all(sorted({here, *_lenders(_stand_ins(board))}), title) as doors:
        row = Board.objects.get(pk=board)
        if row.unit_id != here:
            raise Blocked(title, MOVED_AWAY)
        if not row.replaced:
            raise BadInput(row.name, "a board that was replaced", field="board")
        proofs = {door.pk: door.state.proof for door in doors}
        if not _lenders(_stand_ins(board)) <= proofs.keys():
            raise Blocked(title, MOVED_AWAY)
        moves = [board_id(one.pk) for one in _stand_ins(board)]
        reasons = [*interlocks.moving(proofs.values(), moves)]
        reasons += [reason for proof in proofs.values() for reason in interlocks.mend(proof, "")]
        if reasons:
            raise Blocked(title, tuple(dict.fromkeys(reasons)))
        for door in doors:
            for one in moves:
                door.out(one, "the board went out, read empty before")
        words = [_take_out(other, row, proofs) for other in _stand_ins(board)]
        row.replaced = ""
        row.save(update_fields=["replaced"])
        log(row.unit, "intake", f"{row.name} is back in its place. {' '.join(filter(None, words))}".strip())
        return row, " ".join(filter(None, words))


def _stand_ins(board: int) -> list[Board]:
    """What stands for a board in its unit, and for what stands for it: what took its place may have been replaced itself."""
    unit, found, last = unit_of_board(board), [], [board]
    while last:
        rows = Board.objects.filter(stands_for__in=last, unit=unit).exclude(pk__in=[board, *(one.pk for one in found)])
        found += (new := list(rows.select_related("came_from")))
        last = [one.pk for one in new]
    return found


def _lenders(boards: list[Board]) -> set[int]:
    """The units that donors' boards go back to. One that is handed over takes nothing."""
    return {one.came_from_id for one in boards if one.came_from_id and one.came_from.handed_over is None}


def _take_out(board: Board, old: Board, proofs: Collection[int]) -> str:
    """Take out what stood for a board; what became of a donor's, in words."""
    giver = board.came_from
    if giver is None or giver.pk not in proofs or giver.job_id != old.unit.job_id:
        if not board.replaced:
            board.replaced = f"taken out, {old.name} is back"
            board.save(update_fields=["replaced"])
        return "" if giver is None else f"{board.name} stays here, out: unit {giver.name} is closed."
    board.name = free_name(board.called, f"{old.unit.name}, back", set(giver.boards.values_list("name", flat=True)))
    board.unit, board.came_from, board.called, board.stands_for, board.wiring, board.replaced = (
        giver,
        None,
        "",
        None,
        "",
        "",
    )
    board.save(update_fields=["name", "unit", "came_from", "called", "stands_for", "wiring", "replaced"])
    take_along(board)
    log(giver, "move", f"{board.name} is back from unit {old.unit.name}. Its checks are asked again here.")
    return f"{board.name} went back to unit {giver.name}."


def _out(old: Board, by: str, keeps: str) -> None:
    on = timezone.localdate()
    Board.objects.filter(pk=old.pk).update(replaced=f"{by} on {on:%-d %b %Y}; {keeps.strip()}"[:300])


def _lines(wires: tuple[Wire, ...]) -> str:
    return "\n".join(wire.as_line() for wire in wires)


def _whole(board: BoardState) -> Whole:
    row = board.row
    return Whole(row.name, row.supply, row.fuse, tuple(board.rails))

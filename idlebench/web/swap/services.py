"""Swapping parts, one place at a time, and mends. Each is one transaction, behind the gates of core."""

from __future__ import annotations

from collections.abc import Sequence

from django.utils import timezone

from idlebench.core.board.parts import LEFT_OUT
from idlebench.core.board.soldering import swap_order
from idlebench.core.prove import gates
from idlebench.core.prove.record import MEND
from idlebench.core.refusal import BadInput, GateShut, Shut

from ..records.models import CatalogueItem, Swap
from ..unit.door import Open, note, opened, unit_of_board
from ..unit.log import log
from ..unit.parts import BoardState, PartState
from ..unit.rows import board_id


def swapped(board: int, ref: str, text: str = "") -> Swap:
    """Log that the new part is in; one comes off the shelf where any lies there.

    Raises:
        GateShut: the unit has power, a store is not known to be empty, nothing was chosen, or it is done.
    """
    with opened(unit_of_board(board), f"{ref} cannot be swapped") as door:
        return _swapped(door, board, ref, text)


def swapped_all(board: int, wanted: Sequence[tuple[str, str]]) -> None:
    """Log many swaps of a board, each with its note, as a plan says; all of them or none."""
    with opened(unit_of_board(board), "The swaps cannot be taken in") as door:
        for ref, text in dict(wanted).items():
            _swapped(door, board, ref, text)


def _swapped(door: Open, board: int, ref: str, text: str) -> Swap:
    found, part = door.place(board, ref)
    reasons = gates.swap(
        door.state.proof, board_id(board), part.ref, part.taken or part.left_out, part.swap is not None
    )
    if reasons:
        raise GateShut(f"{part.ref} cannot be swapped", reasons)
    if part.left_out:
        old = part.core
        swap = Swap.objects.create(
            part=part.row, item=LEFT_OUT, value=old.value, kind=old.kind, mounting=old.mounting, note=text[:300]
        )
        log(found.row.unit, "swap", f"{found.row.name} {part.ref}: out, and left out for the test.")
        return swap
    item = CatalogueItem.objects.filter(part=part.choice.item).first()
    if item is None:
        raise BadInput(
            part.choice.item, "a part of the catalogue", "It is not on the shelf any more: choose again.", "item"
        )
    facts = {name: getattr(item, name) for name in ("value", "kind", "mounting", "bipolar")}
    swap = Swap.objects.create(part=part.row, item=item.part, note=text[:300], **facts)
    if item.stock:
        item.stock -= 1
        item.save(update_fields=["stock", "changed"])
    log(found.row.unit, "swap", f"{found.row.name} {part.ref}: {swap.item} in{', ' + text if text else ''}.")
    return swap


def in_order(board: BoardState) -> list[PartState]:
    """The places of a board to swap, in the order that is easiest for the hands; what is done stands last."""
    parts = {part.ref: part for part in board.to_swap}
    items = {part.ref: part.choice.item for part in parts.values()}
    lying = set(CatalogueItem.objects.filter(part__in=items.values(), stock__gt=0).values_list("part", flat=True))
    ordered = swap_order([part.core for part in parts.values()], lambda ref: items[ref] in lying or parts[ref].left_out)
    return sorted((parts[ref] for ref in ordered), key=lambda part: part.swap is not None)


def take_back(board: int, ref: str) -> None:
    """Take a swap back: it was logged by mistake.

    Raises:
        GateShut: nothing is logged, or the unit has power.
    """
    with opened(unit_of_board(board), f"{ref} cannot be taken back") as door:
        found, part = door.place(board, ref)
        if not part.swap:
            raise GateShut(f"{part.ref} is not swapped", (Shut("swap", f"Nothing is logged for {part.ref}."),))
        item = CatalogueItem.objects.filter(part=part.swap.item).first()
        if item:
            item.stock += 1
            item.save(update_fields=["stock", "changed"])
        part.swap.delete()
        log(found.row.unit, "swap", f"{found.row.name} {part.ref}: swap taken back.")


def mend(board: int, text: str) -> None:
    """Log a mend on a board: a joint made new, a wire, a pad. What it may have changed is asked again.

    Raises:
        BadInput: nothing said. GateShut: the unit has power, or a store is not known to be empty.
    """
    text = " ".join(text.split())
    if len(text) < 4 or len(text) > 200:
        raise BadInput(text, "the mend in a few words, such as J4 reflowed", "At most 200 characters.", "mend")
    with opened(unit_of_board(board), "No mend now") as door:
        found = door.board(board)
        reasons = gates.mend(door.state.proof, board_id(board))
        if reasons:
            raise GateShut("Nothing is mended now", reasons)
        row = board_id(board)
        note(door.state.row, MEND, timezone.now(), row=row, board=row, words=f"{found.row.name}: {text}")
        log(found.row.unit, "mend", f"{found.row.name}: {text}.")

"""Swapping parts, one place at a time."""

from __future__ import annotations

from django.db import transaction

from idlebench.core.refusal import BadInput, GateShut, Shut

from ..records.models import CatalogueItem, Swap
from ..unit.log import log
from ..unit.state import BoardState, PartState


@transaction.atomic
def swapped(board: BoardState, part: PartState, live: bool, note: str = "") -> Swap:
    """Log that the new part is in; one comes off the shelf where any lies there.

    Raises:
        GateShut: the unit has power, nothing was chosen, or it is done.
    """
    reasons = []
    if live:
        reasons.append(Shut("live", "The unit has power.", "Make idle and discharge first."))
    if not part.taken:
        reasons.append(Shut("choice", f"No part is chosen for {part.ref}.", "Choose one first."))
    if part.swap:
        reasons.append(Shut("done", f"{part.ref} is swapped already."))
    if reasons:
        raise GateShut(f"{part.ref} cannot be swapped", tuple(reasons))
    item = CatalogueItem.objects.filter(part=part.choice.item).first()
    if item is None:
        raise BadInput(
            part.choice.item, "a part of the catalogue", "It is not on the shelf any more: choose again.", "item"
        )
    swap = Swap.objects.create(
        part=part.row,
        item=item.part,
        value=item.value,
        kind=item.kind,
        mounting=item.mounting,
        bipolar=item.bipolar,
        note=note[:300],
    )
    if item.stock:
        item.stock -= 1
        item.save(update_fields=["stock", "changed"])
    log(board.row.unit, "swap", f"{board.row.name} {part.ref}: {swap.item} in{', ' + note if note else ''}.")
    return swap


@transaction.atomic
def take_back(board: BoardState, part: PartState) -> None:
    """Take a swap back: it was logged by mistake."""
    if not part.swap:
        raise GateShut(f"{part.ref} is not swapped", (Shut("swap", f"Nothing is logged for {part.ref}."),))
    item = CatalogueItem.objects.filter(part=part.swap.item).first()
    if item:
        item.stock += 1
        item.save(update_fields=["stock", "changed"])
    part.swap.delete()
    log(board.row.unit, "swap", f"{board.row.name} {part.ref}: swap taken back.")

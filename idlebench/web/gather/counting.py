"""A kit that arrived: held against a unit's places, then put on the shelf and taken where it goes in."""

from __future__ import annotations

from dataclasses import replace

from idlebench.core.plan.kits import Kit, hold, read_kit
from idlebench.core.refusal import Block, Blocked

from ..records.models import CatalogueItem
from ..unit import settling
from ..unit.door import unit_transaction
from ..unit.fits import need_for
from ..unit.log import log
from ..unit.state import UnitState
from ..unit.stock import add_own, count_in
from .asking import wanted


def held(state: UnitState, text: str) -> Kit:
    """A kit held against the places of a unit that wait for a part; nothing is written.

    Raises:
        BadInput: a line cannot be read.
    """
    return hold({name: need_for(state, part) for name, (_, part) in wanted(state).items()}, read_kit(text))


def take_kit(unit: int, text: str, seen: str) -> Kit:
    """Put a kit on the shelf, and take its parts for the places they go into.

    Args:
        seen: the unit's turn when the page showed what would come of it: a second press counts nothing in twice.

    Raises:
        BadInput: a line cannot be read. Blocked: the unit has changed since, or takes no change.
    """
    with unit_transaction(unit, "The kit is not counted in") as door:
        if seen != str(door.state.row.turn):
            changed = Block(
                "changed", "The unit has changed since the kit was compared with it.", "Compare the kit again."
            )
            raise Blocked("The kit is not counted in", (changed,))
        kit = held(door.state, text)
        for counted in kit.lines:
            part = counted.line.part
            if CatalogueItem.objects.filter(part=part.part).exists():
                count_in(part.part, counted.line.pieces)
            else:
                add_own(replace(part, stock=counted.line.pieces))
        places = wanted(door.state)
        for place in kit.places:
            board, part = places[place.ref]
            if place.candidate and part.settled_as != place.candidate.part.part:
                choice = settling.take(door.state, board, part, place.candidate.part.part)
                choice.by_hand = True
                choice.save()
        log(door.state.row, "gather", f"A kit is counted in: {kit.words}.")
    return kit

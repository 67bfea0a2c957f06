"""Bags: one a board, with what lies here for it."""

from __future__ import annotations

from django.utils import timezone

from idlebench.core.plan.bags import BagPlace, Pocket, held, missing, pockets
from idlebench.core.refusal import BadInput
from idlebench.core.wording import many

from ..records.models import Bag, CatalogueItem
from ..unit.door import unit_of_board, unit_transaction
from ..unit.log import log
from ..unit.parts import BoardState
from ..unit.stock import devices
from ..unit.wanted import Stock, places, waiting


def ready(board: int) -> tuple[Pocket, ...]:
    """What lies here for a board, pocket by pocket."""
    wanted = places()
    mine = {place.item for place in wanted if place.board == board}
    rows = CatalogueItem.objects.filter(part__in=mine).values_list("part", "stock", "value")
    here = {part: stock for part, stock, _ in rows}
    values = {part: value for part, _, value in rows}
    if others := mine - set(here):
        here |= {device.part: device.stock for device in devices() if device.part in others}
    shared = waiting(
        [place for place in wanted if place.item in mine], Stock(here=here, coming={}, offers=(), terms={})
    )
    got = [place for one in shared for place in one.got if place.board == board]
    return pockets((place.ref, place.item, values.get(place.item, float("inf"))) for place in got)


def bag(board: int) -> Bag:
    """Bag what lies here for a board; one that was bagged before is bagged anew.

    Raises:
        BadInput: nothing lies here for it. Blocked: the unit is handed over.
    """
    with unit_transaction(unit_of_board(board), "Nothing can be bagged now") as door:
        found = door.board(board)
        contents = ready(board)
        if not contents:
            raise BadInput("", f"a part in stock for {found.row.name}", "Order it, or count it in first.", field="bag")
        made, _ = Bag.objects.update_or_create(
            board=found.row,
            defaults={"contents": [{"part": p.part, "refs": list(p.refs)} for p in contents], "at": timezone.now()},
        )
        pieces = sum(p.pieces for p in contents)
        log(
            door.state.row,
            "gather",
            f"{found.row.name}: bagged, {many(pieces, 'piece')} in {many(len(contents), 'pocket')}.",
        )
        return made


def against(board: BoardState, contents: tuple[Pocket, ...]) -> tuple[tuple[BagPlace, ...], tuple[str, ...]]:
    """A bag held against its board: each of its places, and the places it has nothing for."""
    asked = {p.ref: p.choice.item for p in board.parts if p.taken}
    asked |= {d.ref: d.choice.item for d in board.devices if d.choice}
    done = [p.ref for p in board.parts if p.swap] + [d.ref for d in board.devices if d.swap]
    return held(contents, asked, done), missing(contents, asked, done)

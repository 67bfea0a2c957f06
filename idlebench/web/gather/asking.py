"""What to ask for in a shop: the fewest kinds for a unit's places, and a real part that was found held against them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from threading import Lock

from django.db.models import Count, Max

from idlebench.core.board.parts import Capacitor
from idlebench.core.choose.rank import FAILS, judge_parts
from idlebench.core.choose.shelf_line import read_own
from idlebench.core.plan.kinds import Kinds, fewest
from idlebench.core.refusal import BadInput

from ..records.models import CatalogueItem, Unit
from ..unit import settling
from ..unit.door import unit_transaction
from ..unit.fits import need_for
from ..unit.parts import BoardState, PartState
from ..unit.state import UnitState, unit_state
from ..unit.stock import add_own, columns

#: How places are named in the list: board and reference.
Wanted = dict[str, tuple[BoardState, PartState]]


def wanted(state: UnitState) -> Wanted:
    """The places of a unit that wait for a part: those to fill in which none is soldered and the old one does not stay."""
    return {
        f"{board.row.name} {part.ref}": (board, part)
        for board in state.boards
        for part in board.places
        if part.swap is None and not part.kept and not part.left_out
    }


def kinds_for(state: UnitState) -> Kinds:
    """The fewest kinds for all places of a unit; reckoned once for places that ask the same of the same shelf."""
    needs = {name: need_for(state, part) for name, (_, part) in wanted(state).items()}
    stamp = CatalogueItem.objects.aggregate(n=Count("id"), last=Max("changed"))
    key = (tuple((name, need.same) for name, need in needs.items()), str(stamp))
    with _KINDS_LOCK:
        if key in _kinds:
            return _kinds[key]
    found = fewest(needs, columns())
    with _KINDS_LOCK:
        while len(_kinds) >= KINDS_KEPT:
            del _kinds[next(iter(_kinds))]
        _kinds[key] = found
    return found


#: The fewest kinds as they were reckoned, by what was asked of which shelf; and for how many units they are kept.
_kinds: dict[tuple[object, ...], Kinds] = {}
_KINDS_LOCK, KINDS_KEPT = Lock(), 16


@dataclass(frozen=True)
class MatchedPart:
    """What came of a part that was found: its name, the places it was taken for, and why it does not go into the others."""

    name: str
    taken: tuple[str, ...]
    refused: tuple[str, ...]


def take_found(unit: int, line: str, names: Sequence[str]) -> MatchedPart:
    """Hold a real part, typed in one line, against places, put it on the Shelf, and take it where it goes in.

    Raises:
        BadInput: the line cannot be read, is no capacitor, or goes into none of the places; nothing is written then.
    """
    part = read_own(line)
    if not isinstance(part, Capacitor):
        raise BadInput(line, "a capacitor, such as 100u 25V 6.3x11 p2.5 105C 5000h", field="found")
    Unit.objects.get(pk=unit)
    with unit_transaction(unit, "The part is not used") as door:
        places = wanted(door.state)
        good, refused = [], []
        for name in names:
            if name not in places:
                refused.append(f"{name} does not wait for a part any more")
                continue
            candidate = judge_parts(need_for(door.state, places[name][1]), [part])[0]
            if candidate.status == FAILS:
                why = "; ".join(r.text for r in candidate.reasons if r.status == FAILS)
                refused.append(f"{name}: {why}")
            else:
                good.append(name)
        if not good:
            raise BadInput(
                line, "a part that fits at least one of these places", ". ".join(refused) + ".", field="found"
            )
        made = add_own(part)
        for name in good:
            board, place = places[name]
            if place.settled_as != made:
                choice = settling.take(door.state, board, place, made)
                choice.by_hand = True
                choice.save()
    return MatchedPart(made, tuple(good), tuple(refused))


def kinds_of(unit: int) -> tuple[UnitState, Kinds]:
    """A unit with what to ask for."""
    state = unit_state(unit)
    return state, kinds_for(state)

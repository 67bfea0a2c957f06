"""What was seen in the photos under a board, kept beside each of them, and the second look: against what should stand there since."""

from __future__ import annotations

import json
from dataclasses import dataclass

from idlebench.core.photo.bridges import Pad, near_pairs, pads_of
from idlebench.core.photo.proposals import Found
from idlebench.core.photo.second_look import Look, Stands, bridge_looks, second_look

from ..records.models import CatalogueItem, Underlay
from .parts import BoardState, PartState


@dataclass(frozen=True, kw_only=True)
class Seen:
    """What was found in a photo: the parts, the numbers of those that are none as somebody said, the camera's distance (mm) where the cans
    told it, whether print was read, and joints that solder seems to join."""

    parts: tuple[Found, ...] = ()
    away: frozenset[int] = frozenset()
    distance: float | None = None
    read: bool = False
    joined: tuple[tuple[str, str], ...] = ()


def seen_in(underlay: Underlay) -> Seen | None:
    """What was found in the photo under a side of a board; None before somebody asked."""
    try:
        kept = json.loads(underlay.found_path.read_bytes())
    except FileNotFoundError:
        return None
    parts = (
        Found(**{name: tuple(value) if isinstance(value, list) else value for name, value in one.items()})
        for one in kept.get("parts", ())
    )
    return Seen(
        parts=tuple(parts),
        away=frozenset(kept.get("away", ())),
        distance=kept.get("distance"),
        read=bool(kept.get("read")),
        joined=tuple((one, other) for one, other in kept.get("joined", ())),
    )


def swapped_when(board: BoardState, underlay: Underlay) -> list[PartState]:
    """The parts whose new piece was in when a photo was taken."""
    return [part for part in board.parts if part.swap and part.swap.at <= underlay.photo.at]


def near_joints(board: BoardState, underlay: Underlay) -> list[tuple[Pad, Pad]]:
    """The joints of a solder side that a slip of the iron may have joined."""
    hands = [part.ref for part in swapped_when(board, underlay)]
    return near_pairs(pads_of([part.standing for part in board.parts], board.row.width), hands)


def second_looks(board: BoardState) -> list[Look]:
    """What to look at, of photos that were taken after the first swap; nothing of older ones."""
    looks: list[Look] = []
    for underlay in board.row.underlays.select_related("photo"):
        if (seen := seen_in(underlay)) and (swapped := swapped_when(board, underlay)):
            if underlay.side == "parts":
                looks += _of_parts(board, seen, swapped)
            still = {frozenset((one.words, other.words)) for one, other in near_joints(board, underlay)}
            looks += bridge_looks([pair for pair in seen.joined if frozenset(pair) in still])
    return looks


def _of_parts(board: BoardState, seen: Seen, swapped: list[PartState]) -> list[Look]:
    items = {part.ref: part.swap.item for part in swapped if part.swap}
    wide = dict(CatalogueItem.objects.filter(part__in=items.values()).values_list("part", "diameter"))
    stands = [
        Stands(
            ref=part.ref,
            x=part.core.x,
            y=part.core.y,
            diameter=wide.get(items[part.ref]) if part.ref in items else part.core.diameter,
            angle=part.core.angle if part.standing.polar else None,
            empty=part.ref in items and part.is_out,
        )
        for part in board.parts
        if part.core.side == "parts" and part.core.x is not None and part.core.y is not None
    ]
    others = [
        (one.ref, one.x, one.y) for one in (*(d.device for d in board.devices), *board.chips) if one.x is not None
    ]
    return second_look(stands, [one for i, one in enumerate(seen.parts) if i not in seen.away], others)

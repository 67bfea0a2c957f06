"""Photos of before and after the work: of the unit, and board by board in pairs."""

from __future__ import annotations

from dataclasses import dataclass

from idlebench.core.prove.record import SWAP

from ..records.models import Photo
from .state import UnitState

#: Most photos that stand on a sheet beside the pairs.
PHOTOS = 60


@dataclass(frozen=True, kw_only=True)
class PhotoPair:
    """A board as it came and as it is: the first photo of it before the first swap, the last one after."""

    board: str
    before: Photo
    after: Photo


def before_and_after(state: UnitState, photos: list[Photo]) -> tuple[list[Photo], list[Photo]]:
    """Photos of before the first swap, and of after it."""
    first = next((event.at for _, event in state.recorded if event.kind == SWAP), None)
    early = [p for p in photos if first is None or p.at.timestamp() < first]
    return early, [p for p in photos if p not in early]


def photo_pairs(state: UnitState, photos: list[Photo]) -> list[PhotoPair]:
    """Of each board that was photographed whole both before and after, the pair."""
    before, after = ({p.board_id: p for p in order if whole(p)} for order in _ordered(*before_and_after(state, photos)))
    return [PhotoPair(board=before[pk].board.name, before=before[pk], after=after[pk]) for pk in before if pk in after]


def _ordered(before: list[Photo], after: list[Photo]) -> tuple[list[Photo], list[Photo]]:
    """Each so that the one that is meant comes last: the first of before, the last of after."""
    return sorted(before, key=lambda p: (p.at, p.pk), reverse=True), sorted(after, key=lambda p: (p.at, p.pk))


def whole(photo: Photo) -> bool:
    """Whether a photo shows a board and not a part, a spot or a step of it."""
    return (
        photo.board_id is not None
        and photo.part_id is None
        and photo.step_id is None
        and not photo.ref
        and photo.x is None
    )

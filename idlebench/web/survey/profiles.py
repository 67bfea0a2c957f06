"""Board profiles: what a board should carry, kept by its name, applied to the next unit's board."""

from __future__ import annotations

from functools import lru_cache

from django.utils import timezone

from idlebench.core.board.parts import Fitted
from idlebench.core.board.profile import Difference, Profile, bare, belongs, difference, read_profile, write_profile
from idlebench.core.refusal import BadInput
from idlebench.core.wording import many

from ..records.models import Board, BoardProfile
from ..unit.door import in_unit_transaction
from ..unit.log import log
from ..unit.series import save_part

#: Typed fields of a board that a profile carries.
LINES = ("rails", "chips", "zones", "others", "supply_model", "monitor_model")


def profile_for(board: Board) -> Profile | None:
    """The profile kept for a board's name."""
    row = BoardProfile.objects.filter(board__iexact=board.name).first()
    return _read(row.data) if row else None


@lru_cache(maxsize=64)
def _read(data: str) -> Profile:
    """A kept profile, read once."""
    return read_profile(data.encode())


def profile_of(board: Board) -> Profile:
    """What a board carries, as a profile: parts noted as missing count, for they should be there."""
    steps = tuple(step.text for step in board.unit.dismantling.all())
    return Profile(
        board=board.name,
        title=board.title,
        width=board.width,
        height=board.height,
        supply=board.supply,
        fuse=board.fuse,
        parts=tuple(bare(part.to_core()) for part in board.parts.all()),
        **{name: tuple(getattr(board, name).splitlines()) for name in LINES},
        steps=steps,
        source_volts=board.source_volts,
        source_va=board.source_va,
    )


def against(board: Board, parts: list[Fitted]) -> Difference | None:
    """A board against the profile kept for it; None where none is."""
    profile = profile_for(board)
    return difference(profile, parts) if profile else None


@in_unit_transaction("The board cannot be changed")
def save_profile(board: Board) -> None:
    """Keep what this board carries as the profile of its name.

    Raises:
        BadInput: nothing is listed on it yet.
    """
    if not board.parts.exists():
        raise BadInput("an empty board", "a board with its parts listed", "Survey it first.", field="profile")
    data = write_profile(profile_of(board))
    BoardProfile.objects.update_or_create(board=board.name, defaults={"data": data, "at": timezone.now()})
    log(board.unit, "survey", f"{board.name}: saved as the profile of its kind.")


@in_unit_transaction("The board cannot be changed")
def take_profile(board: Board, data: bytes) -> None:
    """Keep a profile that somebody handed over, for this board's name.

    Raises:
        BadInput: it cannot be read, or is for another board.
    """
    profile = read_profile(data)
    belongs(profile, board.name)
    BoardProfile.objects.update_or_create(
        board=board.name, defaults={"data": write_profile(profile), "at": timezone.now()}
    )
    log(board.unit, "survey", f"{board.name}: profile imported.")


@in_unit_transaction("The board cannot be changed")
def apply_profile(board: Board) -> int:
    """List what the profile knows and the board does not; what is listed stays as it is. Says how many parts were listed.

    Raises:
        BadInput: no profile is kept for this board.
    """
    from ..records.models import Part

    profile = profile_for(board)
    if profile is None:
        raise BadInput(board.name, "a board with a saved profile", "Save one from another unit first.", field="profile")
    listed = set(board.parts.values_list("ref", flat=True))
    new = [part for part in profile.parts if part.ref not in listed]
    if not listed:
        board.width, board.height = profile.width, profile.height
    for part in new:
        row = Part(board=board)
        row.take(part)
        save_part(row)
    for name in LINES:
        if not getattr(board, name):
            setattr(board, name, "\n".join(getattr(profile, name)))
    for name in ("title", "supply", "fuse"):
        if not getattr(board, name):
            setattr(board, name, getattr(profile, name))
    if board.source_volts is None:
        board.source_volts, board.source_va = profile.source_volts, profile.source_va
    if board.expected is None:
        board.expected = len(profile.parts)
    board.save()
    log(board.unit, "survey", f"{board.name}: profile applied, {many(len(new), 'part')} to check.")
    return len(new)

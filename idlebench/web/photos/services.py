"""Taking photos in, pinning them, laying them under a board. Each service is one transaction."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

from django.db import transaction
from django.utils import timezone

from idlebench.core.board.parts import SIDES
from idlebench.core.board.square_up import Point, square_up
from idlebench.core.refusal import BadInput

from ..records.models import Board, DismantleStep, Part, Photo, Underlay, Unit, folder
from ..unit.door import in_unit_transaction
from ..unit.log import log
from .files import keep, kept_or_gone
from .pictures import Picture, laid_flat, take_picture


@dataclass(frozen=True, kw_only=True)
class Pin:
    """What a photo is pinned to. ref: of a part that is no capacitor. x, y: mm on the board."""

    board: Board | None = None
    part: Part | None = None
    step: DismantleStep | None = None
    ref: str = ""
    x: float | None = None
    y: float | None = None


@kept_or_gone()
def take_photo(unit: Unit, data: bytes, name: str, pin: Pin = Pin(), words: str = "") -> tuple[Photo, tuple[str, ...]]:
    """Take a photo in; says what of the file was left out. The picture is made before the bench is locked for writing.

    Raises:
        BadInput: not a picture that can be taken. Blocked: the unit is handed over.
    """
    return _take(unit, take_picture(data, name), pin, words)


@in_unit_transaction("The photos are closed")
def _take(unit: Unit, picture: Picture, pin: Pin, words: str) -> tuple[Photo, tuple[str, ...]]:
    photo = Photo(
        unit=unit,
        board=pin.board,
        part=pin.part,
        step=pin.step,
        ref=pin.ref,
        x=pin.x,
        y=pin.y,
        words=words,
        file=f"{secrets.token_hex(12)}.jpg",
        width=picture.width,
        height=picture.height,
        at=timezone.now(),
    )
    keep(photo.path, picture.data)
    keep(photo.small, picture.small)
    photo.save()
    log(unit, "photo", f"Photo of {photo.pinned_to}{f': {words}' if words else ''}.")
    return photo, picture.left_out


@in_unit_transaction("The photos are closed")
def change_photo(photo: Photo, pin: Pin, words: str) -> None:
    """Give a photo other words, or pin it to something else."""
    photo.words, photo.board, photo.part, photo.step = words, pin.board, pin.part, pin.step
    photo.x, photo.y, photo.ref = pin.x, pin.y, pin.ref
    photo.save()


@in_unit_transaction("The photos are closed")
def remove(photo: Photo) -> None:
    """Put a photo away, or bring it back."""
    photo.removed = None if photo.removed else timezone.now()
    photo.save(update_fields=["removed"])
    log(photo.unit, "photo", f"Photo of {photo.pinned_to} {'deleted' if photo.removed else 'brought back'}.")


@kept_or_gone()
def lay_under(board: Board, side: str, photo: Photo, pixels: Sequence[Point], millimetres: Sequence[Point]) -> Underlay:
    """Square a photo up by four points and lay it under a side of a board.

    Raises:
        BadInput: a photo of another unit, or points that make no figure or lie off the photo or the board.
    """
    if photo.unit_id != board.unit_id or photo.removed:
        raise BadInput(str(photo), f"a photo of unit {board.unit.name}", field="photo")
    if side not in SIDES:
        raise BadInput(side, f"one of {', '.join(SIDES)}", field="side")
    for points, width, height, name in (
        (pixels, photo.width, photo.height, "photo"),
        (millimetres, board.width, board.height, "board"),
    ):
        for x, y in points:
            if not (-1 <= x <= width + 1 and -1 <= y <= height + 1):
                raise BadInput(
                    f"{x:g},{y:g}", f"a point on the {name}, {width:g} across and {height:g} down", field="points"
                )
    squared = square_up(pixels, millimetres)
    return _lay(
        board,
        side,
        photo,
        (pixels, millimetres),
        laid_flat(photo.path.read_bytes(), squared, board.width, board.height),
    )


@in_unit_transaction("The photos are closed")
def _lay(
    board: Board, side: str, photo: Photo, points: tuple[Sequence[Point], Sequence[Point]], flat: bytes
) -> Underlay:
    pixels, millimetres = points
    name = f"{secrets.token_hex(12)}.flat.jpg"
    keep(folder() / name, flat)
    old = board.underlays.filter(side=side).first()
    underlay, _ = Underlay.objects.update_or_create(
        board=board,
        side=side,
        defaults={"photo": photo, "pixels": list(pixels), "millimetres": list(millimetres), "file": name},
    )
    if old:
        transaction.on_commit(partial(_gone, old))
    log(board.unit, "photo", f"Photo squared up under {board.name}, {side} side.")
    return underlay


def _gone(underlay: Underlay) -> None:
    """A squared-up photo's files go: the picture, and what was found in it."""
    for path in (underlay.path, underlay.found_path):
        path.unlink(missing_ok=True)


@in_unit_transaction("The photos are closed")
def take_away(underlay: Underlay) -> None:
    """Take the photo from under a board; the photo itself stays."""
    log(underlay.board.unit, "photo", f"Photo taken from under {underlay.board.name}, {underlay.side} side.")
    transaction.on_commit(partial(_gone, underlay))
    underlay.delete()

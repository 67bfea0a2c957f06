"""The forms of the photos: what one is pinned to, its words, the four points."""

from __future__ import annotations

import re
from collections.abc import Mapping

from idlebench.core.board.square_up import Point
from idlebench.core.refusal import BadInput
from idlebench.core.text.quantity import read

from ..records.models import Board, Part, Unit
from ..ui.fields import words
from .services import Pin


def read_photo(unit: Unit, typed: Mapping[str, str]) -> tuple[Pin, str]:
    """What a photo is to be pinned to, and its words."""
    return read_pin(unit, typed), words(str(typed.get("words", "")), "words", "words", 200)


def read_pin(unit: Unit, typed: Mapping[str, str]) -> Pin:
    """What a photo is to be pinned to, from a form: ``to`` is unit, board:3, step:4, part:5 or device:3:R5; ``spot`` is x,y in mm.

    Raises:
        BadInput: not something of this unit, or a spot off the board.
    """
    kind, _, number = str(typed.get("to", "") or "unit").partition(":")
    if kind == "unit" and not number:
        return Pin()
    number, _, ref = number.partition(":")
    key = int(number) if re.fullmatch(r"\d{1,15}", number) else 0
    if kind == "step" and (step := unit.dismantling.filter(pk=key).first()):
        return Pin(step=step)
    if kind == "part" and (part := Part.objects.filter(board__unit=unit, pk=key).select_related("board").first()):
        return Pin(board=part.board, part=part)
    board = unit.boards.filter(pk=key).first() if kind == "device" else None
    if board is not None and any(line.split()[:1] == [ref] for line in board.others.splitlines()):
        return Pin(board=board, ref=ref)
    if kind == "board" and (board := unit.boards.filter(pk=key).first()):
        x, y = _spot(board, str(typed.get("spot", "")).strip())
        return Pin(board=board, x=x, y=y)
    raise BadInput(str(typed.get("to", ""))[:40], "the unit, or a step, board or part of it", field="to")


def _spot(board: Board, text: str) -> tuple[float | None, float | None]:
    if not text:
        return None, None
    x, _, y = text.partition(",")
    return (
        read(x, "mm", field="spot", low=0, high=board.width),
        read(y, "mm", field="spot", low=0, high=board.height),
    )


def read_points(text: str) -> list[Point]:
    """Four points as ``x,y x,y x,y x,y``.

    Raises:
        BadInput: not four pairs of numbers.
    """
    pairs = [pair.split(",") for pair in text.replace(";", " ").split()]
    if len(pairs) != 4 or any(len(pair) != 2 for pair in pairs):
        raise BadInput(text[:60], "four points, such as 0,0 240,0 240,168 0,168", field="points")
    return [
        (read(x, "", field="points", low=-1e5, high=1e5), read(y, "", field="points", low=-1e5, high=1e5))
        for x, y in pairs
    ]

"""The place in hand, three times as large: its pads, the old stripe and the new one, the pins of a regulator; mm on the board."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from ..board.devices import Device
from ..board.mends import leg
from ..board.parts import Capacitor, Fitted
from .board import MARGIN, Scene, Shape, device_size, shape_of

#: How many times larger than the whole board, and the least that is shown, mm.
TIMES, LEAST = 3.0, 32.0
#: How far beside a part its plus and minus are written, mm.
SIGN = 3.4
#: Pins of a three-legged part stand so far apart, mm.
PITCH = 2.54


@dataclass(frozen=True, kw_only=True)
class Pad:
    """A pad under a leg, mm, what is written of it, and where that stands: beside the part, where nothing covers it."""

    x: float
    y: float
    words: str
    text_x: float
    text_y: float


@dataclass(frozen=True, kw_only=True)
class Closeup:
    """What is drawn of the place in hand: the piece of the board, pads, the new part's outline turned as the old one's."""

    view_box: str
    x: float
    y: float
    angle: float
    pads: tuple[Pad, ...]
    new: Shape | None = None


def window(scene: Scene, x: float, y: float) -> str:
    """The piece of a board round a point that is drawn TIMES as large, mm; it stays on the board."""
    w, h = (max(LEAST, side / TIMES) for side in (scene.width, scene.board_h + 2 * MARGIN))
    left = min(max(x - w / 2, -MARGIN), max(scene.board_w + MARGIN - w, -MARGIN))
    top = min(max(y - h / 2, -MARGIN), max(scene.board_h + MARGIN - h, -MARGIN))
    return f"{left:g} {top:g} {w:g} {h:g}"


def closeup(scene: Scene, part: Fitted, new: Capacitor | None, mirror: float = 0.0) -> Closeup | None:
    """A capacitor's place. None where it has none on the board.

    Args:
        scene: what is drawn of the board.
        part: the part in its place.
        new: what goes in.
        mirror: the board's width where it is seen from the solder side, 0 where not.

    Returns:
        What is drawn; None where it has no place.
    """
    if part.x is None or part.y is None:
        return None
    plus, minus = leg(part, -1), leg(part, 1)
    x, angle = (mirror - part.x, (180 - part.angle) % 360) if mirror else (part.x, part.angle)
    drawn = shape_of(part)
    out = (drawn.r if drawn.round else drawn.w / 2) + SIGN
    turn, pads = math.radians(part.angle), []
    for (px, py), words, sign in ((plus, "+", -1), (minus, "−", 1)):
        tx, ty = part.x + sign * out * math.cos(turn), part.y + sign * out * math.sin(turn)
        px, tx = (mirror - px, mirror - tx) if mirror else (px, tx)
        pads.append(Pad(x=px, y=py, words=words if part.polar else "", text_x=tx, text_y=ty + 1.4))
    return Closeup(
        view_box=window(scene, x, part.y),
        x=x,
        y=part.y,
        angle=angle,
        pads=tuple(pads),
        new=shape_of(new) if new else None,
    )


def closeup_of(scene: Scene, device: Device, pins: Sequence[str], mirror: float = 0.0) -> Closeup | None:
    """The place of a part that is no capacitor, its pins named. None where it has no place.

    Args:
        scene: what is drawn of the board.
        device: a part that is no capacitor, as listed.
        pins: in order from the left, marking to the front.
        mirror: the board's width where it is seen from behind, mm, else 0.

    Returns:
        What is drawn; None where it has no place.
    """
    if device.x is None or device.y is None:
        return None
    x = mirror - device.x if mirror else device.x
    _, h = device_size(device)
    order = list(reversed(pins)) if mirror else list(pins)
    at = device.y + h / 2 + 1.2
    spread = max(PITCH, 9.0)
    spots = [x + (i - (len(order) - 1) / 2) * spread for i in range(len(order))]
    pads = [
        Pad(x=spot, y=at, words=words, text_x=spot, text_y=at + 3.6) for spot, words in zip(spots, order, strict=True)
    ]
    return Closeup(view_box=window(scene, x, device.y), x=x, y=device.y, angle=0.0, pads=tuple(pads))

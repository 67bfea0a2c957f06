"""Whether an outline in a photo is a box: a chip, a film part, a plug, a body with two leads.

Source: worked here from what a body shows from above: it fills a rectangle. Its sizes are those of parts on boards; how full a
rectangle must be was tried on made-up boards.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from .proposals import Found

#: Shortest and longest sides of a box that is a part, mm, and how much longer than wide it may be.
SHORTEST, LONGEST, SLIMMEST = 2.3, 90.0, 14.0
#: The longer side is this long at least, mm.
LEAST_LONG = 4.5
#: How much of its rectangle an outline fills, and of its own hull.
FULL, WHOLE = 0.84, 0.88
#: Turns of less than this are none, degrees: parts stand along a board's sides.
STRAIGHT = 4.0


@dataclass(frozen=True, kw_only=True)
class Outline:
    """An outline in mm: the middle, sides and turn of the smallest rectangle round it, its area, and its hull's area, mm²."""

    x: float
    y: float
    width: float
    height: float
    angle: float
    area: float
    hull: float


def box_of(outline: Outline) -> Found | None:
    """The box that an outline is, its longer side called its width, or None.

    >>> box = box_of(Outline(x=20.0, y=30.0, width=7.0, height=20.0, angle=1.0, area=138.0, hull=139.0))
    >>> box.as_json()["width"], box.as_json()["angle"]
    (20.0, 90.0)
    """
    width, height, angle = outline.width, outline.height, outline.angle
    if width < height:
        width, height, angle = height, width, angle + 90
    if not (height >= SHORTEST and LEAST_LONG <= width <= LONGEST and width <= SLIMMEST * height):
        return None
    full, whole = outline.area / (width * height), outline.area / max(outline.hull, 1e-9)
    if full < FULL or whole < WHOLE:
        return None
    angle %= 180
    nearest = 90.0 * round(angle / 90)
    if abs(angle - nearest) < STRAIGHT:
        angle = nearest % 180
    share = 1 / (1 + math.exp(-24 * (full - 0.87)))
    return Found(
        x=outline.x,
        y=outline.y,
        kind="box",
        share=share,
        width=width,
        height=height,
        angle=angle,
        top=(outline.x, outline.y),
    )


def free_of(boxes: Sequence[Found], cans: Sequence[Found]) -> list[Found]:
    """Boxes that are no part of a can: a can's side and its shadow fill a rectangle, too."""
    return [
        box
        for box in boxes
        if all(
            math.hypot(box.x - px, box.y - py) > 0.55 * (can.seen or 0.0) + 0.25 * (box.height or 0.0)
            for can in cans
            for px, py in ((can.x, can.y), can.top)
        )
    ]

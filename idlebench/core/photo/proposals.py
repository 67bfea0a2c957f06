"""What was found in a photo, as proposals: never a part until somebody says so.

Source: of things that overlap the larger whole one is the part; how sure a circle is follows from how much of its edge is seen, tried on
made-up boards.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from .can_sizes import SIZES, distance_of, foot_of, size_of
from .rings import Ring


@dataclass(frozen=True, kw_only=True)
class Found:
    """One thing in a photo: its foot in mm from the upper left corner, y downwards.

    kind: can or box. diameter: of a can, snapped to sizes that are made; other: the next likely one. seen: the diameter of its top as it
    looks. width, height, angle: of a box, degrees clockwise. stripe: degrees clockwise from the right, None where it is not seen. ref,
    text: what is printed beside it and on it, ref_share and text_share: how surely that was read. share: how sure it is that this is a
    part, 0 to 1. colour: L*a*b* of its sleeve or body. vent: its top's picture however it is turned. top: where its top is seen.
    """

    x: float
    y: float
    kind: str
    share: float
    diameter: float | None = None
    other: float | None = None
    seen: float | None = None
    width: float | None = None
    height: float | None = None
    angle: float = 0.0
    stripe: float | None = None
    ref: str | None = None
    text: str | None = None
    ref_share: float | None = None
    text_share: float | None = None
    colour: tuple[float, float, float] = (0.0, 0.0, 0.0)
    vent: tuple[float, ...] = ()
    top: tuple[float, float] = (0.0, 0.0)

    def as_json(self) -> dict[str, object]:
        """The keys that others rely on."""
        place: dict[str, object] = {"x": round(self.x, 2), "y": round(self.y, 2), "kind": self.kind}
        if self.kind == "can":
            place["diameter"] = self.diameter
        else:
            place |= {
                "width": round(self.width or 0.0, 1),
                "height": round(self.height or 0.0, 1),
                "angle": round(self.angle, 1),
            }
        stripe = None if self.stripe is None else round(self.stripe) % 360
        return place | {"stripe": stripe, "ref": self.ref, "text": self.text, "share": round(self.share, 2)}


def apart(rings: Iterable[Ring]) -> list[Ring]:
    """Circles that are things of their own: of two that lie in one another the one whose edge is seen better, a rim counting for it."""
    kept: list[Ring] = []
    for ring in sorted(rings, key=lambda r: -_weight(r)):
        if all(math.hypot(ring.x - k.x, ring.y - k.y) > _least_apart(ring.radius, k.radius) for k in kept):
            kept.append(ring)
    return kept


#: What a rough edge counts beside an even one.
ROUGH_COUNTS = 0.5


def _weight(ring: Ring) -> float:
    return ring.seen * min(ring.strength, 40.0) ** 0.3 * ring.radius**0.35 * (1.0 if ring.even else ROUGH_COUNTS)


def _least_apart(one: float, other: float) -> float:
    """Two cans do not stand nearer than this to one another; tops that lean over one another may overlap a little."""
    return 0.8 * (one + other)


def share_of(ring: Ring) -> float:
    """How sure a circle is a can, 0 to 1: by how much of its edge is seen, and how clearly."""
    score = 9.0 * (ring.seen - 0.74) + 0.09 * (min(ring.strength, 40.0) - 14.0)
    score += 1.0 * (ring.rim is not None) + 1.0 * (ring.stripe is not None)
    return 1 / (1 + math.exp(-score))


def cans(
    rings: Sequence[Ring], per_mm: float, size: tuple[float, float], distance: float | None = None
) -> tuple[list[Found], float, bool]:
    """Cans of the circles.

    Args:
        rings: circles in pixels.
        per_mm: pixels to the mm.
        size: width and height of the board, mm; the camera stood above its middle.
        distance: of the camera from the board, mm, where it is known.

    Returns:
        The cans; the distance that was reckoned with, mm; and whether it is known.
    """
    seen = [2 * ring.radius / per_mm for ring in rings]
    known = distance is not None
    if distance is None:
        distance, known = distance_of([wide for wide, ring in zip(seen, rings, strict=True) if share_of(ring) > 0.5])
    middle = size[0] / 2, size[1] / 2
    found = []
    for ring, wide in zip(rings, seen, strict=True):
        can = size_of(wide, distance)
        top = ring.x / per_mm, ring.y / per_mm
        x, y = foot_of(*top, can.height, middle, distance)
        found.append(
            Found(
                x=x,
                y=y,
                kind="can",
                share=share_of(ring),
                diameter=can.diameter,
                other=can.other,
                seen=wide,
                stripe=ring.stripe,
                colour=ring.colour,
                vent=ring.vent,
                top=top,
            )
        )
    return found, distance, known


#: The smallest and largest top that is looked for, mm across.
LEAST, MOST = SIZES[0] * 0.85, SIZES[-1] * 1.15

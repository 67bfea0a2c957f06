"""From how large a can's top looks to the can that stands there: its diameter, its height, and where its foot is.

Source: diameters and heights as radial electrolytics and surface cans are made; a top that stands h high under a camera at distance D
looks D ÷ (D − h) times as large, and as much further from the photo's middle. How sharply an edge is placed was tried on made-up boards.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..refusal import BadInput

#: Diameters that cans are made in, mm, and the heights each usually has.
HEIGHTS: dict[float, tuple[float, ...]] = {
    4.0: (5.4, 7.0), 5.0: (5.4, 11.0), 6.3: (5.4, 7.7, 11.0), 8.0: (10.2, 11.5, 15.0), 10.0: (10.2, 12.5, 16.0, 20.0), 12.5: (20.0, 25.0),
    16.0: (20.0, 25.0, 31.5), 18.0: (25.0, 31.5, 35.5, 40.0), 20.0: (25.0, 30.0, 40.0), 22.0: (25.0, 30.0, 40.0), 25.0: (30.0, 40.0, 50.0),
    30.0: (30.0, 40.0, 50.0), 35.0: (40.0, 50.0, 60.0), 40.0: (60.0, 80.0),
}  # fmt: skip
SIZES = tuple(HEIGHTS)
#: Distances of a camera that are tried, mm: as far as a photo taken straight down by hand is, and one of a scanner, without end.
DISTANCES = (*np.geomspace(220.0, 1500.0, 40).tolist(), math.inf)
#: The nearest a camera is said to be, mm; what is nearer than the tallest can sees none from above.
NEAREST = 120.0
#: A top's edge is placed this well, as a share of its diameter and in mm.
EDGE_SHARE, EDGE_MM = 0.012, 0.10
#: All edges of one photo may be seen further out together, by blur and by the cans' sides, mm: what is tried, what is usual, its spread.
OUT, OUT_USUAL, OUT_SPREAD = (-0.05, 0.0, 0.05, 0.1, 0.15), 0.05, 0.06
#: A distance is held to be known when it makes the sizes this much likelier than any far one does, in natural logarithms.
SURE = 1.5


@dataclass(frozen=True, kw_only=True)
class CanSize:
    """A can that would look so: diameter and height in mm, and how well it agrees, 1 at best. other: the next best diameter, mm."""

    diameter: float
    height: float
    agrees: float
    other: float | None = None


def larger(height: float, distance: float) -> float:
    """How many times as large a top that stands so high (mm) looks to a camera at a distance (mm).

    >>> round(16 * larger(25, 300), 2)
    17.45
    """
    return 1.0 if math.isinf(distance) else distance / (distance - height)


@lru_cache(maxsize=256)
def _tops(distance: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Diameters, heights, and how wide each of those tops looks, mm."""
    pairs = [(d, h) for d, heights in HEIGHTS.items() for h in heights if h < distance]
    d, h = (np.array(column) for column in zip(*pairs, strict=True))
    return d, h, d * (1.0 if math.isinf(distance) else distance / (distance - h))


def size_of(seen: float, distance: float) -> CanSize:
    """The can whose top looks so wide.

    Args:
        seen: the top's diameter in the squared-up photo, mm.
        distance: of the camera from the board, mm; infinite for a scanner.

    Returns:
        The likeliest can, and the next diameter where that is nearly as likely.

    >>> size_of(17.45, 300).diameter, size_of(18.0, math.inf).diameter
    (16.0, 18.0)
    """
    d, h, tops = _tops(distance)
    off = (tops - seen) / (EDGE_SHARE * seen + EDGE_MM)
    best = int(np.argmin(np.abs(off)))
    others = np.abs(off) + 99.0 * (d == d[best])
    second = int(np.argmin(others))
    near = others[second] < abs(off[best]) + 1.0
    return CanSize(
        diameter=float(d[best]),
        height=float(h[best]),
        agrees=float(np.exp(-0.5 * off[best] ** 2)),
        other=float(d[second]) if near else None,
    )


def distance_of(seen: Sequence[float]) -> tuple[float, bool]:
    """How far the camera was, by the cans themselves: at the right distance all tops agree with sizes that are made.

    Args:
        seen: diameters of the tops in the squared-up photo, mm.

    Returns:
        The likeliest distance in mm, infinite where none is likelier than a far one, and whether the cans settle it.

    >>> tops = [d * larger(h, 300) for d, h in ((5, 11), (8, 11.5), (10, 20), (16, 25), (12.5, 20), (18, 35.5))]
    >>> distance, known = distance_of(tops)
    >>> 250 < distance < 360, known
    (True, True)
    """
    if not seen:
        return math.inf, False
    tops = np.asarray(seen, dtype=float)
    out = np.array(OUT)
    scores = []
    for distance in DISTANCES:
        _, _, looks = _tops(distance)
        off = (looks[:, None, None] + out[:, None] - tops) / (EDGE_SHARE * tops + EDGE_MM)
        # a few tops are seen wrongly: none of them may decide alone
        each = np.log(np.exp(-0.5 * off**2).sum(axis=0) / looks.size + 1e-3).sum(axis=1)
        scores.append(float((each - 0.5 * ((out - OUT_USUAL) / OUT_SPREAD) ** 2).max()))
    best = int(np.argmax(scores))
    known = len(seen) >= 2 and scores[best] - scores[-1] >= SURE
    return (DISTANCES[best] if known else math.inf), known


def foot_of(x: float, y: float, height: float, middle: tuple[float, float], distance: float) -> tuple[float, float]:
    """Where a can stands whose top is seen at x, y mm: nearer to the photo's middle, which the camera was above."""
    share = 1 / larger(height, distance)
    return middle[0] + (x - middle[0]) * share, middle[1] + (y - middle[1]) * share


def asked_distance(distance: float) -> float:
    """A camera's distance as typed.

    Args:
        distance: from the board, mm.

    Returns:
        The same.

    Raises:
        BadInput: nearer than any camera is that sees a board from above.
    """
    if not distance >= NEAREST:
        raise BadInput(
            f"{distance:g} mm", f"the camera's distance from the board, {NEAREST:g} mm or more", field="distance"
        )
    return distance

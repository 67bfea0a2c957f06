"""The bevels of a surface can's base: two of its corners are cut, on the plus side.

Source: worked here from what a base shows from above: a square a little wider than the can, whose corners stand out beyond it; where two
corners of one side are cut the board is seen. The limits were tried on made-up boards.
"""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from .rings import ANGLES, Ring, unrolled

#: Where corners are looked for, as shares of the can's radius: whole ones reach to 1.45, cut ones to 1.2.
FROM, TO = 1.26, 1.36
#: How far a corner's colour must be from the board's beside it, and from a cut one's (L*a*b*).
STEP = 12.0
#: The two whole corners are of one colour, within this.
ONE_COLOUR = 16.0
#: How many directions a corner takes, each way from its middle.
WIDE = 1


def bevels(image: np.ndarray, x: float, y: float, radius: float) -> float | None:
    """Where the bevels of a base point, from a can's middle.

    Args:
        image: L*a*b* of the photo; rows, columns, channels.
        x: the can's middle, its column in pixels.
        y: the same, its row.
        radius: of the can, pixels.

    Returns:
        Degrees clockwise from the right, the plus side; None where no base with two bevels is seen.
    """
    seen = np.median(unrolled(image, x, y, np.linspace(FROM, TO, 4) * radius), axis=1)
    quarter = ANGLES // 4
    best, found = STEP, None
    for turn in range(ANGLES):
        # the two cut corners lie an eighth of a turn either way from where they point
        at = [turn + quarter // 2 + k * quarter for k in range(4)]
        corners = [np.median(seen[(a + np.arange(-WIDE, WIDE + 1)) % ANGLES], axis=0) for a in at]
        sides = [seen[(turn + k * quarter) % ANGLES] for k in range(4)]
        board = np.median(np.array(sides), axis=0)
        off = [float(np.linalg.norm(corner - board)) for corner in corners]
        whole, cut = (1, 2), (0, 3)
        step = min(off[i] for i in whole) - max(max(off[i] for i in cut), _spread(sides))
        if step > best and float(np.linalg.norm(corners[1] - corners[2])) < ONE_COLOUR:
            best, found = step, turn
    return None if found is None else found * 360 / ANGLES


def _spread(sides: list[np.ndarray]) -> float:
    """How much the board itself differs between the sides: a shadow lies over one of them."""
    middle = np.median(np.array(sides), axis=0)
    return max(float(np.linalg.norm(side - middle)) for side in sides)


def with_bevels(image: np.ndarray, ring: Ring) -> Ring:
    """The same circle with its minus side told by the bevels of its base, where no stripe tells it.

    Args:
        image: L*a*b* of the photo, as for `rings.look`.
        ring: a circle that was found in it.

    Returns:
        The circle; the minus side lies across from the bevels.
    """
    if ring.stripe is not None:
        return ring
    points = bevels(image, ring.x, ring.y, ring.radius)
    return ring if points is None else replace(ring, stripe=math.fmod(points + 180, 360))

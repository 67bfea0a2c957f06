"""What a can's top looks like however it is turned: the vent's arms, and whether two tops have the same.

Source: worked here from what turning leaves as it is: of the picture along a circle, how much of it comes so many times round. Three
lines that cross give six times round, two give four; the limits were tried on made-up boards.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from .rings import unrolled

#: Times round that are looked at. Once and twice round is how light falls, three times is noise.
ROUND = (4, 5, 6, 7, 8, 10, 12)
#: Where they are looked for, as shares of the top's radius, and in how many steps.
FROM, TO, STEPS = 0.28, 0.58, 9
#: A picture that stands out by less than this (L*) is a plain top.
PLAIN = 1.0
#: Two pictures are alike from this share on.
ALIKE = 0.8


def turned(image: np.ndarray, x: float, y: float, radius: float) -> tuple[float, ...]:
    """How much of a top's picture comes so many times round.

    Args:
        image: L*a*b* of the photo; rows, columns, channels.
        x: the top's middle, its column in pixels.
        y: the same, its row.
        radius: of the top, pixels.

    Returns:
        The amplitude (L*) at each of `ROUND`; the same however the top is turned.
    """
    seen = unrolled(image, x, y, np.linspace(FROM, TO, STEPS) * radius)[..., 0]
    # what shines is seen in few directions: it counts no more than what is usual
    middle = np.median(seen, axis=0)
    seen = np.clip(seen - middle, -20.0, 6.0)
    amplitudes = np.abs(np.fft.rfft(seen, axis=0)) * (2 / len(seen))
    return tuple(round(float(amplitudes[times].mean()), 2) for times in ROUND)


def same_top(one: Sequence[float], other: Sequence[float]) -> bool:
    """Whether two tops have the same picture; what is not known, or stands out too little, speaks against nothing.

    >>> cross, star = (5.0, 0, 1, 0, 3.0, 0, 1), (1.0, 0, 5.0, 0, 1, 0, 3.0)
    >>> same_top(cross, cross), same_top(cross, star), same_top(cross, ())
    (True, False, True)
    """
    if not one or not other:
        return True
    a, b = math.hypot(*one), math.hypot(*other)
    if min(a, b) < PLAIN:
        return max(a, b) < 2 * PLAIN
    return sum(u * v for u, v in zip(one, other, strict=True)) >= ALIKE * a * b

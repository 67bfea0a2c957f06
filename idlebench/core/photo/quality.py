"""Whether a photo is good enough to find parts in: large enough, sharp, lit.

Source: an edge blurred by a lens rises as a bell curve's sum, so its steepest slope tells its width; how much of each fault the finding
bears was tried on made-up boards.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..refusal import BadInput

#: Fewest pixels to the mm, and how much fewer are let pass for a photo's rounded size.
FEWEST, ROUNDED = 8.0, 0.98
#: An edge may be blurred over this much, mm, as a bell curve's width counts.
BLURRED = 0.4
#: The median lightness, L*, below which a photo is too dark; and the share of it that may be white without drawing.
DARK, GLARE = 16.0, 0.12
#: A photo's own shape and the board's may differ so much.
SHAPE = 0.12


@dataclass(frozen=True, kw_only=True)
class Quality:
    """What a photo is like: its pixels across and down, pixels to the mm either way, how far its edges are blurred (mm), its median
    lightness (L*, 0 to 100), and the share of it that is white all over."""

    across: int
    down: int
    per_mm: tuple[float, float]
    blurred: float
    lightness: float
    white: float


def checked_size(across: int, down: int, width: float, height: float) -> tuple[float, float]:
    """Pixels to the mm, across and down, of a photo of a board.

    Args:
        across: pixels of the photo from left to right.
        down: pixels from top to bottom.
        width: of the board, mm.
        height: of the board, mm.

    Returns:
        Pixels to the mm, across and down.

    Raises:
        BadInput: too coarse to find parts in, or of another shape than the board.

    >>> checked_size(1440, 960, 180, 120)
    (8.0, 8.0)
    """
    per_mm = across / width, down / height
    if min(per_mm) < FEWEST * ROUNDED:
        raise BadInput(
            f"{across} × {down} pixels, {min(per_mm):.1f} pixels to the mm",
            f"{FEWEST:g} pixels to the mm or more: {math.ceil(width * FEWEST)} × {math.ceil(height * FEWEST)} pixels",
            "Take the photo from nearer, or one half of the board at a time.",
            field="photo",
        )
    if max(per_mm) / min(per_mm) > 1 + SHAPE:
        raise BadInput(
            f"a photo {across / down:.2f} times as wide as high",
            f"one squared up to the board's edges, {width / height:.2f} times as wide as high",
            "Square the photo up, or turn it, or correct the board's size.",
            field="mm",
        )
    return per_mm


def blur_of(slope: float, contrast: float) -> float:
    """How far an edge is blurred, in pixels, by its steepest slope (levels a pixel) and the step it makes (levels).

    >>> round(blur_of(39.9, 100.0), 2)
    1.0
    """
    return contrast / (max(slope, 1e-9) * math.sqrt(2 * math.pi))


def good_enough(quality: Quality) -> None:
    """Take a photo, or say what to do.

    Args:
        quality: what it is like.

    Raises:
        BadInput: too dark, white over much of it, or blurred.
    """
    if quality.lightness < DARK:
        raise BadInput(
            f"a dark photo, {quality.lightness:.0f} of 100 bright", f"{DARK:g} or more",
            "More light, from two sides, and no flash.", field="photo",
        )  # fmt: skip
    if quality.white > GLARE:
        raise BadInput(
            f"{quality.white:.0%} of the photo white with glare", f"at most {GLARE:.0%}",
            "Light from the sides, or through paper; no flash.", field="photo",
        )  # fmt: skip
    if quality.blurred > BLURRED:
        raise BadInput(
            f"a photo blurred over {quality.blurred:.1f} mm", f"edges within {BLURRED:g} mm",
            "Hold the camera still or rest it, and let it focus on the board.", field="photo",
        )  # fmt: skip

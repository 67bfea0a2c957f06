"""A photo squared up to a board by four points: from pixels to millimetres through a plane perspective.

Source: the projective map of a plane, solved from four pairs of points (direct linear transform).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..refusal import BadInput

Point = tuple[float, float]

#: A picture is laid under a board with this many pixels to a millimetre, and no more than this many across.
PIXELS_PER_MM, MOST_PIXELS = 8.0, 2400


@dataclass(frozen=True)
class Squared:
    """A photo's map. coefficients: a … h, so that (ax + by + c)/(gx + hy + 1) is the photo's pixel column for a point
    x, y in mm on the board, and (dx + ey + f)/(gx + hy + 1) its row."""

    coefficients: tuple[float, ...]

    def pixel(self, x: float, y: float) -> Point:
        """Where a point of the board (mm) lies in the photo."""
        a, b, c, d, e, f, g, h = self.coefficients
        below = g * x + h * y + 1
        return (a * x + b * y + c) / below, (d * x + e * y + f) / below

    def scaled(self, pixels_per_mm: float) -> tuple[float, ...]:
        """The map from the pixels of a picture with that scale to the pixels of the photo."""
        a, b, c, d, e, f, g, h = self.coefficients
        s = pixels_per_mm
        return (a / s, b / s, c, d / s, e / s, f, g / s, h / s)


def square_up(pixels: Sequence[Point], millimetres: Sequence[Point]) -> Squared:
    """Solve the map from four points marked in the photo and the same four on the board.

    Args:
        pixels: four points in the photo, going round the board.
        millimetres: the same on the board.

    Returns:
        The map from pixels to millimetres, and how far it is off.

    Raises:
        BadInput: the lines between the points cross, three lie in a line, or two are one.

    >>> s = square_up([(0, 0), (800, 0), (800, 400), (0, 400)], [(0, 0), (80, 0), (80, 40), (0, 40)])
    >>> [round(v, 6) for v in s.pixel(40, 10)]
    [400.0, 100.0]
    """
    if len(pixels) != 4 or len(millimetres) != 4:
        raise BadInput(f"{len(pixels)} points", "four points", "Mark the four corners in turn.", field="points")
    for name, points in (("photo", pixels), ("board", millimetres)):
        _check(points, name)
    if _area(pixels) * _area(millimetres) < 0:
        raise BadInput(
            "points that go round the other way",
            "the same turn in the photo and on the board",
            "A photo of the other side is mirrored: mark the corners as you see them from there.",
            field="points",
        )
    rows, right = [], []
    for (u, v), (x, y) in zip(pixels, millimetres, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
        right += [u, v]
    solved = np.linalg.solve(np.array(rows, dtype=float), np.array(right, dtype=float))
    return Squared(tuple(float(c) for c in solved))


def _area(points: Sequence[Point]) -> float:
    """Signed area of a polygon."""
    turned = [*points[1:], points[0]]
    return sum(x1 * y2 - x2 * y1 for (x1, y1), (x2, y2) in zip(points, turned, strict=True)) / 2


def _check(points: Sequence[Point], name: str) -> None:
    """Refuse four points that are no plain four-sided figure."""
    if not all(math.isfinite(v) for point in points for v in point):
        raise BadInput(str(points)[:60], "numbers", field="points")
    scale = max(math.dist(a, b) for a in points for b in points) or 1.0
    if min(math.dist(points[i], points[j]) for i in range(4) for j in range(i)) < 0.02 * scale:
        raise BadInput(
            "two points in one place", f"four corners apart in the {name}", "Move them apart.", field="points"
        )
    turns = []
    for i in range(4):
        (x0, y0), (x1, y1), (x2, y2) = points[i], points[(i + 1) % 4], points[(i + 2) % 4]
        turns.append(((x1 - x0) * (y2 - y1) - (y1 - y0) * (x2 - x1)) / scale**2)
    if min(abs(t) for t in turns) < 0.005:
        raise BadInput(
            "three points in a line", f"four corners in the {name}", "Move one off the line.", field="points"
        )
    if sum(t > 0 for t in turns) == 2:
        raise BadInput(
            "lines that cross",
            f"four points in turn round the {name}: upper left, upper right, lower right, lower left",
            "Two of them are swapped.",
            field="points",
        )
    if sum(t > 0 for t in turns) in (1, 3):
        raise BadInput(
            "a corner that points inwards",
            f"four corners of a board in the {name}",
            "Move the corner that lies inside the other three.",
            field="points",
        )


def picture_size(width: float, height: float) -> tuple[int, int, float]:
    """Pixels across, pixels down and pixels to the mm of the picture laid under a board of that size (mm)."""
    scale = min(PIXELS_PER_MM, MOST_PIXELS / max(width, height))
    return max(1, round(width * scale)), max(1, round(height * scale)), scale


#: The four corners in the order they are marked, and which way the board lies from each.
CORNERS = (("upper left", 1, 1), ("upper right", -1, 1), ("lower right", -1, -1), ("lower left", 1, -1))


def corner_marks(width: float) -> dict[str, object]:
    """How the corners are drawn on a photo that many pixels wide: the radius of a handle, large enough for a finger, the
    height of its number, and each corner's name with the place of the number beside it."""
    handle = max(6, round(width / 45))
    names = [(name, round(1.7 * handle * x), round(1.7 * handle * y)) for name, x, y in CORNERS]
    return {"handle": handle, "handle_text": 2 * handle, "corner_names": names}

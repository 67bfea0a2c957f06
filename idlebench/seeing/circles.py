"""Circles in a photo of a board, by OpenCV's gradient Hough transform, each then looked at by the core."""

from __future__ import annotations

import math
from dataclasses import replace

import cv2
import numpy as np

from idlebench.core.photo.bevels import with_bevels
from idlebench.core.photo.likeness import turned
from idlebench.core.photo.proposals import LEAST, MOST, apart
from idlebench.core.photo.rings import Ring, look, with_stripe

#: Rings of radii that are looked for in one go: each this many times as large as it begins.
BAND = 1.5
#: How round an edge must be, from 0 to 1, and how strong.
ROUND, STRONG = 0.55, 140.0
#: The same of rougher circles, and how many of them are looked at in each ring of sizes.
ROUGH_VOTES, ROUGH_STRONG, ROUGH_MOST = 26.0, 90.0, 60


def lab(photo: np.ndarray) -> np.ndarray:
    """L*a*b* of a photo (blue, green, red bytes) as floats, a little smoothed."""
    smooth = cv2.GaussianBlur(photo, (0, 0), 1.0)
    return cv2.cvtColor(smooth.astype(np.float32) / 255, cv2.COLOR_BGR2LAB)


def circles(photo: np.ndarray, per_mm: float) -> list[Ring]:
    """The circles that may be tops of cans, of photo at so many pixels to the mm."""
    seen = lab(photo)
    grey = cv2.cvtColor(cv2.medianBlur(photo, 3), cv2.COLOR_BGR2GRAY)
    grey = cv2.GaussianBlur(grey, (0, 0), 1.2)
    made, rough = [], []
    radius = LEAST * per_mm / 2
    while radius < min(MOST * per_mm / 2, min(grey.shape) / 2):
        most = radius * BAND
        made += _hough(grey, radius, most, cv2.HOUGH_GRADIENT_ALT, STRONG, ROUND)
        rough += _hough(grey, radius, most, cv2.HOUGH_GRADIENT, ROUGH_STRONG, ROUGH_VOTES)[:ROUGH_MOST]
        radius = most
    rings: list[Ring] = []
    for x, y, r in made:
        # the transform offers a clear circle several times over
        if not any(abs(x - k.x) + abs(y - k.y) < 0.15 * k.radius and 0.7 < r / k.radius < 1.3 for k in rings):
            _added(rings, look(seen, x, y, r), per_mm)
    rings = apart(rings)
    for x, y, r in rough:
        if not any(math.hypot(x - k.x, y - k.y) < 0.9 * max(k.radius, r) for k in rings):
            _added(rings, look(seen, x, y, r) or look(seen, x, y, r, rough=True), per_mm)
    return [
        replace(with_bevels(seen, with_stripe(seen, ring)), vent=turned(seen, ring.x, ring.y, ring.radius))
        for ring in apart(rings)
    ]


def _added(rings: list[Ring], ring: Ring | None, per_mm: float) -> None:
    """Keep a circle that may be a can by its size."""
    if ring is not None and LEAST <= 2 * ring.radius / per_mm <= MOST:
        rings.append(ring)


def _hough(
    grey: np.ndarray, least: float, most: float, method: int, strong: float, votes: float
) -> list[tuple[float, float, float]]:
    """Circles of radii from least to most. Large ones are looked for in a smaller picture: their edge has pixels enough."""
    small = min(1.0, 22.0 / least)
    if small < 1.0:
        grey = cv2.resize(grey, None, fx=small, fy=small, interpolation=cv2.INTER_AREA)
    found = cv2.HoughCircles(
        grey,
        method,
        dp=1.5,
        minDist=max(4.0, 0.5 * least * small),
        param1=strong,
        param2=votes,
        minRadius=max(3, int(0.9 * least * small)),
        maxRadius=int(1.1 * most * small) + 1,
    )
    if found is None:
        return []
    return [
        (float(x) / small, float(y) / small, float(r) / small) for x, y, r in found.reshape(-1, found.shape[-1])[:, :3]
    ]

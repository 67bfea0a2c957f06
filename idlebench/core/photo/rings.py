"""Whether a circle in a photo is the top of a can: its edge all round, its rim, and the stripe on it.

Source: worked here from what a can shows from above: a rim all round, a sleeve's ring inside it of one colour but for the stripe's sector,
no hole in its middle. The limits were tried on made-up boards and on a real photograph of coins.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

#: How many directions are looked in from a middle.
ANGLES = 72
#: How far out, as shares of the radius that is tried, and in how many steps.
INNER, OUTER, STEPS = 0.35, 1.55, 97
#: A step in colour that is an edge, as lightness and colour together are counted (CIE L*a*b*, about 2 is the least an eye sees).
EDGE = 7.0
#: Share of directions in which a can's edge must be seen; and a rim outside of a stronger one.
SEEN, RIM_SEEN = 0.62, 0.42
#: The same of a rim that is seen at its stripe alone.
RIM_AT_STRIPE = 0.15
#: How far an edge may wander from a circle, in steps: a made can's, and a rough one's, which must stand out all round.
EVEN, ROUGH, ALL_ROUND = 3, 7, 0.9
#: Edges this near one another, in pixels, are one.
NEARBY = 0.8
#: A sleeve's ring is so wide at most: its outer edge over its inner one.
RIM = (1.07, 1.34)
#: The width of a stripe's sector, degrees, and how far its colour must be from the ring's.
STRIPE, STRIPE_STEP = (36, 48, 60, 72, 90, 110), 16.0
#: Darker than this in the middle, with an edge round it well inside, is a hole (L*), and where that edge is.
HOLE, HOLE_EDGE = 28.0, 0.72
#: Black itself (L*), in a bright land, is the hole alone.
BLACK = 10.0


@dataclass(frozen=True, kw_only=True)
class Ring:
    """A circle that may be a can's top: middle and radius in pixels, the share of directions in which its edge is seen, how strong that
    edge is (L*a*b*), the stripe in degrees clockwise from the right, whether its edge is even, and its top's picture as `likeness.turned`
    gives it."""

    x: float
    y: float
    radius: float
    seen: float
    strength: float
    stripe: float | None = None
    rim: float | None = None
    even: bool = True
    colour: tuple[float, float, float] = (0.0, 0.0, 0.0)
    vent: tuple[float, ...] = ()


def sampled(image: np.ndarray, xs: np.ndarray, ys: np.ndarray) -> np.ndarray:
    """An image (rows, columns, channels) at fractional places, between its pixels; beyond its edge the edge goes on."""
    down, across = image.shape[:2]
    xs, ys = np.clip(xs, 0, across - 1.001), np.clip(ys, 0, down - 1.001)
    x, y = xs.astype(np.intp), ys.astype(np.intp)
    u, v = (xs - x)[..., None], (ys - y)[..., None]
    upper = image[y, x] * (1 - u) + image[y, x + 1] * u
    lower = image[y + 1, x] * (1 - u) + image[y + 1, x + 1] * u
    return upper * (1 - v) + lower * v


_TURN = np.arange(ANGLES) * (2 * math.pi / ANGLES)
_COS, _SIN = np.cos(_TURN)[:, None], np.sin(_TURN)[:, None]


def unrolled(image: np.ndarray, x: float, y: float, radii: np.ndarray) -> np.ndarray:
    """What is seen round a middle: directions × radii × channels."""
    return sampled(image, x + _COS * radii[None, :], y + _SIN * radii[None, :])


def _nearest(image: np.ndarray, x: float, y: float, radii: np.ndarray) -> np.ndarray:
    """The same by the nearest pixels, which is quicker and enough while a circle is still being moved."""
    down, across = image.shape[:2]
    columns = np.clip(x + _COS * radii[None, :] + 0.5, 0, across - 1).astype(np.intp)
    rows = np.clip(y + _SIN * radii[None, :] + 0.5, 0, down - 1).astype(np.intp)
    return image.reshape(-1, image.shape[2]).take(rows * across + columns, axis=0)


def look(image: np.ndarray, x: float, y: float, radius: float, *, rough: bool = False) -> Ring | None:
    """Look at one circle and say whether it may be a can's top.

    Args:
        image: L*a*b* of the photo as floats, a little smoothed; rows, columns, channels.
        x: its middle's column in pixels.
        y: its middle's row in pixels.
        radius: about how large it is, pixels.
        rough: whether its edge may wander; then it must stand out all round.

    Returns:
        The circle as its edge fits it, or None where there is no can.
    """
    settled = _settled(image, x, y, radius, ROUGH if rough else EVEN)
    if settled is None or (rough and not _stands_out(image, *settled)):
        return None
    x, y, radius = settled
    radii = np.linspace(INNER, OUTER, STEPS) * radius
    rolled = unrolled(image, x, y, radii)
    edges = _edges(rolled, radii)
    near_by = _supported(edges, max(1, round(NEARBY / (radii[1] - radii[0]))))
    rim = _rim(near_by, radii, radius)
    if rim is None and not rough:
        rim = _rim_by_stripe(near_by, rolled, radii, radius)
    if rim is not None:
        fitted = _fitted(edges, radii, rim, x, y, 4)
        if fitted is not None and math.hypot(fitted[0] - x, fitted[1] - y) < 0.12 * radius:
            x, y, radius = fitted
            radii = np.linspace(INNER, OUTER, STEPS) * radius
            edges = _edges(unrolled(image, x, y, radii), radii)
    rolled = unrolled(image, x, y, radii)
    seen = _supported(edges, ROUGH if rough else 2)
    at = int(np.argmin(np.abs(radii - radius)))
    near = slice(max(0, at - 3), at + 4)
    if float(seen[near].max()) < (SEEN if rim is None else RIM_AT_STRIPE) or _is_hole(rolled, seen, radii, radius):
        return None
    inner = _inner_edge(seen, radii, radius)
    disc = unrolled(image, x, y, np.linspace(0.1, 0.7, 7) * radius).reshape(-1, 3)
    inside = seen[int(np.argmin(np.abs(radii - inner * radius)))] if inner else 0.0
    return Ring(
        x=x,
        y=y,
        radius=radius,
        seen=float(max(seen[near].max(), inside)),
        strength=float(np.median(edges[:, near].max(axis=1))),
        rim=inner,
        even=not rough,
        colour=tuple(np.median(disc, axis=0).tolist()),
    )


def _settled(image: np.ndarray, x: float, y: float, radius: float, reach: int) -> tuple[float, float, float] | None:
    """The circle through the strongest edge near by, moved until it stays; None where too little of it is seen."""
    for _ in range(4):
        radii = np.linspace(INNER, OUTER, STEPS) * radius
        edges = _edges(_nearest(image, x, y, radii), radii)
        seen = _supported(edges, reach)
        best = int(np.argmax(np.where(radii <= radii[-1] * 0.93, seen, 0)))
        fitted = _fitted(edges, radii, best, x, y, reach + 1) if seen[best] >= SEEN else None
        if fitted is None or math.hypot(fitted[0] - x, fitted[1] - y) > 0.35 * radius:
            return None
        still = math.hypot(fitted[0] - x, fitted[1] - y) < 0.3 and abs(fitted[2] - radius) < 0.3
        x, y, radius = fitted
        if still:
            break
    return x, y, radius


def _stands_out(image: np.ndarray, x: float, y: float, radius: float) -> bool:
    """Whether what lies inside is of another colour than what lies outside, and of the same other one in nearly every direction."""
    inside = unrolled(image, x, y, np.linspace(0.62, 0.88, 6) * radius).mean(axis=1)
    outside = unrolled(image, x, y, np.linspace(1.12, 1.3, 4) * radius).mean(axis=1)
    step = inside - outside
    mean = step.mean(axis=0)
    length = float(np.linalg.norm(mean))
    return length >= EDGE and float(((step @ mean) / length > EDGE / 2).mean()) >= ALL_ROUND


def with_stripe(image: np.ndarray, ring: Ring) -> Ring:
    """The same circle with the stripe that its rim shows.

    Args:
        image: L*a*b* of the photo, as for `look`.
        ring: a circle that was found in it.

    Returns:
        The circle with its sleeve's colour; its stripe stays None where no sector of the rim has a colour of its own.
    """
    radii = np.linspace(max(ring.rim or 0.84, 0.8) + 0.03, 0.97, 6) * ring.radius
    seen = unrolled(image, ring.x, ring.y, radii)
    sleeve = tuple(np.median(seen.reshape(-1, seen.shape[2]), axis=0).tolist())
    return replace(ring, stripe=_stripe(seen), colour=sleeve)


def _edges(rolled: np.ndarray, radii: np.ndarray) -> np.ndarray:
    """How much the colour steps at each direction and radius, over about two pixels either way; only where it is the most near by."""
    reach = max(1, round(1.6 / (radii[1] - radii[0])))
    step = np.zeros(rolled.shape[:2])
    over = rolled[:, 2 * reach :] - rolled[:, : -2 * reach]
    step[:, reach:-reach] = np.sqrt(np.einsum("ijk,ijk->ij", over, over))
    # thin out: what is not the most within its reach is the slope of a neighbour
    most = step.copy()
    for shift in range(1, reach + 1):
        most[:, shift:] = np.maximum(most[:, shift:], step[:, :-shift])
        most[:, :-shift] = np.maximum(most[:, :-shift], step[:, shift:])
    return np.where(step >= most, step, 0.0)


def _supported(edges: np.ndarray, reach: int) -> np.ndarray:
    """Share of directions with an edge within so many steps of each radius: a middle that is a little off is allowed for."""
    there = edges >= EDGE
    wide = there.copy()
    for shift in range(1, reach + 1):
        wide[:, shift:] |= there[:, :-shift]
        wide[:, :-shift] |= there[:, shift:]
    return wide.mean(axis=0)


def _rim(seen: np.ndarray, radii: np.ndarray, radius: float) -> int | None:
    """The step of a rim outside of the strongest edge, where there is one: the can's own edge, its sleeve's ring lying between."""
    outside = np.where((radii >= radius * RIM[0]) & (radii <= radius * RIM[1]), seen, 0)
    top = int(np.argmax(outside))
    own = int(np.argmin(np.abs(radii - radius)))
    return top if outside[top] >= RIM_SEEN and seen[own:top].min() < outside[top] - 0.08 else None


def _rim_by_stripe(seen: np.ndarray, rolled: np.ndarray, radii: np.ndarray, radius: float) -> int | None:
    """The step of a rim that is seen at its stripe alone: a sleeve of the board's colour has no edge elsewhere."""
    if _inner_edge(seen, radii, radius) is not None:
        return None
    outside = np.where((radii >= radius * 1.12) & (radii <= radius * RIM[1]), seen, 0)
    top = int(np.argmax(outside))
    ring = (radii > radius * 1.06) & (radii < radii[top] * 0.96)
    if outside[top] < RIM_AT_STRIPE or ring.sum() < 3 or seen[ring].min() > outside[top] / 2:
        return None
    return top if _stripe(rolled[:, ring]) is not None else None


def _fitted(
    edges: np.ndarray, radii: np.ndarray, at: int, x: float, y: float, reach: int
) -> tuple[float, float, float] | None:
    """The circle through the edge's points near a step: least squares, the worst fifth left out."""
    near = edges[:, max(0, at - reach) : at + reach + 1]
    where = near.argmax(axis=1)
    there = near.max(axis=1) >= EDGE
    if there.sum() < ANGLES // 4:
        return None
    r = radii[max(0, at - reach) + where[there]]
    px, py = x + _COS[there, 0] * r, y + _SIN[there, 0] * r
    for _ in range(2):
        a = np.column_stack((2 * px, 2 * py, np.ones(len(px))))
        (cx, cy, c), *_ = np.linalg.lstsq(a, px * px + py * py, rcond=None)
        radius = math.sqrt(max(c + cx * cx + cy * cy, 0.0))
        off = np.abs(np.hypot(px - cx, py - cy) - radius)
        good = off <= max(np.quantile(off, 0.8), 0.5)
        px, py = px[good], py[good]
    return float(cx), float(cy), radius


def _inner_edge(seen: np.ndarray, radii: np.ndarray, radius: float) -> float | None:
    """The ring's inner edge as a share of the radius, where one is seen all round."""
    inside = (radii >= radius / RIM[1]) & (radii <= radius / RIM[0])
    part = np.where(inside, seen, 0)
    best = int(np.argmax(part))
    return float(radii[best] / radius) if part[best] >= SEEN else None


def _is_hole(rolled: np.ndarray, seen: np.ndarray, radii: np.ndarray, radius: float) -> bool:
    """Whether this is a land round a hole: dark in the middle, an edge all round well inside, brighter between."""
    inside = (radii > 0.38 * radius) & (radii < HOLE_EDGE * radius)
    middle = float(np.median(rolled[:, :3, 0]))
    beside = float(np.median(rolled[:, (radii > 1.1 * radius) & (radii < 1.3 * radius), 0]))
    if middle < BLACK and beside > middle + 40:
        return True
    land = float(np.median(rolled[:, (radii > 0.78 * radius) & (radii < 0.92 * radius), 0]))
    return middle < HOLE and land > middle + 20 and float(seen[inside].max(initial=0)) >= SEEN


def _stripe(ring: np.ndarray) -> float | None:
    """The middle of the sector of another colour on a ring, degrees clockwise from the right; None where there is none."""
    colour = np.median(ring, axis=1)
    best: float = 0.0
    found: tuple[int, int, np.ndarray, np.ndarray] | None = None
    for wide in STRIPE:
        n = round(wide * ANGLES / 360)
        index = (np.arange(ANGLES)[:, None] + np.arange(n)[None, :]) % ANGLES
        inside = np.median(colour[index], axis=1)
        outside_at = (np.arange(ANGLES)[:, None] + n + 1 + np.arange(ANGLES - n - 2)[None, :]) % ANGLES
        outside = np.median(colour[outside_at], axis=1)
        step = np.linalg.norm(inside - outside, axis=1)
        # of one colour inside, of one colour outside
        rough = np.linalg.norm(colour[index] - inside[:, None], axis=2)
        rest = np.linalg.norm(colour[outside_at] - outside[:, None], axis=2)
        clear = step - 0.9 * np.quantile(rough, 0.75, axis=1) - 0.9 * np.quantile(rest, 0.85, axis=1)
        top = int(np.argmax(clear))
        if clear[top] > best + 0.5:
            best, found = float(clear[top]), (top, n, inside[top], outside[top])
    if found is None or best < STRIPE_STEP:
        return None
    top, n, pale, dark = found
    # its middle is that of all directions near by that are more of its colour than of the ring's
    at = (top + np.arange(-4, n + 4)) % ANGLES
    its = at[np.linalg.norm(colour[at] - pale, axis=1) < np.linalg.norm(colour[at] - dark, axis=1)]
    turn = its * (2 * math.pi / ANGLES)
    return math.degrees(math.atan2(np.sin(turn).sum(), np.cos(turn).sum())) % 360

"""Solder between two near pads, in a photo of the solder side: what to look at, never a finding.

Source: worked here from what a bridge is: from one joint to the other everything is of the solder's colour and not of the board's. How
much of the way must be, and how near two pads are, was tried on made-up boards.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from ..board.mends import leg
from ..board.parts import ON_PADS, Fitted
from .rings import sampled

#: Pads whose middles are this near may be bridged, mm.
NEAR = 5.2
#: A joint's colour is taken within so many mm of its middle; a bridge may run this far beside the straight way.
JOINT, BESIDE = 0.55, 0.5
#: Solder differs from the board by this at least (L*a*b*), else a photo cannot tell.
TELLS = 14.0
#: All of the way is nearer to the solder's colour than to the board's: this share of the difference, at its worst place.
BRIDGED = 0.72
#: The board's own colour is the median within so many mm.
AROUND = 7.0


@dataclass(frozen=True)
class Pad:
    """A leg's joint: its part, plus or minus, its place in mm as the side it is on is seen, and its net, "" where that is not known."""

    ref: str
    sign: str
    x: float
    y: float
    net: str = ""

    @property
    def words(self) -> str:
        """How it is called."""
        return f"{self.ref} {self.sign}"


def pads_of(parts: Iterable[Fitted], width: float) -> list[Pad]:
    """The joints on the solder side of the parts that stand on the other, as that side is seen.

    Args:
        parts: capacitors; those on surface pads, or without a place, have none there.
        width: of the board, mm: the solder side is seen mirrored.

    Returns:
        Two for each.
    """
    placed = (part for part in parts if part.x is not None and part.y is not None)
    there = [part for part in placed if part.side == "parts" and part.mounting not in ON_PADS]
    return [
        Pad(part.ref, sign, width - x, y, _net(part, sign))
        for part in there
        for sign, (x, y) in (("plus", leg(part, -1)), ("minus", leg(part, 1)))
    ]


def _net(part: Fitted, sign: str) -> str:
    """What a leg is joined to: its rail, or 0 V on the other leg of a part that stands on one."""
    negative = part.rail.startswith(("-", "−"))
    return "" if not part.rail else part.rail if (sign == "minus") == negative else "0 V"


def near_pairs(pads: Sequence[Pad], touched: Iterable[str]) -> list[tuple[Pad, Pad]]:
    """Pads that stand near one another, of which one was worked on; not those of one net.

    Args:
        pads: all of a side.
        touched: references of the parts that were swapped.

    Returns:
        The pairs, nearest first.
    """
    hands = set(touched)
    near = [
        (math.hypot(a.x - b.x, a.y - b.y), a, b)
        for a, b in combinations(pads, 2)
        if (a.ref in hands or b.ref in hands) and not (a.net and a.net == b.net)
    ]
    return [(a, b) for far, a, b in sorted(near, key=lambda one: one[0]) if 0 < far <= NEAR]


def bridged(image: np.ndarray, scale: float, one: Pad, other: Pad) -> float:
    """How much of the way between two joints is of solder, at its worst place.

    Args:
        image: L*a*b* of the photo of that side as floats; rows, columns, channels.
        scale: pixels to the mm.
        one: a joint.
        other: another.

    Returns:
        0 to 1; 0 where the photo cannot tell solder from the board.
    """
    far = math.hypot(other.x - one.x, other.y - one.y)
    along = (other.x - one.x) / far, (other.y - one.y) / far
    solder = np.median(np.concatenate([_round(image, scale, pad, JOINT) for pad in (one, other)]), axis=0)
    ground = np.median(np.concatenate([_round(image, scale, pad, AROUND) for pad in (one, other)]), axis=0)
    step = solder - ground
    if float(np.linalg.norm(step)) < TELLS:
        return 0.0
    way, beside = np.meshgrid(np.arange(0, far, 0.1), np.linspace(-BESIDE, BESIDE, 7), indexing="ij")
    x = one.x + along[0] * way - along[1] * beside
    y = one.y + along[1] * way + along[0] * beside
    seen = sampled(image, x * scale, y * scale)
    # along the line from the board's colour to the solder's; what shines more than solder is solder
    share = np.clip(((seen - ground) @ step) / float(step @ step), 0.0, 1.0)
    off = np.linalg.norm(seen - ground - share[..., None] * step, axis=2) / float(np.linalg.norm(step))
    return float(np.clip(share - 0.6 * off, 0.0, 1.0).max(axis=1).min())


def _round(image: np.ndarray, scale: float, pad: Pad, reach: float) -> np.ndarray:
    """What is seen within so many mm of a joint."""
    ways = np.linspace(-reach, reach, 25)
    x, y = np.meshgrid(pad.x + ways, pad.y + ways)
    inside = np.hypot(x - pad.x, y - pad.y) <= reach
    return sampled(image, x[inside] * scale, y[inside] * scale)


def joined(image: np.ndarray, scale: float, pairs: Iterable[tuple[Pad, Pad]]) -> list[tuple[Pad, Pad]]:
    """Of some pairs those that solder seems to join.

    Args:
        image: L*a*b* of the photo of that side as floats; rows, columns, channels.
        scale: pixels to the mm.
        pairs: of joints that stand near one another.

    Returns:
        The pairs to look at.
    """
    return [pair for pair in pairs if bridged(image, scale, *pair) >= BRIDGED]

"""Where on a board the bad parts stand together, and what is hot there.

Source: workshop practice, because how far one leaking part reaches depends on the board: a hand's width is looked at.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from ..board.parts import Fitted
from ..board.zones import Zone
from ..text.quantity import show
from .verdict import DOUBTFUL, REPLACE

#: What a part weighs by its verdict, and how far it reaches, mm.
WEIGHT = {REPLACE: 1.0, DOUBTFUL: 0.5}
REACH = 18.0
#: Spacing of the dots, mm, and the sum from which a place is called a cluster.
GRID, CLUSTER = 8.0, 1.5
SIDES = ("left", "middle", "right"), ("upper", "middle", "lower")


@dataclass(frozen=True)
class Dot:
    """A dot of the map: x, y, its radius in mm (the more there is, the larger) and whether it is part of a cluster."""

    x: float
    y: float
    r: float
    cluster: bool


@dataclass(frozen=True)
class HeatMap:
    """Dots to draw and the words for them, the worst area first."""

    dots: tuple[Dot, ...]
    said: tuple[str, ...]


def heat_map(width: float, height: float, judged: Sequence[tuple[Fitted, str]], zones: Sequence[Zone] = ()) -> HeatMap:
    """Where verdicts cluster on a board of width × height mm.

    Args:
        width: mm.
        height: mm; None where nobody measured it.
        judged: parts with their place, and the name of their verdict.
        zones: heat sources are named with the areas.

    Returns:
        Spots in mm and how hot, with sentences for them.
    """
    bad = [(p.x, p.y, WEIGHT[name]) for p, name in judged if name in WEIGHT and p.x is not None and p.y is not None]
    dots = []
    for i in range(max(1, int(width // GRID))):
        for j in range(max(1, int(height // GRID))):
            x, y = (i + 0.5) * GRID, (j + 0.5) * GRID
            total = sum(w * math.exp(-((x - px) ** 2 + (y - py) ** 2) / REACH**2) for px, py, w in bad)
            if total >= 0.3:
                dots.append(Dot(x, y, round(min(0.8 + 1.3 * total, 3.8), 2), total >= CLUSTER))
    return HeatMap(tuple(dots), _words(width, height, judged, zones))


def _words(width: float, height: float, judged: Sequence[tuple[Fitted, str]], zones: Sequence[Zone]) -> tuple[str, ...]:
    """Ninths of the board with bad parts, the worst first, and what is hot in each."""
    areas: dict[tuple[int, int], list[tuple[Fitted, str]]] = {}
    for part, name in judged:
        if part.x is not None and part.y is not None:
            key = (min(int(3 * part.x / width), 2), min(int(3 * part.y / height), 2))
            areas.setdefault(key, []).append((part, name))
    said = []
    for (i, j), found in sorted(areas.items(), key=lambda item: -sum(WEIGHT.get(n, 0) for _, n in item[1])):
        bad = [p.ref for p, name in found if name in WEIGHT]
        if not bad:
            continue
        title = "middle" if i == j == 1 else f"{SIDES[1][j]} {SIDES[0][i]}"
        text = (
            f"{title}: {len(bad)} of {len(found)} bad or doubtful ({', '.join(bad[:6])}{' …' if len(bad) > 6 else ''})"
        )
        hot = [p.ambient for p, _ in found if p.ambient is not None]
        sources = [
            z.label or "heat source" for z in zones if z.temperature and any(z.holds(p.x, p.y) for p, _ in found)
        ]
        if hot:
            text += f", up to {show(max(hot), '°C')}" + (f" at {sources[0]}" if sources else "")
        said.append(text)
    return tuple(said)

"""What is wrong with a picture, drawn: small tube faces made from a description, so that a sign is chosen by what is seen.

A face is 120 by 90. A sound picture is a grid of lines; each sign says where a point of it goes, and what comes on top.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache

WIDTH, HEIGHT = 120.0, 90.0
#: The picture on the face, and lines of its grid across and down; points that a line is drawn through.
LEFT, TOP, ACROSS, DOWN = 14.0, 12.0, 92.0, 66.0
UPRIGHT, LEVEL, POINTS = 7, 5, 24

Where = Callable[[float, float], tuple[float, float]]


@dataclass(frozen=True)
class Stroke:
    """A line of a drawing. look: beam, faint, bright, ghost, blurred, dark, retrace or word."""

    d: str
    look: str = "beam"


@dataclass(frozen=True)
class Word:
    """A letter on a drawing, where a line alone would not tell."""

    x: float
    y: float
    text: str


@dataclass(frozen=True)
class Face:
    """A drawn sign. says: what is to be seen, for those who cannot see it."""

    sign: str
    says: str
    strokes: tuple[Stroke, ...]
    words: tuple[Word, ...] = ()


def _at(u: float, v: float) -> tuple[float, float]:
    return LEFT + u * ACROSS, TOP + v * DOWN


def _path(points: Sequence[tuple[float, float]]) -> str:
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points)


def _grid(where: Where, look: str = "beam") -> list[Stroke]:
    """The lines of a picture, each point of it put where the fault puts it."""
    along = [i / (POINTS - 1) for i in range(POINTS)]
    lines = [[(i / (UPRIGHT - 1), t) for t in along] for i in range(UPRIGHT)]
    lines += [[(t, i / (LEVEL - 1)) for t in along] for i in range(LEVEL)]
    return [Stroke(_path([_at(*where(u, v)) for u, v in line]), look) for line in lines]


def _same(u: float, v: float) -> tuple[float, float]:
    return u, v


def _scaled(share: float) -> Where:
    return lambda u, v: (0.5 + (u - 0.5) * share, 0.5 + (v - 0.5) * share)


def _line(u1: float, v1: float, u2: float, v2: float, look: str) -> Stroke:
    return Stroke(_path([_at(u1, v1), _at(u2, v2)]), look)


def _box(u1: float, v1: float, u2: float, v2: float, look: str) -> Stroke:
    corners = [_at(u1, v1), _at(u2, v1), _at(u2, v2), _at(u1, v2)]
    return Stroke(_path(corners) + "Z", look)


def _no_bottom(u: float, v: float) -> tuple[float, float]:
    return u, v if v < 0.4 else 0.4 + (v - 0.4) * 0.3


def _folded(u: float, v: float) -> tuple[float, float]:
    return u, v if v > 0.25 else 0.25 + (0.25 - v) * 0.7


def _wavy(u: float, v: float) -> tuple[float, float]:
    return u + 0.05 * math.sin(4 * math.pi * v), v


def _leaning(u: float, v: float) -> tuple[float, float]:
    return 0.5 + (u - 0.5) * 0.8 + 0.22 * (0.5 - v), v


def _arrows() -> list[Stroke]:
    return [
        Stroke("M8 45H18M8 45l4-3M8 45l4 3", "bright"), Stroke("M112 45H102M112 45l-4-3M112 45l-4 3", "bright"),
        Stroke("M60 6V15M60 6l-3 4M60 6l3 4", "bright"), Stroke("M60 84V75M60 84l-3-4M60 84l3-4", "bright"),
    ]  # fmt: skip


def _colours() -> tuple[list[Stroke], tuple[Word, ...]]:
    strokes, words = [], []
    for i, letter in enumerate("RGB"):
        u1, u2 = i / 3 + 0.02, (i + 1) / 3 - 0.02
        strokes.append(_box(u1, 0.1, u2, 0.9, "ghost" if letter == "G" else "beam"))
        x, y = _at((u1 + u2) / 2, 0.5)
        words.append(Word(x, y, letter))
        if letter == "G":
            strokes += [_line(u1, 0.1, u2, 0.9, "dark"), _line(u2, 0.1, u1, 0.9, "dark")]
    return strokes, tuple(words)


def _made() -> dict[str, Face]:
    colours, letters = _colours()
    faces = (
        Face("one bright line across", "the whole picture is one bright line from left to right",
             (_line(0, 0.5, 1, 0.5, "bright"),)),
        Face("one bright line upright", "the whole picture is one bright line from top to bottom",
             (_line(0.5, 0, 0.5, 1, "bright"),)),
        Face("no height at the bottom", "upper half as it should be, lower half pressed together and black below it",
             tuple(_grid(_no_bottom))),
        Face("foldover", "the top of the picture is folded over as a bright band",
             (*_grid(_folded), _box(0, 0.25, 1, 0.42, "folded"))),
        Face("picture small", "the whole picture too small, black all round it", tuple(_grid(_scaled(0.55)))),
        Face("picture breathes", "the picture grows and shrinks: a smaller and a larger one, with arrows outward",
             (*_grid(_scaled(0.7)), _box(-0.05, -0.06, 1.05, 1.06, "ghost"), *_arrows())),
        Face("picture shakes", "the picture seen twice, side by side",
             (*_grid(_same), *_grid(lambda u, v: (u + 0.05, v + 0.03), "ghost"))),
        Face("wavy edges", "upright lines bent into waves, both edges alike", tuple(_grid(_wavy))),
        Face("hum bar", "a broad dark bar across the picture", (*_grid(_same), _box(-0.02, 0.36, 1.02, 0.62, "bar"))),
        Face("dim", "the whole picture hardly to be seen", tuple(_grid(_same, "faint"))),
        Face("one colour missing", "red and blue are there, green is crossed out", tuple(colours), letters),
        Face("retrace lines", "thin slanting lines over the whole picture",
             (*_grid(_same, "faint"), *(_line(1, 0.05 + 0.16 * i, 0, -0.02 + 0.16 * i, "retrace") for i in range(7)))),
        Face("out of focus", "lines broad and soft", tuple(_grid(_same, "blurred"))),
        Face("leaning", "the picture leans: its top is further right than its foot", tuple(_grid(_leaning))),
        Face("stripes", "thin upright stripes, each as far from the next",
             (_box(0, 0, 1, 1, "faint"), *(_line(0.04 + i * 0.115, 0, 0.04 + i * 0.115, 1, "bright") for i in range(9)))),
    )  # fmt: skip
    return {face.sign: face for face in faces}


@lru_cache(maxsize=1)
def faces() -> dict[str, Face]:
    """Every drawn sign, by its word."""
    return _made()


#: Test pictures, with their titles.
PATTERNS = {
    "crosshatch": "crosshatch: geometry and linearity",
    "dots": "dots: focus",
    "grey": "grey steps: brightness range",
    "circles": "circles: geometry",
    "stripes": "stripes of one pixel: focus and the picture amplifier",
}


@dataclass(frozen=True, kw_only=True)
class Pattern:
    """A test picture on black, 1600 by 1200. lines: SVG paths; dots, circles: x, y, r; steps: x, width, share of white."""

    name: str
    title: str
    lines: tuple[str, ...] = ()
    dots: tuple[tuple[float, float, float], ...] = ()
    circles: tuple[tuple[float, float, float], ...] = ()
    steps: tuple[tuple[float, float, float], ...] = ()


def pattern(name: str) -> Pattern:
    """A test picture. KeyError for a name that is none."""
    title = PATTERNS[name]
    across, down = range(0, 1601, 100), range(0, 1201, 100)
    if name == "crosshatch":
        return Pattern(
            name=name, title=title, lines=tuple([f"M{x} 0V1200" for x in across] + [f"M0 {y}H1600" for y in down])
        )
    if name == "dots":
        return Pattern(
            name=name, title=title, dots=tuple((x + 50.0, y + 50.0, 3.0) for x in across[:-1] for y in down[:-1])
        )
    if name == "circles":
        corners = tuple((x, y, 180.0) for x in (200.0, 1400.0) for y in (200.0, 1000.0))
        return Pattern(
            name=name,
            title=title,
            lines=("M800 0V1200", "M0 600H1600"),
            circles=((800.0, 600.0, 560.0), (800.0, 600.0, 280.0), *corners),
        )
    if name == "grey":
        return Pattern(name=name, title=title, steps=tuple((i * 160.0, 160.0, i / 9) for i in range(10)))
    return Pattern(name=name, title=title, lines=tuple(f"M{x} 0V1200" for x in range(0, 1601, 8)))

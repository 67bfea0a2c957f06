"""Where things are drawn: boards, parts, side views, bars and gauges, worked out in millimetres or percent.

Templates only place what stands here; they do no arithmetic.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from .choose.need import Need
from .choose.rank import BARS, Candidate, Reason
from .lines import Chip
from .parts import Capacitor, Fitted, polarity_mark
from .quantity import show
from .triage import DONOR_FROM, REPAIR_UP_TO, Estimate
from .zones import Zone

#: Size drawn where none is known, mm.
UNKNOWN_SIZE = 6.0
#: Room round the board and height of the tray for parts without a place, mm.
MARGIN, TRAY = 4.0, 16.0


@dataclass(frozen=True)
class Shape:
    """A part seen from above, in its own coordinates (mm), minus side to the right.

    round: whether it is a circle of radius r, else a box of w × h. mark: SVG path of its polarity mark, "" if it has none.
    """

    round: bool
    r: float
    w: float
    h: float
    mark: str

    @property
    def half_w(self) -> float:
        return self.w / 2

    @property
    def half_h(self) -> float:
        return self.h / 2


def shape_of(part: Fitted | Capacitor) -> Shape:
    """The outline of a part from above with its polarity mark drawn by its kind."""
    diameter = part.diameter or UNKNOWN_SIZE
    mark = polarity_mark(part.kind, part.mounting, part.bipolar)
    if part.mounting == "axial":
        length = part.height or 2 * diameter
        return Shape(False, 0.0, length, diameter, _band(length, diameter, mark.side))
    if part.kind in ("film", "paper", "ceramic"):
        return Shape(False, 0.0, diameter, max(diameter * 0.45, 2.5), "")
    if part.kind == "tantalum" and part.mounting == "chip":
        return Shape(False, 0.0, diameter, diameter * 0.6, _band(diameter, diameter * 0.6, mark.side))
    radius = diameter / 2
    return Shape(True, radius, diameter, diameter, _segment(radius, mark.side))


def _segment(r: float, side: str) -> str:
    """The stripe of a round can as a segment of its circle."""
    if side == "none":
        return ""
    x = r * 0.42 * (1 if side == "negative" else -1)
    y = math.sqrt(r * r - x * x)
    sweep = 1 if side == "negative" else 0
    return f"M{x:.2f} {-y:.2f}A{r:.2f} {r:.2f} 0 0 {sweep} {x:.2f} {y:.2f}Z"


def _band(length: float, width: float, side: str) -> str:
    if side == "none":
        return ""
    near = length / 2 - length * 0.18 if side == "negative" else -length / 2
    return f"M{near:.2f} {-width / 2:.2f}h{length * 0.18:.2f}v{width:.2f}h{-length * 0.18:.2f}Z"


@dataclass(frozen=True)
class Drawn:
    """A part on the board picture. x, y, angle as surveyed or in the tray; label_y: mm below its middle; ghost: it stands
    on the other side."""

    ref: str
    x: float
    y: float
    angle: float
    shape: Shape
    placed: bool
    label_y: float
    halo: float
    ghost: bool = False

    @property
    def glyph(self) -> float:
        """Half the size of the sign drawn on it, mm."""
        return round(min(max(min(self.shape.w, self.shape.h) * 0.24, 1.2), 3.2), 2)

    @property
    def cross(self) -> str:
        """The cross of a part to replace, as a path."""
        g = self.glyph
        return f"M{-g} {-g}L{g} {g}M{-g} {g}L{g} {-g}"

    @property
    def bar(self) -> str:
        """The bar of a doubtful part, as a path."""
        return f"M0 {-self.glyph}V{self.glyph}"


@dataclass(frozen=True)
class DrawnChip:
    """A chip on the board picture: its rectangle, its notch and its words, mm."""

    ref: str
    label: str
    x: float
    y: float
    w: float
    h: float
    cx: float
    cy: float
    upright: bool


@dataclass(frozen=True)
class DrawnZone:
    """A zone on the board picture, mm: its rectangle, its kind and its words."""

    kind: str
    x: float
    y: float
    w: float
    h: float
    title: str
    text_x: float
    text_y: float


@dataclass(frozen=True)
class Scene:
    """The board picture: its size with margin and tray (mm), parts and chips."""

    width: float
    height: float
    board_w: float
    board_h: float
    margin: float
    tray_y: float
    tray_h: float
    holes: tuple[tuple[float, float], ...]
    parts: tuple[Drawn, ...]
    chips: tuple[DrawnChip, ...]
    zones: tuple[DrawnZone, ...] = ()

    @property
    def view_box(self) -> str:
        m = self.margin
        return f"{-m:g} {-m:g} {self.width:g} {self.height:g}"


def board_scene(
    width: float,
    height: float,
    parts: Sequence[Fitted],
    chips: Iterable[Chip] = (),
    zones: Iterable[Zone] = (),
    side: str = "parts",
) -> Scene:
    """Lay a board out: width × height in mm; parts without a place wait in a tray under it.

    Seen from the solder side everything is mirrored, and what stands on the other side is a ghost.
    """
    drawn, waiting = [], []
    for part in parts:
        (drawn if part.x is not None and part.y is not None else waiting).append(part)
    turned = side == "solder"
    placed = [_placed(p, width, side) for p in drawn]
    tray, x, y = [], 2.0, height + MARGIN + 3.0
    for part in waiting:
        half = max(shape_of(part).w, 8.0) / 2
        if x + 2 * half > width:
            x, y = 2.0, y + TRAY
        tray.append(_drawn(part, x + half, y + TRAY / 2 - 3.5, False))
        x += 2 * half + 2.5
    tray_h = (y + TRAY - height - MARGIN) if waiting else 0.0
    boxes = tuple(_chip(c, width if turned else 0.0) for c in chips if c.x is not None and c.y is not None)
    fields = tuple(_zone(z, width if turned else 0.0) for z in zones)
    inset = 5.0
    holes = tuple((hx, hy) for hx in (inset, width - inset) for hy in (inset, height - inset))
    total = height + 2 * MARGIN + (tray_h + MARGIN if waiting else 0)
    return Scene(
        width + 2 * MARGIN,
        total,
        width,
        height,
        MARGIN,
        height + MARGIN,
        tray_h,
        holes,
        tuple(placed + tray),
        boxes,
        fields,
    )


def _drawn(part: Fitted, x: float, y: float, placed: bool, angle: float | None = None, ghost: bool = False) -> Drawn:
    shape = shape_of(part)
    angle = part.angle if angle is None else angle
    tall = shape.r if shape.round else max(shape.h, abs(math.sin(math.radians(angle))) * shape.w) / 2
    return Drawn(part.ref, x, y, angle, shape, placed, tall + 4.6, max(shape.w, shape.h) / 2 + 1.1, ghost)


def _placed(part: Fitted, width: float, side: str) -> Drawn:
    """A placed part as that side shows it."""
    x, angle = (width - part.x, (180 - part.angle) % 360) if side == "solder" else (part.x, part.angle)
    return _drawn(part, x, part.y, True, angle, part.side != side)


def _zone(zone: Zone, mirror: float) -> DrawnZone:
    left = mirror - zone.left - zone.width if mirror else zone.left
    return DrawnZone(
        zone.kind, left, zone.top, zone.width, zone.height, zone.title, left + 1.5, zone.top + zone.height - 1.5
    )


def _chip(chip: Chip, mirror: float = 0.0) -> DrawnChip:
    middle = mirror - chip.x if mirror else chip.x
    return DrawnChip(
        chip.ref,
        chip.label,
        middle - chip.width / 2,
        chip.y - chip.height / 2,
        chip.width,
        chip.height,
        middle,
        chip.y,
        chip.height > chip.width * 1.3,
    )


@dataclass(frozen=True)
class SideView:
    """Old and new part from the side, standing on the board under the lid; mm, y downwards from the top of the view."""

    width: float
    height: float
    board_y: float
    lid_y: float | None
    old: tuple[float, float, float, float] | None
    new: tuple[float, float, float, float]
    leads: tuple[tuple[float, float, float], ...]
    words: str
    bends: tuple[str, ...] = ()

    @property
    def view_box(self) -> str:
        return f"0 0 {self.width:g} {self.height:g}"


#: How far a lead runs on before it is bent down, mm.
RUN_ON = 2.0


def _bends(part: Capacitor, lying: bool, left: float, top: float, w: float, h: float, board: float) -> tuple[str, ...]:
    """Leads that are bent on their way to the board, as paths: of parts that lie, and of an axial part that stands."""
    if not lying and part.mounting != "axial":
        return ()
    if not lying:
        return (
            f"M{left + w / 2:g} {top:g}v{-RUN_ON:g}h{w / 2 + RUN_ON:g}V{board + 3:g}",
            f"M{left + w / 2:g} {board:g}v3",
        )
    middle = top + h / 2
    right = f"M{left + w:g} {middle:g}h{RUN_ON:g}V{board + 3:g}"
    if part.mounting == "axial":
        return (f"M{left:g} {middle:g}h{-RUN_ON:g}V{board + 3:g}", right)
    return (right, f"M{left + w:g} {middle + h / 4:g}h{RUN_ON / 2:g}V{board + 3:g}")


def side_view(need: Need, part: Capacitor, tallest: float | None = None) -> SideView:
    """Draw a candidate in its place. All candidates of one place get the same scale by sharing ``tallest``."""
    old = need.old
    lying = old.mounting in ("axial", "chip") and part.mounting in ("radial", "axial")
    new_w, new_h = (part.height, part.diameter) if lying else (part.diameter, part.height)
    old_lies = old.mounting == "axial"
    old_w, old_h = (old.height, old.diameter) if old_lies else (old.diameter, old.height)
    wide = max(new_w, old_w or 0, need.diameter or 0, 10.0) + 8
    high = max(new_h, old_h or 0, need.lid or 0, tallest or 0) + 4
    wide = max(wide, high * 0.9)
    board = high
    middle = wide / 2
    pitch = need.pitch or part.pitch or new_w * 0.4
    leads = tuple((middle + s * part.pitch / 2, board, middle + s * pitch / 2) for s in (-1, 1))
    if lying or part.mounting == "axial":
        leads = ()
    bends = _bends(part, lying, middle - new_w / 2, board - new_h, new_w, new_h, board)
    words = f"new {new_w:g} × {new_h:g} mm"
    if old_w and old_h:
        words += f", old {old_w:g} × {old_h:g} mm"
    if need.lid:
        words += f", room under the lid {need.lid:g} mm"
    return SideView(
        wide,
        high + 5,
        board,
        board - need.lid if need.lid else None,
        (middle - old_w / 2, board - old_h, old_w, old_h) if old_w and old_h else None,
        (middle - new_w / 2, board - new_h, new_w, new_h),
        leads,
        words,
        bends,
    )


@dataclass(frozen=True)
class Outline:
    """A part in a row of side views: its box in mm, its leads' feet, its name under it and its verdict's shape."""

    x: float
    y: float
    w: float
    h: float
    middle: float
    name: str
    lies: bool


@dataclass(frozen=True)
class Lineup:
    """Old part and candidates from the side, to one scale, standing on one board under the lid; mm."""

    width: float
    height: float
    board_y: float
    lid_y: float | None
    lid: float | None
    outlines: tuple[Outline, ...]
    words: str

    @property
    def view_box(self) -> str:
        return f"0 0 {self.width:g} {self.height:g}"


#: Air between two parts of a line-up, mm, and the least width each has for its name.
BETWEEN, LEAST = 6.0, 24.0


def lineup(need: Need, parts: Sequence[Capacitor]) -> Lineup:
    """The old part and up to three candidates beside each other under the lid."""
    drawn = [
        ("old", *_lying(need.old.mounting, need.old.diameter or UNKNOWN_SIZE, need.old.height or UNKNOWN_SIZE, False))
    ]
    for i, part in enumerate(parts, 1):
        flat = need.old.mounting in ("axial", "chip") and part.mounting in ("radial", "axial")
        drawn.append((str(i), *_lying(part.mounting, part.diameter, part.height, flat)))
    board = max(max(h for _, _, h, _ in drawn), need.lid or 0.0) + 4
    outlines, x = [], 4.0
    for name, w, h, lies in drawn:
        room = max(w, LEAST)
        outlines.append(Outline(x + (room - w) / 2, board - h, w, h, x + room / 2, name, lies))
        x += room + BETWEEN
    words = "; ".join(f"{name} {w:g} × {h:g} mm" for name, w, h, _ in drawn)
    lid = board - need.lid if need.lid else None
    return Lineup(x, board + 8, board, lid, need.lid, tuple(outlines), f"To one scale: {words}")


def _lying(mounting: str, diameter: float, height: float, flat: bool) -> tuple[float, float, bool]:
    lies = flat or mounting == "axial"
    return (height, diameter, True) if lies else (diameter, height, False)


@dataclass(frozen=True)
class Bar:
    """A margin bar in percent of its length: how far it is filled, where the limit ticks, and the number shown."""

    title: str
    fill: float
    tick: float | None
    shown: str
    words: str
    status: int


def bar(reason: Reason) -> Bar:
    """A margin bar for a reason that has a number."""
    value, limit = reason.value or 0.0, reason.limit or 0.0
    scale = max(value * 1.1, limit * 1.8) or 1.0
    shown = show(value, reason.unit)
    if reason.rule == "life":
        shown = "15 y +" if value >= 131_399 else f"{value / 8760:.1f} y"
    limit_shown = f"{limit / 8760:.0f} y" if reason.rule == "life" else show(limit, reason.unit)
    side = "at least" if reason.at_least else "at most"
    return Bar(
        BARS[reason.rule],
        round(100 * value / scale, 1),
        round(100 * limit / scale, 1) if limit else None,
        shown,
        f"{BARS[reason.rule]} {shown}, {side} {limit_shown}",
        reason.status,
    )


def bars(candidate: Candidate) -> tuple[Bar, ...]:
    """All margin bars of a candidate."""
    return tuple(bar(m) for m in candidate.margins)


@dataclass(frozen=True)
class Gauge:
    """A rail gauge in percent of its length: the allowed band, the nominal, and the reading if there is one."""

    band_from: float
    band_width: float
    nominal: float
    low_text: str
    nominal_text: str
    high_text: str
    needle: float | None
    words: str

    @property
    def ticks(self) -> tuple[float, float, float]:
        """Where low, nominal and high stand, percent."""
        return (self.band_from, self.nominal, round(self.band_from + self.band_width, 2))

    @property
    def labels(self) -> tuple[tuple[float, str], ...]:
        """The numbers under the ticks, at their place on a gauge drawn 268 wide from 16."""
        texts = (self.low_text, self.nominal_text, self.high_text)
        return tuple((round(16 + 2.68 * at, 1), text) for at, text in zip(self.ticks, texts, strict=True))

    @property
    def needle_x(self) -> float | None:
        """Where the needle stands on that gauge."""
        return None if self.needle is None else round(16 + 2.68 * self.needle, 1)


def gauge(nominal: float, low: float, high: float, reading: float | None) -> Gauge:
    """A rail's gauge; by size, so that −12 V reads like +12 V. A reading off the scale stands at its end."""
    sign = 1 if nominal >= 0 else -1
    ends = sorted((low * sign, high * sign))
    middle, half = abs(nominal), max(ends[1] - abs(nominal), abs(nominal) - ends[0])
    start, span = middle - 3 * half, 6 * half

    def at(x: float) -> float:
        return round(min(max(100 * (x - start) / span, 0.0), 100.0), 2)

    needle = None if reading is None or not math.isfinite(reading) else at(reading * sign)
    words = f"allowed {show(ends[0], 'V')} to {show(ends[1], 'V')}"
    if reading is not None:
        words = f"reads {show(reading, 'V')}, {words}"
    low_at, high_at = at(ends[0]), at(ends[1])
    return Gauge(
        low_at,
        round(high_at - low_at, 2),
        at(middle),
        f"{ends[0]:.4g}",
        f"{middle:.4g}",
        f"{ends[1]:.4g}",
        needle,
        words,
    )


@dataclass(frozen=True)
class CostBar:
    """Cost beside worth, in percent of the longer: hands with parts, the risk on top, and where the worth ticks."""

    cost: float
    worth: float | None
    repair: float | None
    words: str


def cost_bar(estimate: Estimate) -> CostBar:
    """What a unit would take, drawn against what it is worth."""
    worth = estimate.facts.worth
    scale = max(estimate.cost, (worth or 0.0) * DONOR_FROM, 1e-9) * 1.05
    tick = round(100 * worth / scale, 1) if worth is not None else None
    limit = round(100 * worth * REPAIR_UP_TO / scale, 1) if worth is not None else None
    said = f"would take {estimate.cost:.0f}" + (f", worth {worth:.0f}" if worth is not None else ", worth not said")
    return CostBar(round(100 * estimate.cost / scale, 1), tick, limit, said)

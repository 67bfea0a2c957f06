"""A board to scale: parts, chips and zones in millimetres, as its side is seen."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..board.devices import Device
from ..board.mends import Mend, placed
from ..board.parts import POLAR_KINDS, Capacitor, Fitted, polarity_mark
from ..board.zones import Zone
from ..text.rails_and_chips import Chip

#: Size drawn where none is known, mm.
UNKNOWN_SIZE = 6.0
#: Room round the board and height of the tray for parts without a place, mm.
MARGIN, TRAY = 4.0, 16.0


@dataclass(frozen=True, kw_only=True)
class Shape:
    """A part seen from above, in its own coordinates (mm), minus side to the right.

    round: whether it is a circle of radius r, else a box of w × h. mark: SVG path of its polarity mark, "" if it has none. base: that of
    a surface can's foot, its bevelled corners on the plus side.
    """

    round: bool
    r: float
    w: float
    h: float
    mark: str
    base: str = ""

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
        return Shape(round=False, r=0.0, w=length, h=diameter, mark=_band(length, diameter, mark.side))
    if part.kind in ("film", "paper", "ceramic"):
        return Shape(round=False, r=0.0, w=diameter, h=max(diameter * 0.45, 2.5), mark="")
    if part.kind == "tantalum" and part.mounting == "chip":
        return Shape(round=False, r=0.0, w=diameter, h=diameter * 0.6, mark=_band(diameter, diameter * 0.6, mark.side))
    radius = diameter / 2
    base = _foot(radius + 0.15, part.kind in POLAR_KINDS and not part.bipolar) if part.mounting == "can" else ""
    return Shape(round=True, r=radius, w=diameter, h=diameter, mark=_segment(radius, mark.side), base=base)


def _foot(half: float, bevelled: bool) -> str:
    """The foot that a surface can stands on."""
    cut = half * 0.45 if bevelled else 0.0
    rest = 2 * half - cut
    return f"M{-half + cut:.2f} {-half:.2f}h{rest:.2f}v{2 * half:.2f}h{-rest:.2f}l{-cut:.2f} {-cut:.2f}v{-2 * (half - cut):.2f}Z"


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


@dataclass(frozen=True, kw_only=True)
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


@dataclass(frozen=True, kw_only=True)
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


@dataclass(frozen=True, kw_only=True)
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


#: Sizes drawn of parts that are no capacitors where none is typed, mm: across and high on the picture.
DEVICE_SIZES = {
    "regulator": (10.0, 4.6), "fuse": (20.0, 5.2), "battery": (16.0, 12.0), "diode": (7.0, 3.0), "transistor": (5.0, 4.0),
    "transformer": (40.0, 34.0),
}  # fmt: skip


def device_size(device: Device) -> tuple[float, float]:
    """How large a part that is no capacitor is drawn, mm."""
    if device.across and device.length:
        return device.length, device.across
    return DEVICE_SIZES.get(device.what, (8.0, 6.0))


@dataclass(frozen=True, kw_only=True)
class DrawnDevice:
    """A part that is no capacitor on the board picture, mm. done: whether it was changed."""

    ref: str
    what: str
    x: float
    y: float
    w: float
    h: float
    done: bool = False

    @property
    def left(self) -> float:
        return self.x - self.w / 2

    @property
    def top(self) -> float:
        return self.y - self.h / 2

    @property
    def label_y(self) -> float:
        return self.y + self.h / 2 + 3.6

    @property
    def middle_y(self) -> float:
        return self.y + 0.8


@dataclass(frozen=True, kw_only=True)
class DrawnMend:
    """A mend on the board picture: a spot at its first end, and its wire to the second where it has one; mm."""

    x: float
    y: float
    title: str
    damage: str
    to: tuple[float, float] | None = None


@dataclass(frozen=True, kw_only=True)
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
    devices: tuple[DrawnDevice, ...] = ()
    mends: tuple[DrawnMend, ...] = ()

    @property
    def view_box(self) -> str:
        return self.view_box_as_wide(self.width)

    def view_box_as_wide(self, width: float) -> str:
        """The same beside a picture that is so wide, mm: both are to one scale where both are drawn equally wide."""
        m = self.margin
        return f"{-m:g} {-m:g} {max(width, self.width):g} {self.height:g}"


def board_scene(
    width: float,
    height: float,
    parts: Sequence[Fitted],
    chips: Iterable[Chip] = (),
    zones: Iterable[Zone] = (),
    side: str = "parts",
    devices: Iterable[tuple[Device, bool]] = (),
    mends: Iterable[Mend] = (),
) -> Scene:
    """Lay a board out: width × height in mm; parts without a place wait in a tray under it.

    Seen from the solder side everything is mirrored, and what stands on the other side is a ghost.

    Args:
        width: mm.
        height: mm; None where nobody measured it.
        parts: the parts.
        chips: chips listed on the board.
        zones: the board's zones.
        side: parts or solder.
        devices: parts that are no capacitors, each with whether it was changed.
        mends: drawn where both of their ends are known.

    Returns:
        All that is drawn, mm.
    """
    devices = tuple(devices)
    chips = tuple(chips)
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
        width=width + 2 * MARGIN,
        height=total,
        board_w=width,
        board_h=height,
        margin=MARGIN,
        tray_y=height + MARGIN,
        tray_h=tray_h,
        holes=holes,
        parts=tuple(placed + tray),
        chips=boxes,
        zones=fields,
        devices=tuple(
            _device(d, done, width if turned else 0.0) for d, done in devices if d.x is not None and d.y is not None
        ),
        mends=_mends(mends, parts, [*(d for d, _ in devices), *chips], width if turned else 0.0),
    )


def _device(device: Device, done: bool, mirror: float) -> DrawnDevice:
    w, h = device_size(device)
    return DrawnDevice(
        ref=device.ref, what=device.what, x=mirror - device.x if mirror else device.x, y=device.y, w=w, h=h, done=done
    )


def _mends(
    mends: Iterable[Mend], parts: Sequence[Fitted], others: Sequence[Device | Chip], mirror: float
) -> tuple[DrawnMend, ...]:
    found = []
    for mend in mends:
        at = [placed(end, parts, others) for end in (mend.a, mend.b) if end is not None]
        if None in at:
            continue
        points = [(mirror - x if mirror else x, y) for x, y in at]
        (x, y), to = points[0], points[1] if len(points) == 2 else None
        found.append(DrawnMend(x=x, y=y, title=mend.title, damage=mend.damage, to=to))
    return tuple(found)


def _drawn(part: Fitted, x: float, y: float, placed: bool, angle: float | None = None, ghost: bool = False) -> Drawn:
    shape = shape_of(part)
    angle = part.angle if angle is None else angle
    tall = shape.r if shape.round else max(shape.h, abs(math.sin(math.radians(angle))) * shape.w) / 2
    return Drawn(
        ref=part.ref,
        x=x,
        y=y,
        angle=angle,
        shape=shape,
        placed=placed,
        label_y=tall + 4.6,
        halo=max(shape.w, shape.h) / 2 + 1.1,
        ghost=ghost,
    )


def _placed(part: Fitted, width: float, side: str) -> Drawn:
    """A placed part as that side shows it."""
    x, angle = (width - part.x, (180 - part.angle) % 360) if side == "solder" else (part.x, part.angle)
    return _drawn(part, x, part.y, True, angle, part.side != side)


def _zone(zone: Zone, mirror: float) -> DrawnZone:
    left = mirror - zone.left - zone.width if mirror else zone.left
    return DrawnZone(
        kind=zone.kind,
        x=left,
        y=zone.top,
        w=zone.width,
        h=zone.height,
        title=zone.title,
        text_x=left + 1.5,
        text_y=zone.top + zone.height - 1.5,
    )


def _chip(chip: Chip, mirror: float = 0.0) -> DrawnChip:
    middle = mirror - chip.x if mirror else chip.x
    return DrawnChip(
        ref=chip.ref,
        label=chip.label,
        x=middle - chip.width / 2,
        y=chip.y - chip.height / 2,
        w=chip.width,
        h=chip.height,
        cx=middle,
        cy=chip.y,
        upright=chip.height > chip.width * 1.3,
    )

"""Old and new part from the side, under the lid, in millimetres; candidates beside each other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..board.parts import ON_PADS, Capacitor
from ..choose.need import Need
from .board import UNKNOWN_SIZE


@dataclass(frozen=True, kw_only=True)
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
    lying = old.mounting in ("axial", *ON_PADS) and part.mounting in ("radial", "axial")
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
        width=wide,
        height=high + 5,
        board_y=board,
        lid_y=board - need.lid if need.lid else None,
        old=(middle - old_w / 2, board - old_h, old_w, old_h) if old_w and old_h else None,
        new=(middle - new_w / 2, board - new_h, new_w, new_h),
        leads=leads,
        words=words,
        bends=bends,
    )


@dataclass(frozen=True, kw_only=True)
class Sized:
    """A part to scale with its sizes, mm: from the side at the left, standing on the board, and at the right from above with its pads."""

    width: float
    height: float
    body: tuple[float, float, float, float]
    board_y: float
    leads: tuple[float, ...]
    above_x: float
    above_y: float
    pads: tuple[tuple[float, float], ...]
    across: tuple[float, float, float, str]
    high: tuple[float, float, float, str]
    pitch: tuple[float, float, float, str] | None
    words: str
    letter: float

    @property
    def view_box(self) -> str:
        return f"0 0 {self.width:g} {self.height:g}"

    @property
    def ground(self) -> float:
        """How far the board's line runs."""
        return self.high[2]

    @property
    def middle(self) -> float:
        return (self.across[0] + self.across[1]) / 2

    @property
    def half_way(self) -> float:
        return (self.high[0] + self.high[1]) / 2

    @property
    def foot(self) -> float:
        """How far a lead goes through the board."""
        return self.letter * 0.7

    @property
    def pad(self) -> float:
        """Radius of a pad."""
        return self.letter * 0.32


#: Room beside and under a drawing for its sizes, mm of a part as large as this one.
ROOM, LETTER = 0.35, 0.14


def sized(part: Capacitor) -> Sized:
    """A part from the side and from above on one scale, with lines that tell its width, its height and its pitch."""
    lies = part.mounting == "axial"
    wide = (part.height if lies else part.diameter) or UNKNOWN_SIZE
    tall = (part.diameter if lies else part.height) or wide
    deep = part.diameter or UNKNOWN_SIZE
    size = max(wide, tall)
    room, letter = size * ROOM, size * LETTER
    left, board = room * 0.4, room * 0.4 + tall
    middle = left + wide / 2
    pitch = part.pitch or (wide + 4 if lies else 0.0)
    spread = max(wide, pitch, deep)
    feet = tuple(middle + side * pitch / 2 for side in (-1, 1)) if pitch else ()
    high = f"{tall:g} mm"
    # the height stands beside the body, and nothing is drawn into its letters
    above = left + wide + max(2 * room, 0.3 * room + letter * (0.6 * len(high) + 0.9)) + spread / 2
    level = room * 0.4 + max(tall, deep) / 2
    pads = tuple((above + side * pitch / 2, level) for side in (-1, 1)) if pitch else ()
    under = board + room * 0.45
    below = level + deep / 2 + room * 0.45
    said = f"{wide:g} mm wide, {tall:g} mm high" + (f", pitch {part.pitch:g} mm" if part.pitch else "")
    return Sized(
        width=above + spread / 2 + room,
        height=max(under, below) + letter * 1.6,
        body=(left, room * 0.4, wide, tall),
        board_y=board,
        leads=feet,
        above_x=above,
        above_y=level,
        pads=pads,
        across=(left, left + wide, under, f"{wide:g} mm"),
        high=(room * 0.4, board, left + wide + room * 0.3, high),
        pitch=(pads[0][0], pads[1][0], below, f"{pitch:g} mm") if part.pitch else None,
        words=said,
        letter=letter,
    )


@dataclass(frozen=True, kw_only=True)
class Outline:
    """A part in a row of side views: its box in mm, its leads' feet, its name under it and its verdict's shape."""

    x: float
    y: float
    w: float
    h: float
    middle: float
    name: str
    lies: bool


@dataclass(frozen=True, kw_only=True)
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
        flat = need.old.mounting in ("axial", *ON_PADS) and part.mounting in ("radial", "axial")
        drawn.append((str(i), *_lying(part.mounting, part.diameter, part.height, flat)))
    board = max(max(h for _, _, h, _ in drawn), need.lid or 0.0) + 4
    outlines, x = [], 4.0
    for name, w, h, lies in drawn:
        room = max(w, LEAST)
        outlines.append(Outline(x=x + (room - w) / 2, y=board - h, w=w, h=h, middle=x + room / 2, name=name, lies=lies))
        x += room + BETWEEN
    words = "; ".join(f"{name} {w:g} × {h:g} mm" for name, w, h, _ in drawn)
    lid = board - need.lid if need.lid else None
    return Lineup(
        width=x,
        height=board + 8,
        board_y=board,
        lid_y=lid,
        lid=need.lid,
        outlines=tuple(outlines),
        words=f"To one scale: {words}",
    )


def _lying(mounting: str, diameter: float, height: float, flat: bool) -> tuple[float, float, bool]:
    lies = flat or mounting == "axial"
    return (height, diameter, True) if lies else (diameter, height, False)

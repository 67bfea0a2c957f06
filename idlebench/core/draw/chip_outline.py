"""A chip seen from above with one of its pins lit, and a plug as one row: where the red lead goes.

Source: JEDEC Publication 95, MS-001 and MS-011: 2.54 mm pitch, rows 7.62 and 15.24 mm apart.
"""

from __future__ import annotations

from dataclasses import dataclass

from ..board.devices import is_plug
from ..text.rails_and_chips import Chip

#: Pins of a chip in two rows, as they are made.
ROWS = (8, 14, 16, 18, 20, 22, 24, 28, 40, 48, 64)
#: Pins of one row stand so far apart, and the rows of a chip, mm.
PITCH, ACROSS, ACROSS_WIDE = 2.54, 7.62, 15.24
#: From so many pins on a chip is a wide one.
WIDE = 24


@dataclass(frozen=True, kw_only=True)
class DrawnPin:
    """A pin of an outline: its number, place in mm, where its number is written, whether it is the lit one, what it is."""

    number: int
    x: float
    y: float
    text_y: float
    lit: bool
    is_: str


@dataclass(frozen=True, kw_only=True)
class Outline:
    """A chip or plug from above, mm: its body, its notch, its pins; what it says to those who cannot see it."""

    width: float
    height: float
    view_box: str
    notch: str
    pins: tuple[DrawnPin, ...]
    says: str


def pin_count(chip: Chip) -> int:
    """How many pins a chip is drawn with: enough for the highest that is listed, and for its length.

    >>> from idlebench.core.text.rails_and_chips import read_chip
    >>> pin_count(read_chip('U1 processor 52x14 gnd 20 +5V 40')), pin_count(read_chip('U7 logic gnd 7 +5V 14'))
    (40, 14)
    """
    highest = max((int(p.number) for p in chip.pins if p.number.isdigit()), default=0)
    return next((n for n in ROWS if n >= highest), 2 * ((highest + 1) // 2))


def outline(chip: Chip, number: str) -> Outline | None:
    """A chip with one pin lit, or a plug as one row. None where its pins have no plain numbers, or there is none of that number.

    Pins of a chip count round it from the notch, against the clock seen from above.
    """
    if not number.isdigit() or not all(p.number.isdigit() for p in chip.pins):
        return None
    lit = int(number)
    is_ = {int(p.number): p.rail or p.is_ for p in chip.pins}
    if is_plug(chip.ref):
        count = max(max(is_, default=0), lit)
        if not 1 <= lit <= 64:
            return None
        pins = tuple(
            DrawnPin(number=n, x=(n - 0.5) * PITCH, y=2.0, text_y=6.6, lit=n == lit, is_=is_.get(n, ""))
            for n in range(1, count + 1)
        )
        width = count * PITCH
        said = f"{chip.ref}, {count} pins in a row, pin 1 to the left; pin {lit} lit"
        return Outline(width=width, height=4.0, view_box=f"-2 -2 {width + 4:g} 11", notch="", pins=pins, says=said)
    count = max(pin_count(chip), 8)
    if not 1 <= lit <= count <= 64:
        return None
    half, height = count // 2, ACROSS_WIDE if count >= WIDE else ACROSS
    width = half * PITCH
    pins = []
    for n in range(1, count + 1):
        below = n <= half
        x = (n - 0.5) * PITCH if below else (count - n + 0.5) * PITCH
        y = height + 0.9 if below else -0.9
        pins.append(
            DrawnPin(number=n, x=x, y=y, text_y=height - 0.9 if below else 2.3, lit=n == lit, is_=is_.get(n, ""))
        )
    notch = f"M0 {height / 2 - 1.3:g}A1.3 1.3 0 0 1 0 {height / 2 + 1.3:g}"
    said = f"{chip.ref} from above, notch to the left, drawn with {count} pins; pin {lit} lit"
    return Outline(
        width=width,
        height=height,
        view_box=f"-2 -3.4 {width + 4:g} {height + 6.8:g}",
        notch=notch,
        pins=tuple(pins),
        says=said,
    )

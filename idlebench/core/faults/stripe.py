"""Which data line is broken, from stripes on the picture.

Source: SOURCE; the order of bits in a word is asked, not assumed.
"""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass

from ..refusal import BadInput
from ..text.calculation import Calculation, CalculationLine
from ..text.nets import Node

ORDERS = ("msb", "lsb")
SOURCE = "Bitmap order: most significant bit leftmost gives bit W−1−k at offset k"


def stripe(width: int, order: str = "msb", offset: int = 0) -> Calculation:
    """The data bit behind a stripe.

    Args:
        width: bits in a word.
        order: "msb" where the leftmost pixel is the most significant bit, else "lsb".
        offset: pixels from the left edge of a word to the stripe; counted on across words.

    Returns:
        The bit, with its lines.

    >>> stripe(16, 'msb', 3).values
    {'bit': 12}
    """
    if width not in (4, 8, 16, 32, 64):
        raise BadInput(str(width), "a word width of 4, 8, 16, 32 or 64 bits", field="width")
    if order not in ORDERS:
        raise BadInput(order, "msb (leftmost pixel is the highest bit) or lsb", field="order")
    if not 0 <= offset < 100_000:
        raise BadInput(
            str(offset), "an offset of 0 pixels or more", "Count from the left edge of the picture.", field="offset"
        )
    within = offset % width
    bit = width - 1 - within if order == "msb" else within
    lines = [
        CalculationLine(
            label="Pixel within its word",
            formula="k = offset mod W",
            numbers=f"{offset} mod {width}",
            value=float(within),
            unit="",
            source=SOURCE,
        )
    ]
    formula = "bit = W − 1 − k" if order == "msb" else "bit = k"
    numbers = f"{width} − 1 − {within}" if order == "msb" else f"{within}"
    lines.append(
        CalculationLine(label="Data line", formula=formula, numbers=numbers, value=float(bit), unit="", source=SOURCE)
    )
    cautions = [f"Test D{bit} from the processor to the video memory: continuity first, then activity."]
    if bit == 0:
        cautions.append("A fault in the lowest bit is hard to see in modes with many shades: use the plainest mode.")
    return Calculation(
        name="stripe",
        values={"bit": bit},
        lines=tuple(lines),
        cautions=tuple(cautions),
        inputs={"width": width, "order": order, "offset": offset},
    )


#: How a data line is called: D7, DATA7, AD7, VD7, RAM_D7, /D<7>, DQ7; never ADD7 or LED7.
_DATA = re.compile(r"(?:.*[_/.])?[/~]?[ABCMPRSVX]?D(?:ATA|Q)?[_<\[]?0*(\d{1,2})[>\]]?", re.I)
#: Most pixels across a picture that are believed.
MOST_ACROSS = 4096
#: Least and most Ω of a way that is whole, leads subtracted.
WHOLE = 2.0


@dataclass(frozen=True)
class NetConnection:
    """A net's copper from one pin to another, to be tested end to end. a, b: pins as a mend names them."""

    net: str
    a: str
    b: str

    @property
    def words(self) -> str:
        return f"{self.net}: {self.a} to {self.b}"

    def mend(self, ohms: float) -> str:
        """The mend of a way that is open, as it is typed. ohms: what it read before it."""
        before = "OL" if math.isinf(ohms) else f"{ohms:g}"
        return f"trace {self.a} to {self.b} wire 0.25 insulated glued before {before} note {self.net}"


def offset_of(left: float, right: float, at: float, across: int) -> int:
    """Pixels from the left edge of the picture to a stripe, by where the three stand in a photo.

    Args:
        left: left edge, mm.
        right: the right side of the equations.
        at: where or when, as the caller counts it.
        across: pixels from edge to edge.

    Returns:
        Pixels.

    Raises:
        BadInput: edges that are not apart, or a stripe outside of them.

    >>> offset_of(100, 740, 103.4, 640)
    3
    """
    if not 8 <= across <= MOST_ACROSS:
        raise BadInput(str(across), f"8 to {MOST_ACROSS} pixels across the picture", field="across")
    if not (math.isfinite(left) and math.isfinite(right) and math.isfinite(at)) or right - left <= 0:
        raise BadInput(
            f"{left:g} to {right:g}", "the left edge to the left of the right edge", "Move the two apart.", field="left"
        )
    if not left <= at <= right:
        raise BadInput(
            f"{at:g}", f"a stripe between the edges, {left:g} to {right:g}", "Move the middle mark.", field="at"
        )
    return min(int((at - left) / (right - left) * across), across - 1)


def data_nets(bit: int, nodes: Sequence[Node]) -> tuple[str, ...]:
    """The nets that carry a data line, by their names.

    >>> data_nets(7, [Node('D7', 'U1', '9'), Node('VD07', 'U2', '3'), Node('LED7', 'D1', '1'), Node('D17', 'U1', '4')])
    ('D7', 'VD07')
    """
    names = dict.fromkeys(node.net for node in nodes)
    return tuple(name for name in names if (hit := _DATA.fullmatch(name.strip())) and int(hit[1]) == bit)


def ways(net: str, nodes: Sequence[Node]) -> tuple[NetConnection, ...]:
    """From the first pin of a net to each other: what is open shows by which of them is."""
    pins = [f"{node.ref} {node.pin}" for node in nodes if node.net == net]
    return tuple(NetConnection(net, pins[0], pin) for pin in dict.fromkeys(pins[1:]) if pin != pins[0])

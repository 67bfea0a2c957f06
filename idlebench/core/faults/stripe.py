"""Which data line is broken, from stripes on the picture."""

from __future__ import annotations

from ..refusal import BadInput
from ..working import Line, Working

ORDERS = ("msb", "lsb")
SOURCE = "Bitmap order: most significant bit leftmost gives bit W−1−k at offset k"


def stripe(width: int, order: str = "msb", offset: int = 0) -> Working:
    """The data bit behind a stripe.

    Args:
        width: bits in a word. order: "msb" where the leftmost pixel is the most significant bit, else "lsb".
        offset: pixels from the left edge of a word to the stripe; counted on across words.

    >>> stripe(16, 'msb', 3).values
    {'bit': 12}
    """
    if width not in (4, 8, 16, 32, 64):
        raise BadInput(str(width), "a word width of 4, 8, 16, 32 or 64 bits", "", "width")
    if order not in ORDERS:
        raise BadInput(order, "msb (leftmost pixel is the highest bit) or lsb", "", "order")
    if not 0 <= offset < 100_000:
        raise BadInput(
            str(offset), "an offset of 0 pixels or more", "Count from the left edge of the picture.", "offset"
        )
    within = offset % width
    bit = width - 1 - within if order == "msb" else within
    lines = [Line("Pixel within its word", "k = offset mod W", f"{offset} mod {width}", float(within), "", SOURCE)]
    formula = "bit = W − 1 − k" if order == "msb" else "bit = k"
    numbers = f"{width} − 1 − {within}" if order == "msb" else f"{within}"
    lines.append(Line("Data line", formula, numbers, float(bit), "", SOURCE))
    cautions = [f"Test D{bit} from the processor to the video memory: continuity first, then activity."]
    if bit == 0:
        cautions.append("A fault in the lowest bit hides in modes with many shades: look in the plainest mode.")
    return Working(
        "stripe", {"bit": bit}, tuple(lines), tuple(cautions), {"width": width, "order": order, "offset": offset}
    )

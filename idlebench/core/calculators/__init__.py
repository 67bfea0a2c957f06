"""The registry of reckonings: each is declared once, and its page, address, command and JSON come from that.

A calculator is added as a `Reckoning` in the file of what it serves, and its name in `_ORDER`.

Source: each line of a reckoning names its own.
"""

from __future__ import annotations

from ..refusal import BadInput
from .declared import CURVE_POINTS, Curve, Input, Reckoning
from .monitors import MONITORS
from .parts import PARTS
from .safety import SAFETY
from .supplies import SUPPLIES

__all__ = ["CURVE_POINTS", "REGISTRY", "Curve", "Input", "Reckoning", "reckoning"]

#: In the order in which they are listed.
_ORDER = (
    "marking",
    "new_esr",
    "discharge",
    "plug_pins",
    "reform",
    "life",
    "earth_leakage",
    "dummy_load",
    "retrace",
    "tube_charge",
    "hum_bar",
    "field_store",
    "lamp_load",
    "stripe",
    "corner",
    "supply",
    "adapter",
    "tap",
    "regulator",
    "converter_ripple",
    "inrush",
    "fuse",
    "timing",
)
_DECLARED = {one.name: one for one in (*PARTS, *SAFETY, *MONITORS, *SUPPLIES)}
REGISTRY: dict[str, Reckoning] = {name: _DECLARED[name] for name in _ORDER}


def reckoning(name: str) -> Reckoning:
    """The reckoning of that name.

    Args:
        name: its name.

    Returns:
        Its inputs, function and curve.

    Raises:
        BadInput: there is none.
    """
    if name not in REGISTRY:
        raise BadInput(name, f"one of {', '.join(REGISTRY)}", field="reckoning")
    return REGISTRY[name]

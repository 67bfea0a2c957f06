"""A transformer without load reads more than its label."""

from __future__ import annotations

import numpy as np

from ..working import Line, Working

#: Regulation by size: (VA, share).
REGULATION = ((3.0, 0.35), (10.0, 0.22), (25.0, 0.15), (50.0, 0.12), (100.0, 0.09))
#: How far an unloaded reading may stray.
SPREAD = 0.06
SOURCE = "open-circuit volts = rated · (1 + regulation); regulation of small mains transformers by size"


def regulation(va: float) -> float:
    """Share by which the volts rise without load, by size (VA).

    >>> regulation(10)
    0.22
    """
    sizes, shares = zip(*REGULATION, strict=True)
    return float(np.interp(np.log10(va), np.log10(sizes), shares))


def unloaded(label_volts: float, va: float) -> Working:
    """What a winding of a label (V AC) and size (VA) reads without load, and the band."""
    share = regulation(va)
    volts = label_volts * (1 + share)
    lines = (
        Line("Regulation", "by size", f"{va:g} VA", share, "", SOURCE),
        Line("Unloaded volts", "V · (1 + regulation)", f"{label_volts:g} · {1 + share:.3g}", volts, "V", SOURCE),
    )
    return Working("unloaded", {"volts": volts, "low": volts * (1 - SPREAD), "high": volts * (1 + SPREAD)}, lines)

"""Makes the regulators and fuses of the house catalogue. Everything is invented and deterministic."""

from __future__ import annotations

import zlib
from collections.abc import Iterator

from ..core.choose.regulators_and_fuses import LINEAR, MODULE, SIZES, Fuse, Regulator
from ..core.circuit.inrush import RATINGS

VOLTS = (5, 6, 8, 9, 12, 15, 18, 24)
POSITIVE, NEGATIVE = ("input", "ground", "output"), ("ground", "input", "output")
#: Linear families: series, sign, pins, tab, dropout V of the smallest; and their grades: letter, A, more dropout V, θjc K/W,
#: height mm, price.
FAMILIES = (("RP 78", 1, POSITIVE, "ground", 1.8), ("RN 79", -1, NEGATIVE, "input", 1.8))
GRADES = (
    ("L", 0.1, 0.0, 60.0, 5.0, 0.12),
    ("M", 0.5, 0.2, 5.0, 16.0, 0.3),
    ("", 1.0, 0.2, 4.0, 16.0, 0.35),
    ("H", 1.5, 0.4, 3.0, 16.0, 0.55),
)
LOW_DROP = ((1.0, 0.6, 3.5, 0.9), (1.5, 0.8, 3.0, 1.2), (3.0, 1.1, 1.8, 1.9))
MODULES = ((0.5, 4.2), (1.0, 5.1), (1.5, 6.8), (2.0, 8.4))
MODULE_VOLTS = (3.3, 5, 6.5, 9, 12, 15)


def _stock(name: str) -> int:
    return zlib.crc32(name.encode()) % 9 if zlib.crc32(f"shelf {name}".encode()) % 3 == 0 else 0


def regulators() -> Iterator[Regulator]:
    """Every regulator: linear of both signs, low-dropout, and switching modules, standing and lying."""
    for series, sign, pins, tab, dropout in FAMILIES:
        for volts in VOLTS:
            for letter, current, more, theta, height, price in GRADES:
                name = f"{series.replace(' ', '')}{letter}{volts:02d}"
                yield Regulator(
                    name,
                    f"{series}xx-type",
                    LINEAR,
                    sign * float(volts),
                    current,
                    dropout + more,
                    35.0 if volts < 18 else 40.0,
                    pins,
                    tab,
                    theta,
                    height,
                    price=price,
                    stock=_stock(name),
                )
    for volts in (3.3, 5.0, 8.0, 9.0, 12.0):
        for current, dropout, theta, price in LOW_DROP:
            name = f"RD{current:g}-{volts:g}".replace(".", "V")
            yield Regulator(
                name, "RD low-drop", LINEAR, volts, current, dropout, 26.0, POSITIVE, "ground", theta, 16.0, esr_low=0.02, esr_high=2.0,
                price=price, stock=_stock(name),
            )  # fmt: skip
    for volts in MODULE_VOLTS:
        for current, price in MODULES:
            for lying, height in ((False, 17.5), (True, 9.0)):
                name = f"SM{current:g}-{volts:g}{'F' if lying else ''}".replace(".", "V")
                yield Regulator(
                    name, "SM flat" if lying else "SM upright", MODULE, float(volts), current, 1.5, 32.0, POSITIVE, "", 0.0, height,
                    min_load=0.01 * current, efficiency=0.84 + 0.005 * min(volts, 15), price=price + 1.5 * lying, stock=_stock(name),
                )  # fmt: skip


def fuses() -> Iterator[Fuse]:
    """Every fuse: two sizes, fast and time-lag, low and high breaking capacity."""
    for size in SIZES:
        for high in (False, True):
            for characteristic in ("F", "T"):
                for rating in RATINGS:
                    name = (
                        f"FU{characteristic}{'H' if high else 'L'}{'5' if size == '5x20' else '6'}-{rating:g}".replace(
                            ".", "A"
                        )
                    )
                    melting = (25.0 if characteristic == "T" else 1.4) * rating**2 * (1.2 if high else 1.0)
                    yield Fuse(
                        name, f"FU {'ceramic' if high else 'glass'}", rating, characteristic, 250.0, 125.0 if high else 63.0,
                        1500.0 if high else max(35.0, 10 * rating), size, "holder", float(f"{melting:.3g}"),
                        round(0.18 + 0.25 * high + 0.05 * (size != "5x20"), 2), _stock(name),
                    )  # fmt: skip

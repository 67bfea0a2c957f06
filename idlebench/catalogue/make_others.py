"""Makes the parts of the house catalogue that are no capacitors. Everything is invented and deterministic."""

from __future__ import annotations

import zlib
from collections.abc import Callable, Iterator
from typing import Any

import eseries

from ..core.choose.by_limits import Optocoupler, Transistor, Zener
from ..core.choose.cells_and_diodes import BOARD, HOLDER, LEADS, Battery, Diode
from ..core.choose.fuses import Fuse
from ..core.choose.regulators_and_fuses import LINEAR, MODULE, SIZES, Regulator
from ..core.choose.resistors import FILM, FUSIBLE, WIREWOUND, Resistor
from ..core.circuit.inrush import RATINGS
from ..core.circuit.packages import PACKAGES, package_of

VOLTS = (5, 6, 8, 9, 12, 15, 18, 24)
POSITIVE = PACKAGES["to220"].positive[:3]
#: Linear families: series, sign, dropout V of the smallest; and their grades: letter, A, more dropout V, θjc K/W, height mm, price.
FAMILIES = (("RP 78", 1, 1.8), ("RN 79", -1, 1.8))
GRADES = (
    ("L", 0.1, 0.0, 60.0, 5.0, 0.12),
    ("M", 0.5, 0.2, 5.0, 16.0, 0.3),
    ("", 1.0, 0.2, 4.0, 16.0, 0.35),
    ("H", 1.5, 0.4, 3.0, 16.0, 0.55),
)
LOW_DROP = ((1.0, 0.6, 3.5, 0.9), (1.5, 0.8, 3.0, 1.2), (3.0, 1.1, 1.8, 1.9))
MODULES = ((0.5, 4.2), (1.0, 5.1), (1.5, 6.8), (2.0, 8.4))
MODULE_VOLTS = (3.3, 5, 6.5, 9, 12, 15)
#: Cells: series, chemistry, V of one, how many, Ah, held, mm across and high, price.
CELLS = (
    ("AC", "accumulator", 1.2, 2, 0.08, BOARD, 15.5, 12.5, 2.4), ("AC", "accumulator", 1.2, 3, 0.08, BOARD, 15.5, 18.5, 2.9),
    ("AC", "accumulator", 1.2, 3, 0.3, LEADS, 17.0, 29.0, 4.2), ("AC", "accumulator", 1.2, 4, 0.3, LEADS, 17.0, 29.0, 5.1),
    ("LC", "lithium", 3.0, 1, 0.22, HOLDER, 20.0, 6.0, 1.3), ("LC", "lithium", 3.0, 1, 0.22, LEADS, 20.0, 6.0, 1.9),
    ("LC", "lithium", 3.6, 1, 1.2, LEADS, 14.5, 25.0, 3.8), ("AL", "alkaline", 1.5, 2, 1.1, LEADS, 24.0, 45.0, 1.8),
    ("AL", "alkaline", 1.5, 3, 1.1, LEADS, 36.0, 45.0, 2.3), ("MS", "store", 5.5, 1, 0.0008, BOARD, 21.0, 7.5, 1.6),
)  # fmt: skip
#: Diodes: series, kind, volts, amperes, surge over current, drop, recovery s, mounting, price of 1 A.
RECTIFIERS = (
    ("GD", "plain", (100, 400, 1000), (1.0, 3.0, 6.0), 30.0, 1.0, 2e-6, "axial", 0.05),
    ("FD", "fast", (200, 600, 1000), (1.0, 3.0), 25.0, 1.2, 75e-9, "axial", 0.12),
    ("LD", "low-drop", (40, 60, 100), (1.0, 3.0), 25.0, 0.55, 0.0, "axial", 0.14),
    ("LT", "low-drop", (45, 60, 100), (10.0, 20.0), 15.0, 0.65, 0.0, "tab", 0.11),
    ("GB", "bridge", (100, 400, 800), (1.5, 4.0), 33.0, 1.0, 0.0, "radial", 0.2),
)  # fmt: skip

#: Resistors: series, kind, share, W, V, least and most Ω, E12 or E24, price.
RESISTOR_SERIES = (
    ("CR", FILM, 0.05, 0.25, 250.0, 1.0, 10e6, 24, 0.02), ("MR", FILM, 0.01, 0.6, 350.0, 1.0, 1e6, 24, 0.03),
    ("PR", FILM, 0.05, 1.0, 350.0, 0.22, 1e6, 12, 0.06), ("PR", FILM, 0.05, 2.0, 500.0, 0.22, 1e6, 12, 0.09),
    ("HR", FILM, 0.05, 0.5, 3500.0, 100e3, 22e6, 12, 0.25), ("WR", WIREWOUND, 0.05, 5.0, 350.0, 0.1, 10e3, 12, 0.2),
    ("UR", FUSIBLE, 0.05, 0.5, 250.0, 0.22, 1e3, 12, 0.12), ("UR", FUSIBLE, 0.05, 1.0, 250.0, 0.22, 1e3, 12, 0.15),
    ("UR", FUSIBLE, 0.05, 2.0, 250.0, 0.22, 1e3, 12, 0.2),
)  # fmt: skip
#: Zener diodes: W and price. Optocouplers: letter, ratio in percent, price. Transistors: series, type, V, A, W, gain, price.
ZENER_SERIES = ((0.5, 0.03), (1.3, 0.07), (5.0, 0.3))
RATIOS = (("A", 50, 150, 0.2), ("B", 80, 160, 0.22), ("C", 100, 200, 0.22), ("D", 200, 400, 0.25))
TRANSISTOR_SERIES = (
    ("TS", "npn", 50, 0.1, 0.5, 200, 0.05), ("TS", "pnp", 50, 0.1, 0.5, 200, 0.05), ("TS", "npn", 80, 0.8, 0.8, 100, 0.08),
    ("TS", "pnp", 80, 0.8, 0.8, 100, 0.08), ("TP", "npn", 80, 4, 36, 40, 0.35), ("TP", "pnp", 80, 4, 36, 40, 0.38),
    ("TP", "npn", 100, 10, 80, 25, 0.7), ("TP", "pnp", 100, 10, 80, 25, 0.75), ("TH", "npn", 300, 0.5, 10, 50, 0.3),
    ("TH", "npn", 450, 8, 80, 10, 1.1), ("TH", "npn", 800, 5, 100, 8, 1.6), ("TL", "npn", 1500, 8, 50, 8, 2.4),
    ("TF", "n-fet", 60, 0.3, 0.4, 0, 0.06), ("TF", "n-fet", 60, 30, 75, 0, 0.6), ("TF", "p-fet", 60, 12, 60, 0, 0.8),
    ("TF", "n-fet", 600, 7, 120, 0, 1.2), ("TF", "n-fet", 900, 4, 100, 0, 1.7),
)  # fmt: skip


def _stock(name: str) -> int:
    return zlib.crc32(name.encode()) % 9 if zlib.crc32(f"shelf {name}".encode()) % 3 == 0 else 0


def regulators() -> Iterator[Regulator]:
    """Every regulator: linear of both signs, low-dropout, and switching modules, standing and lying."""
    for series, sign, dropout in FAMILIES:
        for volts in VOLTS:
            for letter, current, more, theta, height, price in GRADES:
                name = f"{series.replace(' ', '')}{letter}{volts:02d}"
                package = package_of("7805" if letter == "H" else f"78{letter}05")
                *pins, tab = PACKAGES[package].pins(sign < 0)
                yield Regulator(
                    part=name,
                    series=f"{series}xx-type",
                    type=LINEAR,
                    volts=sign * float(volts),
                    current=current,
                    dropout=dropout + more,
                    v_in_max=35.0 if volts < 18 else 40.0,
                    pins=tuple(pins),
                    tab=tab,
                    theta_jc=theta,
                    height=height,
                    price=price,
                    stock=_stock(name),
                    package=package,
                )
    for volts in (3.3, 5.0, 8.0, 9.0, 12.0):
        for current, dropout, theta, price in LOW_DROP:
            name = f"RD{current:g}-{volts:g}".replace(".", "V")
            yield Regulator(
                part=name,
                series="RD low-drop",
                type=LINEAR,
                volts=volts,
                current=current,
                dropout=dropout,
                v_in_max=26.0,
                pins=POSITIVE,
                tab="ground",
                theta_jc=theta,
                height=16.0,
                esr_low=0.02,
                esr_high=2.0,
                price=price,
                stock=_stock(name),
                package="to220",
            )
    for volts in MODULE_VOLTS:
        for current, price in MODULES:
            for lying, height in ((False, 17.5), (True, 9.0)):
                name = f"SM{current:g}-{volts:g}{'F' if lying else ''}".replace(".", "V")
                yield Regulator(
                    part=name,
                    series="SM flat" if lying else "SM upright",
                    type=MODULE,
                    volts=float(volts),
                    current=current,
                    dropout=1.5,
                    v_in_max=32.0,
                    pins=POSITIVE,
                    tab="",
                    theta_jc=0.0,
                    height=height,
                    min_load=0.01 * current,
                    efficiency=0.84 + 0.005 * min(volts, 15),
                    price=price + 1.5 * lying,
                    stock=_stock(name),
                )


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
                        part=name,
                        series=f"FU {'ceramic' if high else 'glass'}",
                        rating=rating,
                        characteristic=characteristic,
                        volts_ac=250.0,
                        volts_dc=125.0 if high else 63.0,
                        breaking=1500.0 if high else max(35.0, 10 * rating),
                        size=size,
                        mounting="holder",
                        melting=float(f"{melting:.3g}"),
                        price=round(0.18 + 0.25 * high + 0.05 * (size != "5x20"), 2),
                        stock=_stock(name),
                    )


def batteries() -> Iterator[Battery]:
    """Every cell, and those that must not be charged once more with a diode in their lead."""
    for series, chemistry, one, cells, capacity, held, across, high, price in CELLS:
        volts = round(one * cells, 2)
        diodes = (0.0, 0.3) if series in ("LC", "AL") and held == LEADS else (0.0,)
        for diode in diodes:
            name = f"{series}{'D' if diode else ''}{volts:g}-{capacity * 1000:g}{held[0].upper()}".replace(".", "V")
            yield Battery(
                part=name,
                series=f"{series} {chemistry}",
                chemistry=chemistry,
                volts=volts,
                capacity=capacity,
                diode=diode,
                held=held,
                diameter=across,
                height=high,
                price=round(price + (0.4 if diode else 0.0), 2),
                stock=_stock(name),
            )


def diodes() -> Iterator[Diode]:
    """Every diode and bridge."""
    for series, kind, volts, amperes, surge, drop, recovery, mounting, price in RECTIFIERS:
        for v in volts:
            for a in amperes:
                name = f"{series}{a:g}-{v:g}".replace(".", "A")
                yield Diode(
                    part=name,
                    series=f"{series} {kind}",
                    kind=kind,
                    volts=float(v),
                    current=a,
                    surge=round(surge * a, 1),
                    drop=drop,
                    recovery=recovery,
                    mounting=mounting,
                    price=round(price * (0.6 + 0.4 * a) + v * 5e-5, 2),
                    stock=_stock(name),
                )


def _made(low: float, high: float, series: eseries.ESeries) -> Iterator[float]:
    """The values that a series of preferred numbers has between two limits."""
    return (float(f"{value:.3g}") for value in eseries.erange(series, low, high))


def _printed(ohms: float) -> str:
    """Ω as they stand on a part: 2K2, 0R47, 100R."""
    letter, scale = ("M", 1e6) if ohms >= 1e6 else ("K", 1e3) if ohms >= 1e3 else ("R", 1.0)
    number = f"{ohms / scale:g}"
    return number.replace(".", letter) if "." in number else f"{number}{letter}"


def resistors() -> Iterator[Resistor]:
    """Every resistor: plain, power, high-voltage, wirewound and fusible."""
    for series, kind, tolerance, watts, volts, low, high, steps, price in RESISTOR_SERIES:
        for ohms in _made(low, high, eseries.E24 if steps == 24 else eseries.E12):
            name = f"{series}{watts:g}-".replace(".", "V") + _printed(ohms)
            yield Resistor(
                part=name,
                series=f"{series} {kind}",
                kind=kind,
                ohms=ohms,
                tolerance=tolerance,
                watts=watts,
                volts=volts,
                price=price,
                stock=_stock(name),
            )


def zeners() -> Iterator[Zener]:
    """Every zener diode: E24 volts in three sizes."""
    for watts, price in ZENER_SERIES:
        for volts in _made(2.4 if watts < 5 else 3.3, 75.0, eseries.E24):
            name = f"ZD{watts:g}-{volts:g}".replace(".", "V")
            yield Zener(
                part=name,
                series=f"ZD {watts:g} W",
                volts=volts,
                tolerance=0.05,
                watts=watts,
                price=price,
                stock=_stock(name),
            )


def optocouplers() -> Iterator[Optocoupler]:
    """Every optocoupler: four grades, two volts."""
    for letter, low, high, price in RATIOS:
        for volts in (35.0, 80.0):
            name = f"OC{letter}-{volts:g}"
            yield Optocoupler(
                part=name,
                series="OC four legs",
                ctr_low=low / 100,
                ctr_high=high / 100,
                volts=volts,
                holds_off=5000.0,
                price=price,
                stock=_stock(name),
            )


def transistors() -> Iterator[Transistor]:
    """Every transistor: small, power, high-voltage, line and field-effect types."""
    for series, kind, volts, current, watts, gain, price in TRANSISTOR_SERIES:
        name = f"{series}{kind[0].upper()}{current:g}-{volts:g}".replace(".", "A")
        yield Transistor(
            part=name,
            series=f"{series} {kind}",
            type=kind,
            volts=float(volts),
            current=float(current),
            watts=float(watts),
            gain=float(gain),
            price=price,
            stock=_stock(name),
        )


#: What makes the parts of each kind, by keys of device_tables.TABLES.
MAKERS: dict[str, Callable[[], Iterator[Any]]] = {
    "regulator": regulators, "fuse": fuses, "battery": batteries, "diode": diodes, "resistor": resistors, "zener": zeners,
    "optocoupler": optocouplers, "transistor": transistors,
}  # fmt: skip

"""Makes the house catalogue from physical scaling: case sizes from charge per volume, ESR and ripple from size and loss.

Everything is invented and deterministic. Run ``python -m idlebench.catalogue.make`` to write the CSV and its description.
"""

from __future__ import annotations

import json
import math
import zlib
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TypeVar

import eseries

from ..core.board.parts import Capacitor, radial_pitch
from ..core.board.tables import CATALOGUE, write_catalogue
from ..core.choose.columns import LOW_LEAKAGE
from ..core.choose.device_tables import TABLES, write_devices
from ..core.faults.table import CAUSES, EVIDENCE
from ..core.judge import ageing
from ..core.text.csvtable import schema
from . import make_others

T = TypeVar("T")
RADIAL = (
    (4, 7),
    (5, 11),
    (6.3, 11),
    (8, 11.5),
    (10, 12.5),
    (10, 16),
    (10, 20),
    (12.5, 20),
    (12.5, 25),
    (16, 25),
    (16, 31.5),
    (18, 35.5),
    (18, 40),
)
AXIAL = ((6, 13), (6.5, 17), (8, 17), (10, 21), (10, 26), (13, 26), (13, 31), (16, 31), (16, 41), (18, 41))
CHIP = ((4, 5.4), (5, 5.4), (6.3, 5.4), (6.3, 7.7), (8, 10.2), (10, 10.2))
SNAP = (
    (22, 25),
    (22, 30),
    (25, 30),
    (22, 35),
    (25, 35),
    (30, 30),
    (25, 40),
    (30, 35),
    (25, 45),
    (30, 40),
    (35, 40),
    (30, 50),
    (35, 50),
)

#: Charge that a mm³ of winding stores at 16 V, µC, and how it falls with volts.
DENSITY, DENSITY_FALL = 22.0, 0.35
#: Heat a can gives off for its rated ripple, W/mm².
HEAT = 1.41e-4
#: ESR at 100 kHz of a low-impedance can of the reference winding volume (12.5 × 20), Ω.
LOW_ESR, LOW_ESR_VOLUME = 0.023, 1660.0


@dataclass(frozen=True, kw_only=True)
class Series:
    """A series of wet parts. density: share of the reference winding's. loss: share of the standard's tan δ."""

    name: str
    cases: Sequence[tuple[float, float]]
    volts: tuple[float, ...]
    temperature: float
    life: tuple[float, float]
    mounting: str = "radial"
    density: float = 1.0
    loss: float = 0.6
    low_impedance: bool = False
    bipolar: bool = False
    cost: float = 1.0
    low: float = 0.47e-6
    high: float = 15e-3
    taller: bool = False
    note: str = ""


WET = (
    Series(
        name="GP 85",
        cases=RADIAL,
        volts=(6.3, 10, 16, 25, 35, 50, 63, 100, 160, 250, 400, 450),
        temperature=85,
        life=(2000, 2000),
        density=1.4,
        cost=0.5,
    ),
    Series(
        name="GP 105",
        cases=RADIAL,
        volts=(6.3, 10, 16, 25, 35, 50, 63, 100, 160, 250, 400, 450),
        temperature=105,
        life=(1000, 2000),
        density=1.25,
        cost=0.6,
    ),
    Series(
        name="LZ 105",
        cases=RADIAL,
        volts=(6.3, 10, 16, 25, 35, 50, 63, 100),
        temperature=105,
        life=(2000, 5000),
        density=0.9,
        low_impedance=True,
        low=4.7e-6,
        taller=True,
    ),
    Series(
        name="LL 105",
        cases=RADIAL,
        volts=(6.3, 10, 16, 25, 35, 50, 63, 100, 160, 250, 400, 450),
        temperature=105,
        life=(5000, 10000),
        density=0.6,
        loss=0.45,
        cost=1.3,
        low=1e-6,
    ),
    # the sizes of GP 105, formed longer: for places where leakage is a time or a level
    Series(
        name="LK 105",
        cases=RADIAL,
        volts=(10, 16, 25, 35, 50, 63),
        temperature=105,
        life=(1000, 2000),
        density=1.25,
        cost=0.75,
        high=220e-6,
        note=LOW_LEAKAGE,
    ),
    Series(
        name="BP 85",
        cases=RADIAL,
        volts=(10, 16, 25, 35, 50, 63, 100),
        temperature=85,
        life=(2000, 2000),
        density=0.45,
        cost=0.8,
        bipolar=True,
        high=470e-6,
    ),
    Series(
        name="AX 85",
        cases=AXIAL,
        volts=(10, 16, 25, 40, 63, 100, 350, 450),
        temperature=85,
        life=(2000, 3000),
        mounting="axial",
        density=0.7,
        cost=1.6,
        low=1e-6,
    ),
    Series(
        name="CC 105",
        cases=CHIP,
        volts=(6.3, 10, 16, 25, 35, 50),
        temperature=105,
        life=(1000, 2000),
        mounting="can",
        density=0.9,
        cost=0.9,
        high=470e-6,
    ),
    Series(
        name="CN 85",
        cases=((25, 50), (30, 50), (35, 60), (35, 80)),
        volts=(350, 450),
        temperature=85,
        life=(2000, 2000),
        mounting="chassis",
        density=0.6,
        cost=2.2,
        low=10e-6,
        high=220e-6,
    ),
    Series(
        name="SC 85",
        cases=((36, 52), (51, 75), (51, 105), (64, 105)),
        volts=(16, 25, 40, 63, 100),
        temperature=85,
        life=(2000, 2000),
        mounting="screw",
        density=0.8,
        cost=0.9,
        low=4.7e-3,
        high=100e-3,
    ),
    Series(
        name="SN 105",
        cases=SNAP,
        volts=(25, 35, 50, 63, 100, 200, 250, 400, 450),
        temperature=105,
        life=(2000, 3000),
        mounting="snap",
        density=1.5,
        cost=0.8,
        low=47e-6,
        high=33e-3,
        taller=True,
    ),
)


def values(low: float, high: float) -> list[float]:
    """E6 values from low to high, F."""
    return [float(f"{v:.2g}") for v in eseries.erange(eseries.E6, low, high)]


def winding(case: tuple[float, float]) -> float:
    """Volume left for the winding inside a can of diameter × height (mm), mm³: walls and seal taken off."""
    d, h = case
    return math.pi / 4 * (d - 1) ** 2 * max(h - 4 if h > 8 else h - 2.6, 1)


def area(case: tuple[float, float]) -> float:
    """Surface that gives off heat, mm²."""
    d, h = case
    return math.pi * d * h + math.pi / 4 * d * d


def _steady(name: str, modulus: int) -> int:
    """A number from a name that is the same on every machine."""
    return zlib.crc32(name.encode()) % modulus


def _stock(name: str) -> int:
    return _steady(name, 31) if _steady("shelf " + name, 3) == 0 else 0


def _amount(value: float) -> str:
    unit, factor = next((u, f) for u, f in (("u", 1e6), ("n", 1e9), ("p", 1e12)) if value * f >= 0.99)
    return f"{value * factor:.6g}{unit}"


def wet_parts() -> Iterator[Capacitor]:
    """Every wet part of the catalogue."""
    for series in WET:
        for value in values(series.low, series.high):
            for volts in series.volts:
                per_mm3 = DENSITY * (16 / volts) ** DENSITY_FALL * series.density
                needed = value * 1e6 * volts / per_mm3
                fitting = [case for case in series.cases if winding(case) >= needed]
                smallest = series.cases[0]
                if not fitting or (fitting[0] == smallest and winding(smallest) > 40 * needed):
                    continue
                for i, case in enumerate(fitting[: 2 if series.taller else 1]):
                    yield _wet(series, value, volts, case, "B" if i else "")


def _wet(series: Series, value: float, volts: float, case: tuple[float, float], variant: str) -> Capacitor:
    diameter, height = case
    if series.low_impedance:
        esr, at = LOW_ESR * (LOW_ESR_VOLUME / winding(case)) ** 0.85 * (1 + volts / 250), 100e3
    else:
        esr, at = series.loss * ageing.tan_delta(value, volts) / (2 * math.pi * 120 * value), 120.0
    ripple = math.sqrt(HEAT * area(case) / esr)
    share = min(max((diameter - 5) / 8, 0.0), 1.0)
    life = round(series.life[0] + share * (series.life[1] - series.life[0]), -3)
    name = f"{series.name.replace(' ', '')}-{_amount(value)}-{volts:g}{variant}"
    volume = math.pi / 4 * diameter**2 * height
    pitch = {"radial": radial_pitch(diameter), "snap": 10.0}.get(series.mounting, 0.0)
    return Capacitor(
        part=name,
        series=series.name,
        kind="wet",
        value=value,
        volts=volts,
        mounting=series.mounting,
        diameter=diameter,
        height=height,
        pitch=pitch,
        temperature=series.temperature,
        life=life,
        ripple=float(f"{ripple:.3g}"),
        ripple_frequency=at,
        esr=float(f"{esr:.3g}"),
        esr_frequency=at,
        bipolar=series.bipolar,
        low_impedance=series.low_impedance,
        price=round((0.05 + volume * 2.3e-4) * series.cost, 2),
        pack=10 if volume < 1500 else 1,
        supplier=("North Quay Parts", "Lampwright Supply")[_steady(series.name, 2)],
        lead_days=3 + _steady(name, 6),
        stock=_stock(name),
        note=series.note,
    )


#: Film boxes by pitch: (pitch, length, height, volume of winding), mm and mm³.
BOXES = (
    (5.0, 7.2, 6.5, 110),
    (7.5, 10.0, 9.5, 320),
    (10.0, 13.0, 11.0, 640),
    (15.0, 18.0, 13.5, 1500),
    (22.5, 26.5, 19.0, 4600),
    (27.5, 31.5, 24.5, 9500),
    (37.5, 41.5, 34.0, 24000),
)


@dataclass(frozen=True, kw_only=True)
class FilmSeries:
    """A series of film boxes. density: nF·V² that a mm³ of winding takes, in units of 1e-9·V²·F."""

    name: str
    volts: tuple[float, ...]
    energy: float
    low: float
    high: float
    tolerance: float = 0.1
    ac_volts: float = 0.0
    safety: str = ""
    pulse: bool = False
    price: float = 0.12


FILM = (
    FilmSeries(name="MF 100", volts=(63, 100, 250, 400, 630), energy=9e-6, low=1e-9, high=4.7e-6),
    # the same boxes, sorted to ±5 %: for places whose value sets a frequency
    FilmSeries(
        name="MJ 100", volts=(63, 100, 250, 400), energy=9e-6, low=1e-9, high=4.7e-6, tolerance=0.05, price=0.15
    ),
    FilmSeries(
        name="PF 105", volts=(630, 1000), energy=9e-6, low=470e-12, high=220e-9, tolerance=0.05, pulse=True, price=0.3
    ),
    FilmSeries(
        name="XL 2",
        volts=(630,),
        energy=64e-6,
        low=10e-9,
        high=2.2e-6,
        tolerance=0.1,
        ac_volts=275.0,
        safety="X2",
        price=0.28,
    ),
    FilmSeries(
        name="YE 2",
        volts=(1000,),
        energy=14e-6,
        low=470e-12,
        high=22e-9,
        tolerance=0.2,
        ac_volts=300.0,
        safety="Y2",
        price=0.25,
    ),
)


def film_parts() -> Iterator[Capacitor]:
    """Every film part of the catalogue, class X2 and Y2 boxes among them."""
    for series in FILM:
        for value in values(series.low, series.high):
            for volts in series.volts:
                needed = value * volts**2 / series.energy
                boxes = [box for box in BOXES if box[3] >= needed]
                for pitch, length, height, volume in boxes[:2]:
                    name = f"{series.name.replace(' ', '')}-{_amount(value)}-{volts if not series.safety else series.ac_volts:g}-{pitch:g}"
                    yield Capacitor(
                        part=name,
                        series=series.name,
                        kind="film",
                        value=value,
                        volts=volts,
                        mounting="radial",
                        diameter=length,
                        height=height,
                        pitch=pitch,
                        tolerance=series.tolerance,
                        ac_volts=series.ac_volts,
                        safety=series.safety,
                        temperature=105.0 if series.pulse or series.safety else 100.0,
                        pulse=series.pulse,
                        price=round(series.price + volume * 1.1e-4, 2),
                        pack=5 if volume < 1000 else 1,
                        supplier="Lampwright Supply",
                        lead_days=2 + _steady(name, 5),
                        stock=_stock(name),
                    )


@dataclass(frozen=True, kw_only=True)
class DrySeries:
    """A series of polymer, tantalum or ceramic parts.

    energy: µF·V that a mm³ of body takes. cases: diameter or length, height and pitch, mm. esr: Ω of a 100 mm³ body at 100 kHz,
    0 where none is given.
    """

    name: str
    kind: str
    mounting: str
    cases: Sequence[tuple[float, float, float]]
    volts: tuple[float, ...]
    low: float
    high: float
    charge: float
    esr: float
    temperature: float
    life: float = 0.0
    price: float = 0.1
    tolerance: float = 0.2
    note: str = ""


SURFACE_CANS = tuple((d, h, 0.0) for d, h in CHIP)
POLYMER_CANS = ((5, 8, 2.0), (6.3, 8, 2.5), (8, 8, 3.5), (8, 11.5, 3.5), (10, 12.5, 5.0), (12.5, 13, 5.0))
DROPS = ((4.5, 7, 2.5), (5, 8, 2.5), (6, 9.5, 2.5), (7, 11, 5.0), (9, 13, 5.0))
DISCS = ((4, 4.5, 2.5), (5, 5.5, 5.0), (6.5, 7, 5.0), (8, 9, 5.0))
TANTALUM_CHIPS = ((3.2, 1.8, 0.0), (3.5, 2.1, 0.0), (6.0, 2.8, 0.0), (7.3, 3.1, 0.0))
CERAMIC_CHIPS = ((2.0, 1.3, 0.0), (3.2, 1.8, 0.0), (3.2, 2.6, 0.0), (5.7, 2.8, 0.0))

DRY = (
    DrySeries(
        name="PM 105",
        kind="polymer",
        mounting="radial",
        cases=POLYMER_CANS,
        volts=(4, 6.3, 10, 16, 25),
        low=10e-6,
        high=3.3e-3,
        charge=14.0,
        esr=0.013,
        temperature=105,
        life=2000,
        price=0.22,
    ),
    DrySeries(
        name="PC 105",
        kind="polymer",
        mounting="can",
        cases=SURFACE_CANS,
        volts=(4, 6.3, 10, 16, 25),
        low=10e-6,
        high=1e-3,
        charge=12.0,
        esr=0.016,
        temperature=105,
        life=2000,
        price=0.3,
    ),
    DrySeries(
        name="TD 125",
        kind="tantalum",
        mounting="radial",
        cases=DROPS,
        volts=(6.3, 10, 16, 25, 35, 50),
        low=100e-9,
        high=330e-6,
        charge=12.0,
        esr=0.9,
        temperature=125,
        life=0.0,
        price=0.2,
    ),
    DrySeries(
        name="TM 125",
        kind="tantalum",
        mounting="chip",
        cases=TANTALUM_CHIPS,
        volts=(6.3, 10, 16, 25, 35, 50),
        low=100e-9,
        high=470e-6,
        charge=40.0,
        esr=0.5,
        temperature=125,
        life=0.0,
        price=0.18,
    ),
    DrySeries(
        name="CR 7",
        kind="ceramic",
        mounting="radial",
        cases=DISCS,
        volts=(50, 100),
        low=1e-9,
        high=10e-6,
        charge=2.6,
        esr=0.02,
        temperature=125,
        life=0.0,
        price=0.05,
        tolerance=0.1,
        note="class 2",
    ),
    DrySeries(
        name="CM 7",
        kind="ceramic",
        mounting="chip",
        cases=CERAMIC_CHIPS,
        volts=(6.3, 10, 16, 25, 50),
        low=10e-9,
        high=47e-6,
        charge=18.0,
        esr=0.01,
        temperature=125,
        life=0.0,
        price=0.03,
        tolerance=0.1,
        note="class 2",
    ),
    DrySeries(
        name="CR 0",
        kind="ceramic",
        mounting="radial",
        cases=DISCS,
        volts=(50, 100),
        low=10e-12,
        high=22e-9,
        charge=0.02,
        esr=0.0,
        temperature=125,
        life=0.0,
        price=0.04,
        tolerance=0.05,
        note="class 1",
    ),
)


def dry_parts() -> Iterator[Capacitor]:
    """Every polymer, tantalum and ceramic part of the catalogue."""
    for series in DRY:
        for value in values(series.low, series.high):
            for volts in series.volts:
                needed = value * 1e6 * volts / series.charge
                case = next((c for c in series.cases if _body(c) >= needed), None)
                if case is not None:
                    yield _dry(series, value, volts, case)


def _body(case: tuple[float, float, float]) -> float:
    """Volume of a body, mm³."""
    return math.pi / 4 * case[0] ** 2 * case[1]


def _dry(series: DrySeries, value: float, volts: float, case: tuple[float, float, float]) -> Capacitor:
    name = f"{series.name.replace(' ', '')}-{_amount(value)}-{volts:g}"
    esr = series.esr * (100 / _body(case)) ** 0.5 if series.esr else 0.0
    ripple = math.sqrt(HEAT * area(case[:2]) / esr) if esr else 0.0
    return Capacitor(
        part=name,
        series=series.name,
        kind=series.kind,
        value=value,
        volts=volts,
        mounting=series.mounting,
        diameter=case[0],
        height=case[1],
        pitch=case[2],
        tolerance=series.tolerance,
        temperature=series.temperature,
        life=series.life,
        ripple=float(f"{ripple:.3g}"),
        ripple_frequency=100e3,
        esr=float(f"{esr:.3g}"),
        esr_frequency=100e3,
        low_impedance=series.kind == "polymer",
        price=round(series.price + _body(case) * 4e-4, 2),
        pack=10,
        supplier=("North Quay Parts", "Lampwright Supply")[_steady(series.name, 2)],
        lead_days=3 + _steady(name, 6),
        stock=_stock(name),
        note=series.note,
    )


def house_parts() -> list[Capacitor]:
    """The whole catalogue, in the order in which it is written."""
    return sorted([*wet_parts(), *film_parts(), *dry_parts()], key=lambda p: (p.series, p.value, p.volts, p.part))


def generic(part: T) -> T:
    """A size as anybody can buy it: without price, supplier, days to come or stock."""
    none = {"price": 0.0, "stock": 0}
    if isinstance(part, Capacitor):
        none |= {"supplier": "", "lead_days": 0, "pack": 1}
    return replace(part, **none)


def datapackage() -> dict[str, object]:
    """The Frictionless description of the catalogue."""
    return {
        "name": "idlebench-house-catalogue",
        "title": "Generic sizes of capacitors and of parts of other kinds, under plain series names",
        "resources": [
            schema("capacitors", "capacitors.csv", CATALOGUE, "part"),
            *(schema(table.file[:-4], table.file, table.columns, "part") for table in TABLES.values()),
            schema("causes", "causes.csv", CAUSES, "cause"),
            schema("evidence", "evidence.csv", EVIDENCE, "sign", "cause"),
        ],
    }


def main(folder: Path = Path(__file__).parent) -> None:
    """Write the CSV and its description."""
    parts = house_parts()
    # what ships are sizes that anybody can buy somewhere: prices, suppliers and stock are a person's own
    parts = [generic(p) for p in parts]
    others = {what: [generic(p) for p in make()] for what, make in make_others.MAKERS.items()}
    for what, rows in others.items():
        (folder / TABLES[what].file).write_text(write_devices(what, rows), encoding="utf-8")
    (folder / "capacitors.csv").write_text(write_catalogue(parts), encoding="utf-8")
    (folder / "datapackage.json").write_text(
        json.dumps(datapackage(), indent=1, ensure_ascii=False) + "\n", encoding="utf-8"
    )
    print(", ".join(f"{len(rows)} {TABLES[what].file[:-4]}" for what, rows in others.items()))
    print(f"{len(parts)} capacitors, {len({p.series for p in parts})} series")


if __name__ == "__main__":
    main()

"""The values that a printed marking can mean, each with why.

Source: IEC 60062:2016, clauses 4 and 5 (value and tolerance codes); JIS C 5101-1:2010 (voltage codes 0E to 3D); vintage
spellings: workshop practice, because no standard covers them.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

import eseries

from .quantity import PREFIX, VOLT_RATINGS, decimal

#: Tolerance letters (IEC 60062:2016, clause 5): (low, high) as fractions of the value.
TOLERANCE = {
    "F": (-0.01, 0.01),
    "G": (-0.02, 0.02),
    "J": (-0.05, 0.05),
    "K": (-0.10, 0.10),
    "M": (-0.20, 0.20),
    "Q": (-0.10, 0.30),
    "S": (-0.20, 0.50),
    "T": (-0.10, 0.50),
    "Z": (-0.20, 0.80),
}


#: Tolerance letters that are absolute, farads, and so only belong on small values.
TOLERANCE_ABSOLUTE = {"B": 0.1e-12, "C": 0.25e-12, "D": 0.5e-12}


#: Two-character voltage codes (EIA/JIS), volts.
VOLTAGE_CODE = {
    "0E": 2.5, "0G": 4.0, "0L": 5.5, "0J": 6.3, "0K": 8.0,
    "1A": 10.0, "1B": 12.5, "1C": 16.0, "1D": 20.0, "1E": 25.0, "1V": 35.0, "1G": 40.0, "1H": 50.0, "1J": 63.0, "1K": 80.0,
    "2A": 100.0, "2B": 125.0, "2C": 160.0, "2D": 200.0, "2E": 250.0, "2F": 315.0, "2V": 350.0, "2G": 400.0,
    "2W": 450.0, "2H": 500.0, "2J": 630.0, "2K": 800.0,
    "3A": 1000.0, "3B": 1250.0, "3C": 1600.0, "3D": 2000.0,
}  # fmt: skip


#: One-letter voltage codes on small tantalums and chip cans, volts.
VOLTAGE_LETTER = {
    "e": 2.5,
    "G": 4.0,
    "J": 6.3,
    "A": 10.0,
    "C": 16.0,
    "D": 20.0,
    "E": 25.0,
    "V": 35.0,
    "H": 50.0,
}


#: Kinds on which a bare number means µF, because the part is a can or a moulded electrolytic.
MICRO_KINDS = ("wet", "polymer", "tantalum")


_VINTAGE = (
    (r"MMFD?|mmfd?|µµF|uuF|UUF", 1e-12, "MMF, mmfd and µµF are old spellings of pF"),
    (r"MFD?|mfd|Mfd", 1e-6, "MFD and MF are old spellings of µF"),
    (r"mF", 1e-6, "mF on an old part means µF"),
    (r"µF|uF|UF|µ|u", 1e-6, "printed in µF"),
    (r"nF|NF|n", 1e-9, "printed in nF"),
    (r"pF|PF|p", 1e-12, "printed in pF"),
    (r"F", 1.0, "printed in farads"),
)


@dataclass(frozen=True, kw_only=True)
class Found:
    """The value part of a marking in one reading, and how likely it is before plausibility is weighed."""

    capacitance: float
    why: str
    weight: float
    tolerance: tuple[float, float] | None = None
    volts: float | None = None


def possible_values(rest: str, kind: str) -> list[Found]:
    """Every reading of what is left, unweighed by kind."""
    found: list[Found] = []
    for reader in (_with_unit, _letter_for_point, _code, _code_with_letter, _pair, _bare):
        found += reader(rest, kind)
    return found


def _with_unit(rest: str, kind: str) -> list[Found]:
    for pattern, scale, why in _VINTAGE:
        if hit := re.fullmatch(
            rf"(\d*(?:,\d+)*(?:\.\d+)?)\s*(?:{pattern})\s*({''.join(TOLERANCE)}|[FGJKMQSTZ])?(?:[\s/]*(\d+))?", rest
        ):
            if not re.search(r"\d", hit[1]):
                continue
            value = float(decimal(hit[1], "F", "marking")) * scale
            volts = float(hit[3]) if hit[3] and float(hit[3]) in VOLT_RATINGS else None
            if hit[3] and volts is None:
                continue
            return [Found(capacitance=value, why=why, weight=10, tolerance=TOLERANCE.get(hit[2] or ""), volts=volts)]
    return []


def _letter_for_point(rest: str, kind: str) -> list[Found]:
    """``4u7``, ``µ22``, ``2n2``, ``R47``, ``4m7``, and ``10µ35`` that is 10 µF 35 V."""
    hit = re.fullmatch(r"(\d*)([RrpnuµmUNP])(\d+)\s*F?\s*([FGJKMQSTZ])?(\d{2,4})?", rest)
    if not hit:
        return []
    whole, letter, fraction, tolerance, after = hit.groups()
    number = float(f"{whole or 0}.{fraction}")
    band = TOLERANCE.get(tolerance or "")
    volts = float(after) if after and float(after) in VOLT_RATINGS else None
    if letter in "Rr":
        micro = Found(
            capacitance=number * 1e-6,
            why="R stands for the point; on this kind it counts µF",
            weight=4,
            tolerance=band,
            volts=volts,
        )
        pico = Found(
            capacitance=number * 1e-12,
            why="R stands for the point; on a ceramic it counts pF",
            weight=4,
            tolerance=band,
            volts=volts,
        )
        return [pico, micro] if kind == "ceramic" else [micro, pico]
    scale = PREFIX[letter.lower()]
    name = {"p": "pF", "n": "nF", "u": "µF", "µ": "µF", "m": "mF"}[letter.lower()]
    found = [
        Found(
            capacitance=number * scale,
            why=f"{letter} stands for the point, in {name}",
            weight=6,
            tolerance=band,
            volts=volts,
        )
    ]
    if whole and float(fraction) in VOLT_RATINGS and len(fraction) == 2 and not tolerance:
        weight = 7 if not preferred(number) else 3
        found.append(
            Found(
                capacitance=float(whole) * scale,
                why=f"{name}, then the volts",
                weight=weight,
                tolerance=None,
                volts=float(fraction),
            )
        )
    return found


def _code(rest: str, kind: str) -> list[Found]:
    """A three-digit code in pF, with a voltage code before or after it and a tolerance letter."""
    hit = re.fullmatch(r"([0-3][A-Z])?\s*(\d\d)(\d)\s*([BCDFGJKMQSTZ])?\s*([0-3][A-Z]|\d{2,4})?", rest)
    if not hit:
        return []
    before, digits, power, letter, after = hit.groups()
    volts = VOLTAGE_CODE.get(before or "") or VOLTAGE_CODE.get(after or "")
    # 476 10 and 476K10: a number that no part is made in is a code, and what follows are the volts
    beside = letter or (" " in rest and not preferred(float(digits + power)))
    if volts is None and after and after.isdigit() and beside:
        volts = float(after) if float(after) in VOLT_RATINGS else None
    if (before or after) and volts is None:
        return []
    value = int(digits) * 10.0 ** {"8": -2, "9": -1}.get(power, int(power)) * 1e-12
    band = _band(letter, value)
    if letter and band is None:
        return []
    formula = f"three-digit code: {digits}·10^{ {'8': -2, '9': -1}.get(power, int(power)) } pF"
    bare = not (before or after or letter)
    return [Found(capacitance=value, why=formula, weight=4 if bare else 6, tolerance=band, volts=volts)]


def _band(letter: str | None, value: float) -> tuple[float, float] | None:
    if letter in TOLERANCE_ABSOLUTE and value <= 100e-12:
        part = TOLERANCE_ABSOLUTE[letter] / value
        return (-part, part)
    return TOLERANCE.get(letter or "")


def _code_with_letter(rest: str, kind: str) -> list[Found]:
    """``107C`` and ``C107``: a code with a one-letter voltage, as on small tantalums and chip cans."""
    hit = re.fullmatch(r"([eGJACDEVH])?\s*(\d\d)([0-7])\s*([eGJACDEVH])?", rest)
    if not hit or bool(hit[1]) == bool(hit[4]):
        return []
    value = int(hit[2]) * 10.0 ** int(hit[3]) * 1e-12
    volts = VOLTAGE_LETTER[hit[1] or hit[4]]
    weight = 7 if kind in MICRO_KINDS or hit[1] else 3
    return [
        Found(
            capacitance=value,
            why=f"code {hit[2]}{hit[3]}, and the letter is the volts",
            weight=weight,
            tolerance=None,
            volts=volts,
        )
    ]


def _pair(rest: str, kind: str) -> list[Found]:
    """``100 16`` and ``100/16``: value and volts."""
    hit = re.fullmatch(r"(\d*[.,]?\d+)\s*[ /x]\s*(\d+(?:[.,]\d+)?)", rest)
    if not hit or kind in ("ceramic",):
        return []
    first, second = (float(text.replace(",", ".")) for text in hit.groups())
    found = []
    if second in VOLT_RATINGS:
        found.append(
            Found(
                capacitance=first * 1e-6,
                why="µF, then the volts",
                weight=6 if preferred(first, eseries.E6) else 4,
                tolerance=None,
                volts=second,
            )
        )
    if first in VOLT_RATINGS and not preferred(first, eseries.E6):
        found.append(
            Found(capacitance=second * 1e-6, why="volts first, then µF", weight=5, tolerance=None, volts=first)
        )
    return found


def _bare(rest: str, kind: str) -> list[Found]:
    hit = re.fullmatch(r"(\d*[.,]?\d+)\s*([FGJKMQSTZ])?\s*(\d{2,4})?", rest)
    if not hit:
        return []
    number = float(hit[1].replace(",", "."))
    volts = float(hit[3]) if hit[3] and float(hit[3]) in VOLT_RATINGS else None
    if number <= 0 or (hit[3] and (volts is None or not hit[2])):
        return []
    band = TOLERANCE.get(hit[2] or "")
    if kind in MICRO_KINDS:
        weight = 5 if preferred(number) else 3
        return [
            Found(
                capacitance=number * 1e-6,
                why="a bare number on this kind of part is µF",
                weight=weight,
                tolerance=band,
                volts=volts,
            )
        ]
    if number < 1 or (kind in ("film", "paper") and number < 22 and not float(number).is_integer()):
        return [
            Found(
                capacitance=number * 1e-6,
                why="a number with a point on this kind is µF",
                weight=5,
                tolerance=band,
                volts=volts,
            )
        ]
    if kind == "":
        micro = [Found(capacitance=number * 1e-6, why="on a can: µF", weight=4, tolerance=band, volts=volts)]
    else:
        micro = (
            [Found(capacitance=number * 1e-6, why="printed in µF", weight=2, tolerance=band, volts=volts)]
            if number < 30 and kind != "ceramic"
            else []
        )
    return [
        Found(capacitance=number * 1e-12, why="a bare number here is pF", weight=3, tolerance=band, volts=volts),
        *micro,
    ]


def preferred(number: float, series: eseries.ESeries = eseries.E24) -> bool:
    """Whether a number stands in an E series, at any power of ten."""
    nearest = eseries.find_nearest(series, number)
    return math.isclose(nearest, number, rel_tol=1e-6)

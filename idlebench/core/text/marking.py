"""What is printed on a part: value, tolerance, volts, safety class, temperature.

Sources: IEC 60062:2016, clauses 4 and 5 (value and tolerance codes); the two-character voltage codes 0E to 3D of JIS C 5101-1:2010;
EIA-198-1-F:2002 (dielectrics); vintage spellings: workshop practice, because no standard covers them. Where a text has two readings
both are given, the likelier first for that kind of part.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, replace

import eseries

from ..refusal import BadInput
from .calculation import Calculation, CalculationLine
from .quantity import PREFIX, VOLT_RATINGS, decimal, show

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
#: What a safety part is marked with beside its class, V AC.
AC_RATINGS = (250, 275, 300, 305, 310, 330, 400, 440, 480, 500, 760)
#: Codes of a ceramic's dielectric: they say how it strays, not what it holds (EIA-198-1-F:2002, classes II and III).
_DIELECTRIC = re.compile(r"(?<![A-Z0-9])(?:C0G|COG|NP0|NPO|[XYZ][4-8][PRSTUV])(?![A-Z0-9])")

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

#: The values each kind of part is made in, farads: (least, greatest).
PLAUSIBLE = {
    "wet": (0.09e-6, 1.5),
    "polymer": (0.9e-6, 5e-3),
    "tantalum": (40e-9, 3e-3),
    "ceramic": (0.4e-12, 120e-6),
    "film": (90e-12, 120e-6),
    "paper": (90e-12, 25e-6),
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
_END = r"(?![A-Za-zµ0-9])"
_SAFETY = re.compile(r"(?<![A-Z0-9])([XY][1-4])(?:\s*/?\s*([XY][1-4]))?(?![0-9])")
_AC = re.compile(r"(\d{2,4})\s*(?:V\s*)?(?:~|AC|ac)")
_DC = re.compile(r"(?<![A-Za-z\d.,])(\d+(?:[.,]\d+)?)\s*([kK])?(?:V\s*DC|VDCW|WVDC|WV|V|v)" + _END)
_TEMPERATURE = re.compile(r"(85|105|125|130)\s*(?:°\s*C|℃|°|deg(?:rees)?\.?\s*C?)|(?<=\s)(85|105|125|130)\s*C" + _END)


@dataclass(frozen=True, kw_only=True)
class MarkingReading:
    """One way of reading a marking. Capacitance in farads, tolerance as (low, high) fractions, volts DC and AC, °C."""

    capacitance: float
    why: str
    tolerance: tuple[float, float] | None = None
    volts: float | None = None
    ac_volts: float | None = None
    safety: str = ""
    temperature: float | None = None

    @property
    def text(self) -> str:
        """The reading in one line, as people write it."""
        bits = [show(self.capacitance, "F")]
        if self.tolerance:
            low, high = self.tolerance
            bits.append(f"±{high * 100:g} %" if -low == high else f"{low * 100:+g}/{high * 100:+g} %".replace("-", "−"))
        if self.volts:
            bits.append(f"{self.volts:g} V")
        if self.ac_volts:
            bits.append(f"{self.ac_volts:g} V~")
        if self.safety:
            bits.append(f"class {self.safety}")
        if self.temperature:
            bits.append(f"{self.temperature:g} °C")
        return " ".join(bits)


@dataclass(frozen=True)
class Marking:
    """What a marking says: its readings, the likeliest first. More than one means: ask, do not guess."""

    text: str
    kind: str
    readings: tuple[MarkingReading, ...]

    @property
    def best(self) -> MarkingReading:
        return self.readings[0]

    @property
    def doubtful(self) -> bool:
        """Whether a second reading is left that is about as likely as the first."""
        return len(self.readings) > 1


@dataclass(frozen=True, kw_only=True)
class _Found:
    """The value part of a marking in one reading, and how likely it is before plausibility is weighed."""

    capacitance: float
    why: str
    weight: float
    tolerance: tuple[float, float] | None = None
    volts: float | None = None


def read_marking(text: str, kind: str = "") -> Marking:
    """Read the print on a capacitor.

    Args:
        text: the print, lines joined by spaces: ``104K 2A``, ``100/16``, ``0.1 MFD 400V``, ``X2 275~ .22``.
        kind: ``wet polymer tantalum ceramic film paper``, or "" when it is not known.

    Returns:
        a Marking with every plausible reading, the likeliest for that kind first.

    Raises:
        BadInput: no value can be read from it.

    Source: as at the top of this module.

    >>> read_marking('104K', 'film').best.text
    '100 nF ±10 %'
    >>> [r.text for r in read_marking('220', 'ceramic').readings]
    ['22 pF', '220 pF']
    """
    raw = " ".join(str(text).replace("μ", "µ").split())
    expected = "a marking such as 104K, 4u7, 100/16 or 0.1 MFD 400V"
    if not raw or len(raw) > 60:
        raise BadInput(raw, expected, "Type what is printed on the part.", field="marking")
    if kind and kind not in PLAUSIBLE:
        raise BadInput(kind, f"one of {', '.join(PLAUSIBLE)}", field="kind")
    rest, common = _common(raw, kind)
    found = _values(rest.strip(" ,;/"), kind)
    readings = _weighed(found, kind, common)
    if not readings:
        raise BadInput(
            raw, expected, "Give the value on its own if the rest is a maker's or date code.", field="marking"
        )
    return Marking(raw, kind, readings)


def _is_code(found: re.Match[str], rest: str, kind: str) -> bool:
    """Whether what looks like volts is a code with the letter V for 35 V: ``336V`` on a small tantalum is 33 µF."""
    code = found[0] == rest.strip() and re.fullmatch(r"\d\d[0-7]V", found[0])
    return bool(code) and kind in MICRO_KINDS and float(found[1]) not in VOLT_RATINGS


def _common(raw: str, kind: str) -> tuple[str, MarkingReading]:
    """Take out of a marking what has only one reading: safety class, volts with their V, temperature."""
    common, rest = MarkingReading(capacitance=0.0, why=""), raw
    if found := _DIELECTRIC.search(rest):
        rest = _cut(rest, found)
    if found := _SAFETY.search(rest):
        common = replace(common, safety="/".join(filter(None, found.groups())))
        rest = _cut(rest, found)
    if found := _AC.search(rest):
        common = replace(common, ac_volts=float(found[1]))
        rest = _cut(rest, found)
    if common.safety and common.ac_volts is None:
        rest, common = _ac_alone(rest, common)
    if found := _TEMPERATURE.search(rest):
        common = replace(common, temperature=float(found[1] or found[2]))
        rest = _cut(rest, found)
    if (found := _DC.search(rest)) and not _is_code(found, rest, kind):
        common = replace(common, volts=float(found[1].replace(",", ".")) * (1000 if found[2] else 1))
        rest = _cut(rest, found)
    if common.volts is None:
        rest, common = _code_alone(rest, common)
    return rest, common


def _ac_alone(rest: str, common: MarkingReading) -> tuple[str, MarkingReading]:
    """A bare number of AC volts beside a safety class: ``0.47 275 X2``."""
    words = rest.split()
    if len(words) > 1 and words[-1] in map(str, AC_RATINGS):
        return " ".join(words[:-1]), replace(common, ac_volts=float(words[-1]))
    return rest, common


def _code_alone(rest: str, common: MarkingReading) -> tuple[str, MarkingReading]:
    """A voltage code that stands as a word of its own beside a value: ``104J 2A``."""
    words = rest.split()
    for i, word in enumerate(words):
        if len(words) > 1 and word in VOLTAGE_CODE:
            return " ".join(words[:i] + words[i + 1 :]), replace(common, volts=VOLTAGE_CODE[word])
    return rest, common


def _cut(text: str, found: re.Match[str]) -> str:
    return " ".join((text[: found.start()] + " " + text[found.end() :]).split())


def _values(rest: str, kind: str) -> list[_Found]:
    """Every reading of what is left, unweighed by kind."""
    found: list[_Found] = []
    for reader in (_with_unit, _letter_for_point, _code, _code_with_letter, _pair, _bare):
        found += reader(rest, kind)
    return found


def _with_unit(rest: str, kind: str) -> list[_Found]:
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
            return [_Found(capacitance=value, why=why, weight=10, tolerance=TOLERANCE.get(hit[2] or ""), volts=volts)]
    return []


def _letter_for_point(rest: str, kind: str) -> list[_Found]:
    """``4u7``, ``µ22``, ``2n2``, ``R47``, ``4m7``, and ``10µ35`` that is 10 µF 35 V."""
    hit = re.fullmatch(r"(\d*)([RrpnuµmUNP])(\d+)\s*F?\s*([FGJKMQSTZ])?(\d{2,4})?", rest)
    if not hit:
        return []
    whole, letter, fraction, tolerance, after = hit.groups()
    number = float(f"{whole or 0}.{fraction}")
    band = TOLERANCE.get(tolerance or "")
    volts = float(after) if after and float(after) in VOLT_RATINGS else None
    if letter in "Rr":
        micro = _Found(
            capacitance=number * 1e-6,
            why="R stands for the point; on this kind it counts µF",
            weight=4,
            tolerance=band,
            volts=volts,
        )
        pico = _Found(
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
        _Found(
            capacitance=number * scale,
            why=f"{letter} stands for the point, in {name}",
            weight=6,
            tolerance=band,
            volts=volts,
        )
    ]
    if whole and float(fraction) in VOLT_RATINGS and len(fraction) == 2 and not tolerance:
        weight = 7 if not _preferred(number) else 3
        found.append(
            _Found(
                capacitance=float(whole) * scale,
                why=f"{name}, then the volts",
                weight=weight,
                tolerance=None,
                volts=float(fraction),
            )
        )
    return found


def _code(rest: str, kind: str) -> list[_Found]:
    """A three-digit code in pF, with a voltage code before or after it and a tolerance letter."""
    hit = re.fullmatch(r"([0-3][A-Z])?\s*(\d\d)(\d)\s*([BCDFGJKMQSTZ])?\s*([0-3][A-Z]|\d{2,4})?", rest)
    if not hit:
        return []
    before, digits, power, letter, after = hit.groups()
    volts = VOLTAGE_CODE.get(before or "") or VOLTAGE_CODE.get(after or "")
    # 476 10 and 476K10: a number that no part is made in is a code, and what follows are the volts
    beside = letter or (" " in rest and not _preferred(float(digits + power)))
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
    return [_Found(capacitance=value, why=formula, weight=4 if bare else 6, tolerance=band, volts=volts)]


def _band(letter: str | None, value: float) -> tuple[float, float] | None:
    if letter in TOLERANCE_ABSOLUTE and value <= 100e-12:
        part = TOLERANCE_ABSOLUTE[letter] / value
        return (-part, part)
    return TOLERANCE.get(letter or "")


def _code_with_letter(rest: str, kind: str) -> list[_Found]:
    """``107C`` and ``C107``: a code with a one-letter voltage, as on small tantalums and chip cans."""
    hit = re.fullmatch(r"([eGJACDEVH])?\s*(\d\d)([0-7])\s*([eGJACDEVH])?", rest)
    if not hit or bool(hit[1]) == bool(hit[4]):
        return []
    value = int(hit[2]) * 10.0 ** int(hit[3]) * 1e-12
    volts = VOLTAGE_LETTER[hit[1] or hit[4]]
    weight = 7 if kind in MICRO_KINDS or hit[1] else 3
    return [
        _Found(
            capacitance=value,
            why=f"code {hit[2]}{hit[3]}, and the letter is the volts",
            weight=weight,
            tolerance=None,
            volts=volts,
        )
    ]


def _pair(rest: str, kind: str) -> list[_Found]:
    """``100 16`` and ``100/16``: value and volts."""
    hit = re.fullmatch(r"(\d*[.,]?\d+)\s*[ /x]\s*(\d+(?:[.,]\d+)?)", rest)
    if not hit or kind in ("ceramic",):
        return []
    first, second = (float(text.replace(",", ".")) for text in hit.groups())
    found = []
    if second in VOLT_RATINGS:
        found.append(
            _Found(
                capacitance=first * 1e-6,
                why="µF, then the volts",
                weight=6 if _preferred(first, eseries.E6) else 4,
                tolerance=None,
                volts=second,
            )
        )
    if first in VOLT_RATINGS and not _preferred(first, eseries.E6):
        found.append(
            _Found(capacitance=second * 1e-6, why="volts first, then µF", weight=5, tolerance=None, volts=first)
        )
    return found


def _bare(rest: str, kind: str) -> list[_Found]:
    hit = re.fullmatch(r"(\d*[.,]?\d+)\s*([FGJKMQSTZ])?\s*(\d{2,4})?", rest)
    if not hit:
        return []
    number = float(hit[1].replace(",", "."))
    volts = float(hit[3]) if hit[3] and float(hit[3]) in VOLT_RATINGS else None
    if number <= 0 or (hit[3] and (volts is None or not hit[2])):
        return []
    band = TOLERANCE.get(hit[2] or "")
    if kind in MICRO_KINDS:
        weight = 5 if _preferred(number) else 3
        return [
            _Found(
                capacitance=number * 1e-6,
                why="a bare number on this kind of part is µF",
                weight=weight,
                tolerance=band,
                volts=volts,
            )
        ]
    if number < 1 or (kind in ("film", "paper") and number < 22 and not float(number).is_integer()):
        return [
            _Found(
                capacitance=number * 1e-6,
                why="a number with a point on this kind is µF",
                weight=5,
                tolerance=band,
                volts=volts,
            )
        ]
    if kind == "":
        micro = [_Found(capacitance=number * 1e-6, why="on a can: µF", weight=4, tolerance=band, volts=volts)]
    else:
        micro = (
            [_Found(capacitance=number * 1e-6, why="printed in µF", weight=2, tolerance=band, volts=volts)]
            if number < 30 and kind != "ceramic"
            else []
        )
    return [
        _Found(capacitance=number * 1e-12, why="a bare number here is pF", weight=3, tolerance=band, volts=volts),
        *micro,
    ]


def _preferred(number: float, series: eseries.ESeries = eseries.E24) -> bool:
    """Whether a number stands in an E series, at any power of ten."""
    nearest = eseries.find_nearest(series, number)
    return math.isclose(nearest, number, rel_tol=1e-6)


def _weighed(found: list[_Found], kind: str, common: MarkingReading) -> tuple[MarkingReading, ...]:
    """Order readings by likelihood for the kind, drop implausible ones and repeats."""
    low, high = PLAUSIBLE.get(kind, (0.4e-12, 1.5))
    scored = []
    for item in found:
        if item.capacitance <= 0:
            continue
        inside = low * 0.999 <= item.capacitance <= high * 1.001
        weight = item.weight - (0 if inside else 6) - (0 if _preferred(item.capacitance) else 3.5)
        scored.append((weight, item))
    scored.sort(key=lambda pair: -pair[0])
    readings: list[MarkingReading] = []
    for weight, item in scored:
        if readings and (weight < scored[0][0] - 3 or weight < 0):
            continue
        reading = replace(common, capacitance=item.capacitance, why=item.why, tolerance=item.tolerance)
        if item.volts:
            reading = replace(reading, volts=common.volts or item.volts)
        if not any(_same(reading, other) for other in readings):
            readings.append(reading)
    return tuple(readings)


def _same(a: MarkingReading, b: MarkingReading) -> bool:
    return math.isclose(a.capacitance, b.capacitance, rel_tol=1e-9) and a.volts in (b.volts, None)


def marking_working(text: str, kind: str = "") -> Calculation:
    """The marking reckoning: the likeliest reading as values, all of them as lines."""
    marking = read_marking(text, kind)
    best = marking.best
    lines = tuple(
        CalculationLine(
            label="Likeliest reading" if i == 0 else "Also possible",
            formula=reading.why,
            numbers=reading.text,
            value=reading.capacitance,
            unit="F",
            source="IEC 60062:2016, clauses 4 and 5; voltage codes: JIS C 5101-1:2010, annex",
        )
        for i, reading in enumerate(marking.readings)
    )
    cautions = (
        ("The marking has more than one reading: measure the part before you trust a reading.",)
        if marking.doubtful
        else ()
    )
    values = {
        "capacitance": best.capacitance,
        "tolerance": list(best.tolerance) if best.tolerance else None,
        "volts": best.volts,
        "ac_volts": best.ac_volts,
        "safety": best.safety or None,
        "temperature": best.temperature,
        "readings": [reading.text for reading in marking.readings],
    }
    return Calculation(
        name="marking", values=values, lines=lines, cautions=cautions, inputs={"text": text, "kind": kind}
    )

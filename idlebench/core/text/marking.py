"""What is printed on a part: value, tolerance, volts, safety class, temperature.

Sources: IEC 60062:2016, clauses 4 and 5 (value and tolerance codes); the two-character voltage codes 0E to 3D of JIS C 5101-1:2010;
EIA-198-1-F:2002 (dielectrics); vintage spellings: workshop practice, because no standard covers them. Where a text has two readings
both are given, the likelier first for that kind of part.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, replace

from ..refusal import BadInput
from .calculation import Calculation, CalculationLine
from .marking_values import MICRO_KINDS, VOLTAGE_CODE, Found, possible_values, preferred
from .quantity import VOLT_RATINGS, show

#: What a safety part is marked with beside its class, V AC.
AC_RATINGS = (250, 275, 300, 305, 310, 330, 400, 440, 480, 500, 760)
#: Codes of a ceramic's dielectric: they say how it strays, not what it holds (EIA-198-1-F:2002, classes II and III).
_DIELECTRIC = re.compile(r"(?<![A-Z0-9])(?:C0G|COG|NP0|NPO|[XYZ][4-8][PRSTUV])(?![A-Z0-9])")


#: The values each kind of part is made in, farads: (least, greatest).
PLAUSIBLE = {
    "wet": (0.09e-6, 1.5),
    "polymer": (0.9e-6, 5e-3),
    "tantalum": (40e-9, 3e-3),
    "ceramic": (0.4e-12, 120e-6),
    "film": (90e-12, 120e-6),
    "paper": (90e-12, 25e-6),
}


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
    found = possible_values(rest.strip(" ,;/"), kind)
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


def _weighed(found: list[Found], kind: str, common: MarkingReading) -> tuple[MarkingReading, ...]:
    """Order readings by likelihood for the kind, drop implausible ones and repeats."""
    low, high = PLAUSIBLE.get(kind, (0.4e-12, 1.5))
    scored = []
    for item in found:
        if item.capacitance <= 0:
            continue
        inside = low * 0.999 <= item.capacitance <= high * 1.001
        weight = item.weight - (0 if inside else 6) - (0 if preferred(item.capacitance) else 3.5)
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

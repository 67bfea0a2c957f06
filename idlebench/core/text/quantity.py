"""Reading and writing values with units. SI floats inside; people read and type ``4u7``, ``4.7 µF``, ``10 Ω``."""

from __future__ import annotations

import math
import re
from functools import lru_cache

import eseries
from quantiphy import Quantity

from ..refusal import Ambiguous, BadInput

#: Powers of ten by prefix. Values are scaled as decimal text, so that 100u is the very float 1e-4.
EXPONENT = {"": 0, "p": -12, "n": -9, "u": -6, "µ": -6, "μ": -6, "m": -3, "k": 3, "K": 3, "M": 6, "G": 9}
PREFIX = {letter: float(f"1e{power}") for letter, power in EXPONENT.items()}

#: Other ways in which people write a unit, by the unit they mean.
SPELLINGS = {
    "F": ("f", "farad", "farads"),
    "Ω": ("ω", "Ω", "ohm", "ohms", "r"),
    "V": ("v", "volt", "volts", "vdc", "vac", "wv"),
    "A": ("a", "amp", "amps"),
    "Hz": ("hz",),
    "W": ("w", "watt", "watts"),
    "°C": ("c", "°c", "degc", "℃"),
    "s": ("s", "sec"),
    "h": ("h", "hr", "hours"),
    "mm": ("mm",),
    "J": ("j",),
    "H": ("h", "henry", "henries"),
}

EXAMPLE = {
    "F": "4u7 or 4.7 µF",
    "Ω": "10k or 0R47",
    "V": "16 or 16 V",
    "A": "1.46 A or 350m",
    "Hz": "100k or 50 Hz",
    "W": "5 or 0.25 W",
    "°C": "105",
    "mm": "12.5",
    "h": "2000",
    "s": "1.5",
    "H": "10u or 4.7 mH",
}

#: The rated voltages that parts are made for, volts.
VOLT_RATINGS = (2.5, 4, 6.3, 10, 16, 25, 35, 50, 63, 80, 100, 160, 200, 250, 350, 400, 450, 630, 1000)
_NUMBER = re.compile(r"([+\-−]?)(\d*(?:,\d+)*(?:\.\d+)?(?:[eE][+\-]?\d+)?)\s*(.*)", re.S)
_INFIX = re.compile(r"([+\-−]?)(\d*)([pnuµμmkKMGrR])(\d+)\s*(.*)", re.S)


def read(
    text: str,
    unit: str = "",
    *,
    field: str = "",
    low: float | None = None,
    high: float | None = None,
    above: float | None = None,
) -> float:
    """Read a value as a person types it, into SI.

    Args:
        text: ``4u7``, ``4.7 µF``, ``4,7u``, ``0.0000047``, ``10k``, ``R47``, ``-12 V``.
        unit: the unit expected, ``F``, ``Ω``, ``V`` … (mm, °C and h are kept as they are); "" for a bare number.
        field: what to call it in a complaint. low, high: the least and greatest value that makes sense, inclusive.
        low: the lower limit, in SI; None for none.
        high: the upper limit, in SI; None for none.
        above: a bound the value must exceed.

    Returns:
        the value in SI units.


    Raises:
        BadInput: not a value, another unit, or outside the bounds.

    >>> f"{read('4u7', 'F'):.3g}"
    '4.7e-06'
    >>> read('2k2', 'Ω')
    2200.0
    """
    raw = str(text).strip()
    expected = f"a value in {unit}, such as {EXAMPLE[unit]}" if unit in EXAMPLE else "a number"
    if not raw or len(raw) > 60:
        raise BadInput(raw, expected, field=field)
    if unit == "F" and re.search(r"\d\s*mF$", raw):
        number = raw[:-2].strip()
        plain = number.replace(",", ".")
        thousand = f"{float(plain) * 1000:.10g}u" if re.fullmatch(r"\d+(\.\d+)?", plain) else "a thousand times that"
        raise Ambiguous(
            raw,
            f"{number} µF, as on old parts, or a thousand times as much, as today",
            f"Write {number}u, or {thousand}.",
            field=field,
            instead=(f"{number}u", thousand) if thousand.endswith("u") else (),
        )
    value = _infix(raw, unit)
    if value is None:
        value = _plain(raw, unit, field)
    if value is None or not math.isfinite(value):
        raise BadInput(raw, expected, "Write the number with its unit.", field=field)
    return _bounded(value, raw, unit, field, low, high, above)


def _made(number: float) -> bool:
    """Whether parts are made with these figures: an E24 value, at any power of ten."""
    return math.isclose(eseries.find_nearest(eseries.E24, number), number, rel_tol=1e-9)


def decimal(digits: str, unit: str, field: str = "") -> str:
    """A number's digits with a decimal point, whatever its commas mean.

    ``4,7`` is 4.7. Three digits after one comma are thousands where a part may have that value (``1,000 µF``, ``2,200 pF``) and
    always for hours and hertz; ``0,047`` is decimal. Else both are possible, and it is asked.

    Args:
        digits: the number as it was typed.
        unit: its unit.
        field: the name of the field, for the refusal.

    Returns:
        The digits, with a point.

    Raises:
        BadInput: both readings are possible; it names them.

    >>> decimal('4,7', 'F'), decimal('1,000', 'F'), decimal('0,047', 'F'), decimal('10,000.5', 'F')
    ('4.7', '1000', '0.047', '10000.5')
    """
    if "," not in digits:
        return digits
    if not re.fullmatch(r"\d{1,3}(?:,\d{3})+(?:\.\d+)?", digits) or digits.startswith("0"):
        return digits.replace(",", ".")
    thousands, point = digits.replace(",", ""), digits.replace(",", ".")
    many = digits.count(",") > 1 or "." in digits
    made = unit in ("F", "Ω") and _made(float(thousands))
    if many or made or unit in ("h", "Hz") or (unit == "V" and float(thousands) in VOLT_RATINGS):
        return thousands
    raise Ambiguous(
        digits, f"{thousands} or {point}", "Write it without the comma.", field=field, instead=(thousands, point)
    )


def _infix(raw: str, unit: str) -> float | None:
    found = _INFIX.fullmatch(raw)
    if not found:
        return None
    sign, whole, letter, fraction, tail = found.groups()
    if letter in "rR":
        if unit not in ("Ω", ""):
            return None
        letter = ""
    if tail and not _same_unit(tail, unit):
        return None
    value = float(f"{whole or 0}.{fraction}e{EXPONENT[letter]}")
    return -value if sign in ("-", "−") and sign else value


def _plain(raw: str, unit: str, field: str = "") -> float | None:
    found = _NUMBER.fullmatch(raw)
    if not found or not found[2] or found[2][0] in "eE":
        return None
    sign, digits, tail = found.groups()
    power = _power(tail.strip(), unit)
    if power is None:
        return None
    number = decimal(digits, unit, field)
    value = float(f"{number}e{power}") if "e" not in number.lower() else float(number) * 10.0**power
    return -value if sign in ("-", "−") and sign else value


def _same_unit(text: str, unit: str) -> bool:
    text = text.strip().rstrip("~")
    return text == unit or text.lower() in SPELLINGS.get(unit, (unit.lower(),))


def _power(tail: str, unit: str) -> int | None:
    if not tail or _same_unit(tail, unit):
        return 0
    prefix, rest = tail[0], tail[1:]
    if unit in ("mm", "°C", "") or prefix not in EXPONENT:
        return EXPONENT[tail] if unit == "" and tail in EXPONENT else None
    return EXPONENT[prefix] if not rest or _same_unit(rest, unit) else None


def _bounded(value, raw, unit, field, low, high, above) -> float:
    if above is not None and value <= above:
        raise BadInput(raw, f"more than {show(above, unit)}", field=field)
    if low is not None and value < low:
        raise BadInput(raw, f"at least {show(low, unit)}", field=field)
    if high is not None and value > high:
        raise BadInput(raw, f"at most {show(high, unit)}", "Check the unit and the decimal point.", field=field)
    return value


#: Hours from which they are said in years.
YEARS_FROM = 10_000.0


@lru_cache(maxsize=16384)
def show(value: float | None, unit: str = "", digits: int = 3) -> str:
    """Write an SI value for people: ``4.7 µF``, ``23 mΩ``, ``1.46 A``, ``2200 µF``.

    Farads stay in pF, nF and µF, as they are printed on parts; volts, millimetres, degrees and hours take no prefix above 1.
    Remembered: a page says the same few values hundreds of times.

    >>> show(4.7e-6, 'F'), show(0.0022, 'F'), show(0.023, 'Ω'), show(340, 'V')
    ('4.7 µF', '2200 µF', '23 mΩ', '340 V')
    """
    if value is None:
        return "–"
    if unit == "h" and value >= YEARS_FROM:
        return f"{_number(value / 8760, digits)} years"
    if value < 0:
        return f"−{show(-value, unit, digits)}"
    if unit == "F":
        for least, scale, name in ((0.1, 1.0, "F"), (1e-6, 1e-6, "µF"), (1e-9, 1e-9, "nF"), (0.0, 1e-12, "pF")):
            if abs(value) >= 0.9995 * least:
                return f"{_number(value / scale, max(digits, 4))} {name}"
    if unit in ("mm", "°C", "h", "%", "×", "× B+", "y", "", "A²s", "µA", "min", "K/W") or (
        unit == "V" and abs(value) >= 1
    ):
        return f"{_number(value, digits)} {unit}".strip()
    text = Quantity(value, unit).render(prec=max(digits - 1, 0), form="si", strip_zeros=True)
    return _spaced(text, unit)


def show_range(low: float, high: float, unit: str) -> str:
    """Two limits in one text, the unit once where it is the same.

    >>> show_range(0.0022, 0.0044, 'F'), show_range(900e-9, 1.2e-6, 'F')
    ('2200–4400 µF', '900 nF–1.2 µF')
    """
    first, last = show(low, unit), show(high, unit)
    number, _, symbol = first.rpartition(" ")
    return f"{number}–{last}" if last.endswith(f" {symbol}") else f"{first}–{last}"


def _number(value: float, digits: int) -> str:
    if value == 0:
        return "0"
    if abs(value) >= 10**digits:
        return f"{value:.0f}"
    return f"{value:.{digits}g}"


def _spaced(text: str, unit: str) -> str:
    found = re.fullmatch(r"(-?[\d.]+)(?:e(-?\d+))?\s*([a-zA-Zµ]?)(.*)", text)
    if not found:
        return text
    number, exponent, prefix, rest = found.groups()
    if exponent:
        number = f"{number}·10^{exponent}"
    if prefix + rest == unit:
        return f"{number} {unit}"
    return f"{number} {prefix.replace('u', 'µ')}{rest}".strip()

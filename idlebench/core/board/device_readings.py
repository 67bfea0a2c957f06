"""What was measured of a part that is no capacitor, as it is typed: ``2.4k``, ``0.58 OL``, ``be 0.65 bc 0.64 ce OL``, ``coil 120``.

Source: workshop practice, because meters differ: most show a junction's drop in volts, some in millivolts, and all show OL
for what they cannot read.
"""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

from ..refusal import BadInput, no_longer_than
from ..text.quantity import read, show

#: A reading past the end of a meter's range: nothing conducts.
OL = math.inf


class Quantity(NamedTuple):
    """What can be measured of a part: its unit, and how it is called on a page."""

    unit: str
    title: str


QUANTITIES = {
    "ohms": Quantity("Ω", "resistance"),
    "drop": Quantity("V", "forward drop"),
    "back": Quantity("V", "the other way round"),
    "be": Quantity("V", "base to emitter"),
    "bc": Quantity("V", "base to collector"),
    "ce": Quantity("V", "collector to emitter"),
    "hfe": Quantity("", "current gain"),
    "coil": Quantity("Ω", "coil"),
    "closed": Quantity("Ω", "contact closed"),
    "opened": Quantity("Ω", "contact open"),
    "henries": Quantity("H", "inductance"),
    "volts": Quantity("V", "volts"),
    "hertz": Quantity("Hz", "frequency"),
    "ctr": Quantity("", "transfer ratio"),
}
#: What else is written for them, on a page of a meter or by a component tester.
ALSO = {
    "r": "ohms", "resistance": "ohms", "vf": "drop", "uf": "drop", "forward": "drop", "reverse": "back", "vr": "back", "ube": "be",
    "vbe": "be", "ubc": "bc", "vbc": "bc", "beta": "hfe", "b": "hfe", "gain": "hfe",
    "contact": "closed", "contacts": "closed", "l": "henries",
    "inductance": "henries", "u": "volts", "v": "volts", "uz": "volts", "vz": "volts", "f": "hertz", "frequency": "hertz",
}  # fmt: skip
#: What a bare number is, by kind, the first number first; Ω for all others.
IN_ORDER = {
    "diode": ("drop", "back"), "zener": ("drop", "back"), "transistor": ("be", "bc", "ce"), "optocoupler": ("drop", "back"),
    "relay": ("coil", "closed", "opened"), "switch": ("closed", "opened"), "battery": ("volts",), "regulator": ("volts",),
    "chip": ("volts",), "adapter": ("volts",), "connector": ("closed",), "socket": ("closed",), "holder": ("closed",), "crystal": ("ohms",),
}  # fmt: skip
#: Kinds of which nothing is measured: they are seen, or tried.
NOTHING_TO_MEASURE = ("heatsink", "module", "display", "fan")
#: Of what a reading may have, the least and the most, and the least bare number that is meant in millivolts.
MOST = {"Ω": 1e12, "V": 50e3, "H": 1e3, "Hz": 10e9, "": 1e5}
MILLIVOLTS = 50.0
_OPEN = ("ol", "o.l", "o.l.", "inf", "∞", "open")
_SHORT = ("short", "shorted")
_JUNCTION = ("drop", "back", "be", "bc", "ce")
_NUMBER = re.compile(r"[+\-]?\d*[.,]?\d+")


class Measured(NamedTuple):
    """One reading: a key of QUANTITIES, and its value in that unit; OL where nothing conducts."""

    what: str
    value: float

    @property
    def text(self) -> str:
        """The value as it is shown.

        >>> Measured('ohms', 2200.0).text, Measured('back', OL).text, Measured('ctr', 0.8).text
        ('2.2 kΩ', 'OL', '80 %')
        """
        if self.value == OL:
            return "OL"
        if self.what == "ctr":
            return f"{self.value * 100:.3g} %"
        unit = QUANTITIES[self.what].unit
        return show(self.value, unit) if unit else f"{self.value:.4g}"

    @property
    def as_typed(self) -> str:
        """The reading as it is typed, so that it reads back the same."""
        return f"{self.what} OL" if self.value == OL else f"{self.what} {self.value:.12g}"


@dataclass(frozen=True)
class TypedReadings:
    """What a line told of a part: its readings, whether it was out of its circuit (None where nobody said), and the words left over."""

    readings: tuple[Measured, ...]
    lifted: bool | None
    rest: tuple[str, ...]


def read_measured(text: str, kind: str, note: str = "") -> TypedReadings:
    """Read what was measured of a part; it ends at the first word that is no reading.

    Args:
        text: as it was typed: numbers in the order of the kind, or each after its word.
        kind: what the part is, a key of devices.TITLES.
        note: the part's own words, for they tell a bridge and what lights up.

    Returns:
        The readings, whether it was out of its circuit, and the words left over.

    Raises:
        BadInput: a number without its meaning, one that is out of all bounds, or a word that takes a number and has none.

    >>> read_measured('2.4k lifted', 'resistor').readings, read_measured('580 OL', 'diode').readings
    ((Measured(what='ohms', value=2400.0),), (Measured(what='drop', value=0.58), Measured(what='back', value=inf)))
    >>> [m.text for m in read_measured('coil 120 closed 0.1', 'relay').readings]
    ['120 Ω', '100 mΩ']
    """
    queue = no_longer_than(text, 400, "reading").replace("−", "-").replace("=", " ").split()
    found: dict[str, float] = {}
    lifted = None
    while queue:
        low = queue[0].lower().rstrip(",;")
        if low in ("lifted", "out-of-circuit", "in-circuit", "incircuit"):
            lifted = low in ("lifted", "out-of-circuit")
            queue.pop(0)
        elif low in ("in", "out") and " ".join(queue[:3]).lower().startswith(("in circuit", "out of circuit")):
            lifted = low == "out"
            queue = queue[2:] if low == "in" else queue[3:]
        elif low == "open" and kind in ("switch", "relay") and len(queue) > 1 and _is_value(queue[1]):
            queue.pop(0)
            found["opened"] = _value(_joined(queue), "opened")
        elif low in QUANTITIES or (low in ALSO and len(queue) > 1 and _is_value(queue[1])):
            what = low if low in QUANTITIES else ALSO[low]
            queue.pop(0)
            if not queue or not _is_value(queue[0]):
                raise BadInput(low, f"a value after “{low}”", f"Such as {what} {_EXAMPLE[what]}.", field="reading")
            found[what] = _value(_joined(queue), what)
        elif _is_value(queue[0]):
            word = _joined(queue)
            what = _meant(word, kind, note, found)
            found[what] = _value(word, what)
        else:
            break
    return TypedReadings(tuple(Measured(what, value) for what, value in found.items()), lifted, tuple(queue))


_EXAMPLE = {
    "ohms": "2.2k", "drop": "0.58", "back": "OL", "be": "0.65", "bc": "0.64", "ce": "OL", "hfe": "180", "coil": "120", "closed": "0.1",
    "opened": "OL", "henries": "10uH", "volts": "3.6", "hertz": "4M", "ctr": "80%",
}  # fmt: skip
_UNITS = (
    "v",
    "mv",
    "uh",
    "µh",
    "mh",
    "nh",
    "h",
    "hz",
    "khz",
    "mhz",
    "ohm",
    "ohms",
    "kohm",
    "ω",
    "kω",
    "mω",
    "k",
    "m",
    "%",
)


def _is_value(word: str) -> bool:
    low = word.lower().rstrip(",;")
    return (
        low in _OPEN or low in _SHORT or bool(re.match(r"[+\-]?[.,]?\d", low)) or bool(re.fullmatch(r"[rR]\d+", word))
    )


def _joined(queue: list[str]) -> str:
    """The next word with its unit, which may stand apart from it; a comma ends a reading."""
    typed = queue.pop(0)
    word = typed.rstrip(",;")
    if (
        queue
        and word == typed
        and _NUMBER.fullmatch(word)
        and queue[0].lower() in _UNITS
        and queue[0] not in ("m", "M")
    ):
        word += queue.pop(0)
    return word


def _meant(word: str, kind: str, note: str, found: dict[str, float]) -> str:
    """What a number is that stands without a word: by its unit, else by its place in the order of the kind."""
    low = word.lower()
    order = IN_ORDER.get(kind, ("ohms",))
    if kind == "lamp" and re.search(r"\bled\b", note.lower()):
        order = ("drop", "back")
    if low.endswith("hz"):
        return "hertz"
    if low.endswith("h") or (kind == "choke" and re.search(r"\d[nuµ]$|^\d*[nuµ]\d+$", low)):
        return "henries"
    if low.endswith("%") and kind == "optocoupler":
        return "ctr"
    if low.endswith("v") and order[0] not in _JUNCTION:
        return "volts"
    if low.endswith("v") and kind == "zener" and _volts(word) > 2:
        return "volts"
    if re.search(r"(ohms?|ω|\dr|r\d|k)$", low) and order[0] in _JUNCTION:
        return "ohms"
    for what in order:
        if what not in found:
            return what
    raise BadInput(
        word,
        f"at most {len(order)} readings in a row: {', '.join(QUANTITIES[w].title for w in order)}",
        "Write what another is of before it.",
        field="reading",
    )


def _volts(word: str) -> float:
    return abs(read(word, "V", field="reading"))


def _value(word: str, what: str) -> float:
    low, unit = word.lower(), QUANTITIES[what].unit
    if low in _OPEN:
        return OL
    if low in _SHORT:
        return 0.0
    if what == "ctr":
        share = read(low.rstrip("%"), "", field="reading", low=0, high=2000)
        return share / 100 if low.endswith("%") or share > 5 else share
    if what == "henries" and not low.endswith("h"):
        word += "H"
    value = read(re.sub(r"(?i)ohms?$", "Ω", word), unit, field="reading", low=-MOST[unit], high=MOST[unit])
    if what in _JUNCTION and _NUMBER.fullmatch(word) and abs(value) >= MILLIVOLTS:
        # a meter that shows a junction in millivolts
        value /= 1000
    if unit != "V" and value < 0:
        raise BadInput(
            word, f"{QUANTITIES[what].title} that is not negative", "Swap the leads, or zero them.", field="reading"
        )
    return value


def write_measured(readings: Sequence[Measured], lifted: bool | None) -> str:
    """Readings as they are typed, so that they read back the same; "" for none.

    >>> write_measured(read_measured('0.58 OL lifted', 'diode').readings, True)
    'drop 0.58, back OL lifted'
    """
    where = {True: "lifted", False: "in-circuit", None: ""}[lifted] if readings else ""
    return " ".join(filter(None, [", ".join(one.as_typed for one in readings), where]))

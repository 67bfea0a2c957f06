"""What a sound part of each kind reads, from what is marked on it: ohms and their tolerance, the drop of a junction, a coil, a contact.

Source: workshop practice, because makers give no limits for a part in its circuit; the drops of junctions: Horowitz and Hill, The Art of
Electronics (2015), 1.6 and 2.2; coil against volts and watts: Ohm's law.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from ..board.device_readings import OL, QUANTITIES, Measured
from ..board.devices import Device
from ..text.quantity import show, show_range

#: Over this a contact, switch or fuse that should not conduct does not, Ω.
INSULATES = 1e6
#: Most of a contact that is closed, of a key with a carbon pill, and what leads add, Ω.
CONTACT, CARBON, LEADS = 1.0, 100.0, 0.2
#: How far a resistor without a tolerance may stray, what the meter adds, and how often the tolerance is only odd.
UNMARKED, METER, FAR = 0.10, 0.01, 2.0
#: How far others may stray: thermistor cold, coil and variable part, inductance.
THERMISTOR, COIL, INDUCTANCE = 0.3, 0.2, 0.3
#: Forward drop of a junction, V, by what it is made of, and of what lights up.
SILICON, LOW_DROP, GERMANIUM, LIGHT, INFRARED = (0.4, 0.9), (0.1, 0.5), (0.15, 0.45), (1.4, 3.6), (0.9, 1.5)
#: A diode from these volts on is a stack that no meter opens.
STACK = 2000.0
#: Least current gain where none is typed, least transfer ratio, and the least share of its volts that a cell still has.
LEAST_GAIN, LEAST_RATIO, LEAST_CELL = 20.0, 0.2, 0.8
#: A filament's cold ohms as a share of its hot ones.
COLD_FILAMENT = (1 / 16, 1 / 4)
#: What a meter still reads of a coil or a winding that is whole, Ω.
WHOLE = 20e3


@dataclass(frozen=True, kw_only=True)
class SoundReading:
    """What a sound part reads of one quantity.

    what: a key of QUANTITIES. low, high: limits in its unit, None for none; OL is above every high. why: where the limits come from.
    less_in_circuit: whether neighbours make it read less in circuit. far_low, far_high: beyond them it is bad, between it is odd.
    """

    what: str
    low: float | None = None
    high: float | None = None
    why: str = ""
    less_in_circuit: bool = True
    far_low: float | None = None
    far_high: float | None = None

    @property
    def title(self) -> str:
        """What is read, as a page calls it."""
        return QUANTITIES[self.what].title

    @property
    def text(self) -> str:
        """The limits in words.

        >>> SoundReading(what='ohms', low=90.0, high=110.0).text, SoundReading(what='back', low=OL).text
        ('90–110 Ω', 'OL')
        """
        unit = QUANTITIES[self.what].unit
        if self.low == OL:
            return "OL"
        if unit == "V" and self.low is not None and self.high is not None:
            # as a meter shows it, and as it is typed
            return f"{self.low:.3g}–{self.high:.3g} V"
        if self.low is not None and self.high is not None:
            return show_range(self.low, self.high, unit)
        if self.high is not None:
            return f"at most {Measured(self.what, self.high).text}"
        return f"at least {Measured(self.what, self.low or 0.0).text}" if self.low is not None else "any"


def sound_readings(part: Device) -> tuple[SoundReading, ...]:
    """What a sound part of a kind reads, from what is marked on it.

    Args:
        part: the part as it is listed.

    Returns:
        A limit for each quantity that can be read of it; () where nothing is measured.

    >>> from ..board.devices import read_device
    >>> [(one.what, one.text) for one in sound_readings(read_device('R5 resistor 2k2 5%'))]
    [('ohms', '2.07–2.33 kΩ')]
    """
    make = _BY_KIND.get(part.what)
    return tuple(make(part)) if make else ()


def _around(what: str, value: float, share: float, why: str) -> SoundReading:
    leads = LEADS if QUANTITIES[what].unit == "Ω" and value < 100 else 0.0
    return SoundReading(
        what=what,
        low=value * (1 - share),
        high=value * (1 + share) + leads,
        why=why,
        less_in_circuit=QUANTITIES[what].unit == "Ω",
        far_low=value * (1 - FAR * share),
        far_high=value * (1 + FAR * share) + leads,
    )


def _resistor(part: Device) -> Iterable[SoundReading]:
    if not part.ohms:
        return [SoundReading(what="ohms", high=20e6, why="its ohms are not listed: anything but OL")]
    share = part.tolerance or (COIL if part.what == "trimmer" else UNMARKED)
    marked = f"marked {show(part.ohms, 'Ω')} ± {share * 100:g} %" + (
        "" if part.tolerance else ", no tolerance is listed"
    )
    return [_around("ohms", part.ohms, share + METER, marked)]


def _thermistor(part: Device) -> Iterable[SoundReading]:
    return (
        [_around("ohms", part.ohms, THERMISTOR, f"{show(part.ohms, 'Ω')} cold, at room temperature")]
        if part.ohms
        else []
    )


def _coil(what: str) -> Callable[[Device], Iterable[SoundReading]]:
    def readings(part: Device) -> Iterable[SoundReading]:
        found = []
        ohms, why = part.ohms, "as listed"
        if not ohms and part.what == "relay" and part.volts and (part.watts or part.current):
            ohms = part.volts**2 / part.watts if part.watts else part.volts / (part.current or 1.0)
            why = "from its volts and power"
        if ohms and part.what == "speaker":
            # it is named by its impedance, of which the wire has most
            yield SoundReading(
                what=what, low=0.6 * ohms, high=1.05 * ohms + LEADS, why=f"the wire of {show(ohms, 'Ω')} impedance"
            )
            return
        if ohms:
            found.append(_around(what, ohms, COIL, why))
        else:
            found.append(SoundReading(what=what, high=WHOLE, why="a coil that is whole"))
        if part.henries:
            found.append(_around("henries", part.henries, INDUCTANCE, f"marked {show(part.henries, 'H')}"))
        if part.what == "relay":
            found += [
                SoundReading(what="closed", high=CONTACT, why="a clean contact", far_high=5 * CONTACT),
                SoundReading(what="opened", low=INSULATES, why="a contact that is open"),
            ]
        yield from found

    return readings


def _diode(part: Device) -> Iterable[SoundReading]:
    words = part.note.lower()
    if abs(part.volts or 0.0) >= STACK or re.search(r"\bstick\b|\bhigh[- ]voltage\b|\bstack\b", words):
        return [SoundReading(what="drop", low=OL, why="a stack of junctions drops more than a meter has")]
    if re.search(r"\bschottky\b|\blow[- ]drop\b", words):
        limits, why = LOW_DROP, "a low-drop junction"
    elif "germanium" in words:
        limits, why = GERMANIUM, "a germanium junction"
    else:
        limits, why = SILICON, "a silicon junction"
    return [_junction("drop", limits, why), SoundReading(what="back", low=OL, why="it blocks the other way")]


def _junction(what: str, limits: tuple[float, float], why: str) -> SoundReading:
    return SoundReading(what=what, low=limits[0], high=limits[1], why=why, far_high=limits[1] + 0.3)


def _zener(part: Device) -> Iterable[SoundReading]:
    found = [
        _junction("drop", SILICON, "a silicon junction"),
        SoundReading(what="back", low=OL, why="it blocks below its volts"),
    ]
    if part.volts:
        share = part.tolerance or 0.05
        found.append(
            _around("volts", abs(part.volts), share + METER, f"marked {show(abs(part.volts), 'V')} ± {share * 100:g} %")
        )
    return found


def _transistor(part: Device) -> Iterable[SoundReading]:
    words = part.note.lower()
    if re.search(r"\b(mos)?fets?\b", words):
        return [
            SoundReading(what="be", low=OL, why="gate to source conducts nothing"),
            SoundReading(what="bc", low=OL, why="gate to drain conducts nothing"),
        ]
    if re.search(r"\bdamper\b|\bbuilt-in\b", words):
        # a line transistor with a diode inside: a resistor lies from base to emitter, and it conducts backwards
        return [
            _junction("bc", SILICON, "a silicon junction"),
            SoundReading(what="ce", low=OL, why="red on the collector blocks"),
        ]
    limits, why = (GERMANIUM, "a germanium junction") if "germanium" in words else (SILICON, "a silicon junction")
    if "darlington" in words:
        limits, why = (0.4, 1.6), "two junctions in a row"
    wanted = re.search(r"\b(?:hfe|beta|gain) ?(\d+)", words)
    least = float(wanted[1]) / 2 if wanted else LEAST_GAIN
    return [
        _junction("be", limits, why),
        _junction("bc", limits, why),
        SoundReading(what="ce", low=OL, why="it blocks while its base is open"),
        SoundReading(
            what="hfe",
            low=least,
            why="half of what is listed" if wanted else "the least that amplifies",
            less_in_circuit=False,
        ),
    ]


def _optocoupler(part: Device) -> Iterable[SoundReading]:
    marked = re.search(r"\bctr ?(\d+) ?%", part.note.lower())
    least = float(marked[1]) / 200 if marked else LEAST_RATIO
    return [
        _junction("drop", INFRARED, "its light-emitting diode"),
        SoundReading(what="back", low=OL, why="it blocks the other way"),
        SoundReading(
            what="ctr",
            low=least,
            why="half of what is listed" if marked else "the least that a feedback loop works with",
            less_in_circuit=False,
        ),
    ]


def _switch(part: Device) -> Iterable[SoundReading]:
    carbon = bool(re.search(r"\b(carbon|key|rubber|foil)\b", part.note.lower()))
    most = CARBON if carbon else CONTACT
    return [
        SoundReading(
            what="closed", high=most, why="a key's contact" if carbon else "a clean contact", far_high=5 * most
        ),
        SoundReading(what="opened", low=INSULATES, why="a contact that is open"),
    ]


def _contact(part: Device) -> Iterable[SoundReading]:
    return [SoundReading(what="closed", high=CONTACT, why="a clean contact", far_high=5 * CONTACT)]


def _fuse(part: Device) -> Iterable[SoundReading]:
    most = max(CONTACT, 0.5 / part.current) if part.current else 5 * CONTACT
    return [SoundReading(what="ohms", high=most, why="a fuse that is whole", less_in_circuit=False)]


def _blocks(part: Device) -> Iterable[SoundReading]:
    return [SoundReading(what="ohms", low=INSULATES, why="it conducts nothing below its volts")]


def _crystal(part: Device) -> Iterable[SoundReading]:
    found = [SoundReading(what="ohms", low=INSULATES, why="a crystal conducts no direct current")]
    if part.hertz:
        found.append(
            SoundReading(
                what="hertz",
                low=part.hertz * 0.999,
                high=part.hertz * 1.001,
                why="as marked, to a part in a thousand",
                less_in_circuit=False,
            )
        )
    return found


def _winding(part: Device) -> Iterable[SoundReading]:
    return [SoundReading(what="ohms", high=WHOLE, why="a winding that is whole")]


def _lamp(part: Device) -> Iterable[SoundReading]:
    words = part.note.lower()
    if re.search(r"\bled\b", words):
        return [
            _junction("drop", LIGHT, "it lights up"),
            SoundReading(what="back", low=OL, why="it blocks the other way"),
        ]
    if "neon" in words:
        return [SoundReading(what="ohms", low=INSULATES, why="neon conducts nothing below 60 V")]
    hot = 0.0
    if part.volts and (part.watts or part.current):
        hot = part.volts**2 / part.watts if part.watts else part.volts / (part.current or 1.0)
    if not hot:
        return [SoundReading(what="ohms", high=WHOLE, why="a filament that is whole")]
    return [
        SoundReading(
            what="ohms",
            low=hot * COLD_FILAMENT[0],
            high=hot * COLD_FILAMENT[1] + LEADS,
            why=f"cold, of {show(hot, 'Ω')} hot",
            far_high=hot,
        )
    ]


def _battery(part: Device) -> Iterable[SoundReading]:
    return (
        [SoundReading(what="volts", low=LEAST_CELL * part.volts, why="a cell that is not flat", less_in_circuit=False)]
        if part.volts
        else []
    )


_BY_KIND = {
    "resistor": _resistor, "bleeder": _resistor, "thermistor": _thermistor, "choke": _coil("ohms"), "relay": _coil("coil"),
    "speaker": _coil("ohms"), "motor": _coil("ohms"), "trimmer": _resistor, "diode": _diode, "zener": _zener, "transistor": _transistor,
    "optocoupler": _optocoupler, "switch": _switch, "connector": _contact, "socket": _contact, "holder": _contact, "fuse": _fuse,
    "varistor": _blocks, "arrester": _blocks, "crystal": _crystal, "winding": _winding, "transformer": _winding, "lamp": _lamp,
    "battery": _battery,
}  # fmt: skip

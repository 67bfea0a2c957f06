"""Typed lines for what is not a capacitor: rails and chips, one a line.

``+5 V 3.1 A min 0.3 A ripple 50m tol 5 clamp 6.2 most 7 step drive motor starts`` and
``U1 processor 46x14 at 100,52 gnd 20 +5V 40 clock 18 moves 33,34``.

Source: 4.75 to 5.25 V of the 74xx type family for ±5 %; 1 % of ripple: workshop practice, because boards give no figure.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from ..refusal import BadInput, nearly, no_longer_than
from .quantity import read

_VOLTS = re.compile(r"([+\-−]?\d+(?:[.,]\d+)?)\s*V?(?::([a-z][a-z0-9_-]{0,19}))?", re.I)
#: AC that goes through to a socket, and how far it may stray: little is drawn of it, and then it stands above its label.
_AC = re.compile(r"(\d+(?:[.,]\d+)?)V?(?:AC|~)", re.I)
AC_STRAYS = 0.20

#: Rails with ±5 %; the others have ±10 % unless the machine says.
FIVE_PERCENT = (5.0, 12.0, 3.3)
#: Ripple limit: share of the nominal, and the least that is asked, V.
RIPPLE_SHARE, RIPPLE_LEAST = 0.01, 0.050


#: A filament's amps rise by this power of its volts: its watts by 1.5, as in circuit.monitor.
LAMP_RISES = 0.5


@dataclass(frozen=True, kw_only=True)
class Rail:
    """A supply rail.

    Attributes:
        name: as people call it, ``+5 V``, or ``+5 V:standby`` where two have the same volts. nominal: V. tolerance: fraction.
        ripple_limit: V p-p. current: A it is rated for, 0 if unknown. minimum: A it must be loaded with, 0 for a fifth of the rating.
        step: what of the machine loads it in steps, in words, "" where nobody said.
        clamp: V at which a crowbar or clamp acts, 0 where there is none. most: V that its chips stand at the most, 0 where nobody said.
        ac: whether it is AC that goes through to a socket, V rms.
        lamp: W and V of a filament lamp that is its dummy load, None for a resistor.
    """

    name: str
    nominal: float
    tolerance: float
    ripple_limit: float
    current: float = 0.0
    minimum: float = 0.0
    step: str = ""
    clamp: float = 0.0
    most: float = 0.0
    lamp: tuple[float, float] | None = None
    ac: bool = False

    @property
    def low(self) -> float:
        """Least volts of the band, by size: nearest to zero last."""
        return self.nominal - abs(self.nominal) * self.tolerance

    @property
    def high(self) -> float:
        return self.nominal + abs(self.nominal) * self.tolerance

    @property
    def dummy_current(self) -> float:
        """What a dummy load draws: the lamp, else the minimum, or a fifth of the rating."""
        if self.lamp:
            watts, volts = self.lamp
            return watts / volts * (abs(self.nominal) / volts) ** LAMP_RISES
        return self.minimum or self.current / 5

    def as_line(self) -> str:
        """The rail as it is typed."""
        name = self.name.replace("−", "-")
        # a rail of its own name is one word
        bits = [name.replace(" V:", "V:").replace(" V AC", "VAC")]
        if self.current:
            bits.append(f"{self.current:g} A")
        if self.minimum:
            bits.append(f"min {self.minimum:g} A")
        bits += [f"tol {self.tolerance * 100:g}", f"ripple {self.ripple_limit * 1000:g}m"]
        bits += [f"clamp {self.clamp:g}"] if self.clamp else []
        bits += [f"most {self.most:g}"] if self.most else []
        bits += [f"clamp {self.clamp:g}"] if self.clamp else []
        bits += [f"most {self.most:g}"] if self.most else []
        bits += [f"lamp {self.lamp[0]:g}W {self.lamp[1]:g}V"] if self.lamp else []
        return " ".join([*bits, f"step {self.step}"] if self.step else bits)


#: Letters of a line in which a rail is looked for.
LONGEST = 400


def rail_name(nominal: float, label: str = "") -> str:
    """How a rail is called: a sign, and the volts; its own name after them where it has one.

    >>> rail_name(5.0), rail_name(5.0, 'Standby')
    ('+5 V', '+5 V:standby')
    """
    name = f"{'+' if nominal > 0 else '−'}{abs(nominal):g} V"
    return f"{name}:{label.lower()}" if label else name


def rail_volts(text: str) -> float | None:
    """The volts of a rail however it is typed, None where no number is in it.

    >>> rail_volts('+5'), rail_volts('5V'), rail_volts('+5 V'), rail_volts('−12 V'), rail_volts('video')
    (5.0, 5.0, 5.0, -12.0, None)
    """
    found = re.search(r"(?:([+\-−])\s*)?(\d+(?:[.,]\d+)?)", text[:LONGEST])
    if not found:
        return None
    size = float(found[2].replace(",", "."))
    return -size if found[1] in ("-", "−") else size


def rail_called(text: str) -> str:
    """The name of the rail that a person typed, with its own name behind a colon; "" where it has no volts.

    >>> rail_called('5V'), rail_called('+5V:Standby'), rail_called('video')
    ('+5 V', '+5 V:standby', '')
    """
    volts, label = rail_volts(text.partition(":")[0]), text.partition(":")[2].strip()
    return rail_name(volts, label if re.fullmatch(r"[A-Za-z][A-Za-z0-9_-]{0,19}", label) else "") if volts else ""


def is_on(rail: Rail, text: str) -> bool:
    """Whether what is typed as a part's rail is this one: the same volts, and no other name.

    >>> two = read_rail('+5V:main 3 A'), read_rail('+5V:standby 0.5 A')
    >>> [[is_on(rail, text) for rail in two] for text in ('+5V:standby', '+5 V', '+12V:main')]
    [[False, True], [True, True], [False, False]]
    """
    if not text or rail_volts(text) != rail.nominal or rail.ac:
        return False
    named, own = text.partition(":")[2].strip().lower(), rail.name.partition(":")[2]
    return not named or not own or named == own


def default_tolerance(nominal: float) -> float:
    """±5 % for +5, +12 and +3.3, else ±10 %."""
    return 0.05 if nominal in FIVE_PERCENT else 0.10


def read_rail(text: str) -> Rail:
    """Read a rail as typed.

    Args:
        text: as it was typed.

    Returns:
        The rail: V, A and its limits.

    Raises:
        BadInput: volts of zero, or a word that is not understood.

    >>> r = read_rail('+5 V 3.1 A min 0.3 A')
    >>> r.name, r.low, r.high, r.ripple_limit
    ('+5 V', 4.75, 5.25, 0.05)
    """
    no_longer_than(text, 400, "rail")
    words = re.sub(r"(?<=[\d.])\s+(?=(?:V|A|W|VAC|V~)(?:\s|$))", "", text.strip(), flags=re.I).split()
    words[:2] = ["".join(words[:2])] if len(words) > 1 and words[1].lower() in ("ac", "~") else words[:2]
    through = _AC.fullmatch(words[0]) if words else None
    if through:
        words[0] = through[1]
    found = _VOLTS.fullmatch(words[0]) if words else None
    if not found:
        raise BadInput(text, "volts first, such as +5 V 3.1 A min 0.3 A", field="rail")
    nominal = float(found[1].replace("−", "-").replace(",", "."))
    if not 0.1 <= abs(nominal) <= 50e3:
        raise BadInput(words[0], "a rail of 0.1 V to 50 kV, of either sign", field="rail")
    tolerance = AC_STRAYS if through else default_tolerance(nominal)
    facts: dict[str, Any] = {"current": 0.0, "minimum": 0.0, "tolerance": tolerance, "ac": bool(through)}
    facts["ripple_limit"] = max(RIPPLE_SHARE * abs(nominal), RIPPLE_LEAST)
    queue = words[1:]
    while queue:
        word = queue.pop(0)
        low = word.lower()
        if low in ("min", "tol", "ripple", "clamp", "crowbar", "most", "lamp") and not queue:
            raise BadInput(word, f"a number after “{low}”", field="rail")
        if low == "min":
            facts["minimum"] = read(queue.pop(0), "A", field="min", above=0, high=1000)
        elif low == "step":
            facts["step"], queue = " ".join(queue)[:60].strip(), []
            if not facts["step"]:
                raise BadInput(word, "what loads it in steps, such as step drive motor starts", field="rail")
        elif low == "tol":
            facts["tolerance"] = read(queue.pop(0).rstrip("%"), "", field="tol", above=0, high=50) / 100
        elif low in ("clamp", "crowbar", "most") or low in ("clamp", "crowbar", "most"):
            volts = read(queue.pop(0), "V", field=low, above=0, high=50e3)
            if volts <= abs(nominal):
                raise BadInput(f"{volts:g} V", f"more than the rail's {abs(nominal):g} V", field=low)
            facts["most" if low == "most" else "clamp"] = volts
        elif low == "lamp":
            facts["lamp"] = _lamp(queue, nominal)
        elif low == "ripple":
            facts["ripple_limit"] = read(queue.pop(0), "V", field="ripple", above=0, high=100)
        else:
            try:
                facts["current"] = read(word, "A", field="current", above=0, high=1000)
            except BadInput as error:
                meant = nearly(word, ("min", "step", "tol", "ripple", "clamp", "crowbar", "most", "lamp"))
                raise BadInput(
                    word, error.expected, error.mend, field="current", instead=error.instead or meant
                ) from None
    name = f"{nominal:g} V AC" if through else rail_name(nominal, found[2] or "")
    return Rail(name=name, nominal=nominal, **facts)


def _lamp(queue: list[str], nominal: float) -> tuple[float, float]:
    """A lamp as a load: its watts and volts, in either order."""
    told = {word[-1:].lower(): word for word in queue[:2]}
    if set(told) != {"w", "v"}:
        raise BadInput(" ".join(["lamp", *queue[:2]]), "the lamp's watts and volts, such as lamp 21W 12V", field="lamp")
    del queue[:2]
    watts, volts = (
        read(told["w"], "W", field="lamp", above=0, high=1000),
        read(told["v"], "V", field="lamp", above=0, high=300),
    )
    if volts < 0.9 * abs(nominal):
        raise BadInput(f"{volts:g} V", f"a lamp for {abs(nominal):g} V or more: it would burn out", field="lamp")
    return watts, volts


@dataclass(frozen=True)
class Pin:
    """A chip's pin that is to be tested: what it is, and for a supply pin its rail. hertz: of a clock, 0 where nobody said. note: what a
    line that moves should do, in words."""

    number: str
    is_: str
    rail: str = ""
    hertz: float = 0.0
    note: str = ""

    @property
    def kind(self) -> tuple[str, str, float, str]:
        """What pins of one word of a line have in common."""
        return self.is_, self.rail, self.hertz, self.note


@dataclass(frozen=True, kw_only=True)
class Chip:
    """A chip or other thing drawn on the board, sizes and place in mm, with the pins that are to be tested."""

    ref: str
    label: str
    width: float
    height: float
    x: float | None = None
    y: float | None = None
    pins: tuple[Pin, ...] = ()


PIN_WORDS = {"gnd": "ground", "ground": "ground", "clock": "clock", "moves": "activity"}
#: Pins at a level, as control words are read.
LEVEL_WORDS = {"high": "high", "low": "low"}
_HERTZ = re.compile(r"\d+(?:[.,]\d+)?[kM]?Hz", re.I)
#: Wires that carry no power; a word of these stays part of the label where no pin follows it.
CONTROL_WORDS = {
    "power-on": "power_on", "power-good": "power_good", "sense": "sense", "+sense": "sense", "-sense": "sense_return", "unused": "unused",
}  # fmt: skip
_PINS = re.compile(r"[A-Za-z]?\d{1,3}(,.*)?")


def read_chip(text: str) -> Chip:
    """Read a chip as typed.

    >>> c = read_chip('U1 processor 46x14 at 100,52 gnd 20 +5V 40,41')
    >>> c.label, [(p.number, p.is_, p.rail) for p in c.pins]
    ('processor', [('20', 'ground', ''), ('40', 'supply', '+5 V'), ('41', 'supply', '+5 V')])
    """
    no_longer_than(text, 4000, "chip")
    words = re.sub(r"(?<=\d)\s+(?=[Vv]\b)", "", text.strip()).split()
    if not words or not re.fullmatch(r"[A-Za-z]{1,4}\d{0,4}[A-Za-z]?", words[0]):
        raise BadInput(text, "a reference first, such as U1 processor 46x14 gnd 20 +5V 40", field="chip")
    ref, label, size, place, pins = words[0].upper(), [], CHIP_SIZE, (None, None), []
    queue = words[1:]
    while queue:
        word = queue.pop(0)
        low = word.lower()
        if hit := re.fullmatch(r"(\d+(?:\.\d+)?)[x×](\d+(?:\.\d+)?)", low):
            size = (float(hit[1]), float(hit[2]))
        elif low in ("at", *PIN_WORDS) and not queue:
            raise BadInput(word, f"something after “{low}”", field="chip")
        elif low == "at":
            x, _, y = queue.pop(0).partition(",")
            place = (read(x, "mm", field="at"), read(y, "mm", field="at"))
        elif (
            (control := {**CONTROL_WORDS, **LEVEL_WORDS}.get(low.replace("−", "-")))
            and queue
            and _PINS.fullmatch(queue[0])
        ):
            pins += [Pin(n, control) for n in _pins(queue.pop(0))]
        elif low in PIN_WORDS:
            pins += _told_pins(PIN_WORDS[low], _pins(queue.pop(0)), queue)
        elif hit := re.fullmatch(r"([+\-−]\d+(?:\.\d+)?)v(?::([a-z][a-z0-9_-]{0,19}))?", low):
            if not queue or not _PINS.fullmatch(queue[0]):
                raise BadInput(word, f"the pins after “{word}”, such as {word} 40", field="chip")
            rail = rail_name(float(hit[1].replace("−", "-")), hit[2] or "")
            pins += [Pin(n, "supply", rail) for n in _pins(queue.pop(0))]
        else:
            label.append(word)
    if not all(1 <= s <= 300 for s in size):
        raise BadInput(f"{size[0]:g}x{size[1]:g}", "a size of 1 to 300 mm", field="chip")
    return Chip(ref=ref, label=" ".join(label), width=size[0], height=size[1], x=place[0], y=place[1], pins=tuple(pins))


def _told_pins(is_: str, numbers: Sequence[str], queue: list[str]) -> list[Pin]:
    """Pins with what follows them: the frequency of a clock, what a line that moves should do in brackets."""
    hertz, note = 0.0, ""
    if is_ == "clock" and queue and _HERTZ.fullmatch(queue[0]):
        hertz = read(queue.pop(0), "Hz", field="clock", above=0, high=1e10)
    if is_ == "activity" and queue and queue[0].startswith("("):
        words = [queue.pop(0)]
        while queue and not words[-1].endswith(")"):
            words.append(queue.pop(0))
        note = " ".join(words).strip("() ")[:60]
    return [Pin(n, is_, hertz=hertz, note=note) for n in numbers]


#: The size of a chip that nobody typed, mm.
CHIP_SIZE = (20.0, 8.0)


def over(before: Chip, line: Chip) -> Chip:
    """What a later line says on top of an earlier one of the same chip: what it leaves out stays as it was.

    >>> chip_line(over(read_chip('U1 processor 46x14 at 10,20 gnd 20'), read_chip('U1 at 80,90')))
    'U1 processor 46x14 at 80,90 gnd 20'
    """
    size = before if (line.width, line.height) == CHIP_SIZE else line
    place = before if line.x is None else line
    told = {(pin.is_, pin.rail) for pin in line.pins}
    kept = tuple(pin for pin in before.pins if (pin.is_, pin.rail) not in told)
    return Chip(
        ref=line.ref,
        label=line.label or before.label,
        width=size.width,
        height=size.height,
        x=place.x,
        y=place.y,
        pins=(*kept, *line.pins),
    )


def chip_line(chip: Chip) -> str:
    """A chip as it is typed."""
    bits = [chip.ref, chip.label, f"{chip.width:g}x{chip.height:g}"]
    if chip.x is not None and chip.y is not None:
        bits.append(f"at {chip.x:g},{chip.y:g}")
    back = {"ground": "gnd", "clock": "clock", "activity": "moves"}
    back |= {is_: word for word, is_ in CONTROL_WORDS.items() if word != "+sense"}
    back |= LEVEL_WORDS
    for key in dict.fromkeys(p.kind for p in chip.pins):
        is_, rail, hertz, note = key
        numbers = ",".join(p.number for p in chip.pins if p.kind == key)
        bits.append(f"{back.get(is_) or rail.replace(' ', '').replace('−', '-')} {numbers}")
        bits += [f"{hertz / 1e6:.12g}MHz" if hertz >= 1e6 else f"{hertz:.12g}Hz"] if hertz else []
        bits += [f"({note})"] if note else []
    return " ".join(filter(None, bits))


def _pins(text: str) -> list[str]:
    numbers = text.split(",")
    if not all(re.fullmatch(r"[A-Za-z]?\d{1,3}", n) for n in numbers):
        raise BadInput(text, "pin numbers such as 20 or 33,34", field="chip")
    return numbers


_CHIP_REF = re.compile(r"(?:U|IC|J|CN|CON|JP|PL|P|K)\d{1,4}[A-Z]?", re.I)


def is_chip(text: str) -> bool:
    """Whether a typed line is a chip's or a connector's, by its reference.

    >>> is_chip('U1 processor 46x14 gnd 20'), is_chip('J1 power in 17x46'), is_chip('C1 100u')
    (True, True, False)
    """
    words = text.split(maxsplit=1)
    return len(words) == 2 and bool(_CHIP_REF.fullmatch(words[0]))

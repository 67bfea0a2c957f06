"""Parts that are no capacitors, from one typed line each: regulators, fuses, batteries, diodes, transistors, transformers.

``VR1 regulator 7805 1A from +12V sink 15``, ``F1 fuse T 1.6A 250V 5x20``, ``BT1 battery 3.6V 5uA charged leaking``,
``D1 diode 1A 400V for C1``, ``Q1 transistor 2A 60V``, ``MOV1 varistor 275V~``, ``TH1 thermistor 10R``, ``R1 discharge 1M``,
``R9 bleeder 220k for C7``, ``GD1 arrester``, ``T1 transformer``, ``T1 winding 9V 1.5A``,
``AD1 adapter 12V DC 1A regulated plug 5.5x2.1 centre +``.

Source: DROP: workshop practice, because no junction that is measured drops 2 V and no diode is made for less.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from ..circuit.packages import PACKAGES, package_of
from ..refusal import BadInput
from ..text.quantity import read, show
from .device_readings import Measured, read_measured, write_measured
from .device_words import DeviceWords
from .parts import LOOK_WORDS, LOOKS

REF = re.compile(r"[A-Z]{1,4}\d{1,5}[A-Z]?")
#: What a line may be of, by the words that say it.
WORDS = {
    "regulator": "regulator", "fuse": "fuse", "battery": "battery", "cell": "battery", "accumulator": "battery",
    "diode": "diode", "rectifier": "diode", "bridge": "diode", "winding": "winding", "transistor": "transistor",
    "transformer": "transformer", "adapter": "adapter", "varistor": "varistor", "mov": "varistor",
    "thermistor": "thermistor", "ntc": "thermistor", "bleeder": "bleeder", "discharge": "bleeder", "arrester": "arrester",
    "arrestor": "arrester",
}  # fmt: skip
#: Parts that the bench keeps with their words and does not judge yet, by what people call them.
PARTS = {
    "resistor": "resistor", "fusible": "resistor", "network": "resistor", "choke": "choke", "inductor": "choke", "coil": "choke",
    "bead": "choke", "ferrite": "choke", "zener": "zener", "led": "lamp", "lamp": "lamp", "bulb": "lamp", "neon": "lamp",
    "optocoupler": "optocoupler", "opto": "optocoupler", "photocoupler": "optocoupler", "relay": "relay", "switch": "switch",
    "heatsink": "heatsink", "crystal": "crystal", "resonator": "crystal", "xtal": "crystal", "fan": "fan", "module": "module",
    "display": "display", "trimmer": "trimmer", "potentiometer": "trimmer", "pot": "trimmer", "feedthrough": "trimmer",
    "feed-through": "trimmer", "variable": "trimmer", "thermal": "thermistor", "ptc": "thermistor", "connector": "connector",
    "plug": "connector", "jack": "connector", "socket": "socket", "holder": "holder", "fuseholder": "holder", "button": "switch",
    "key": "switch", "speaker": "speaker", "loudspeaker": "speaker", "motor": "motor", "inverter": "module", "card": "module",
}  # fmt: skip
WORDS.update(PARTS)
TITLES = {
    "chip": "chip",     "regulator": "regulator", "fuse": "fuse", "battery": "battery", "diode": "diode", "transistor": "transistor",
    "transformer": "transformer", "winding": "transformer winding",
    "adapter": "adapter", "varistor": "varistor", "thermistor": "thermistor", "bleeder": "bleeder resistor", "arrester": "surge arrester",
    "resistor": "resistor", "choke": "choke", "zener": "zener diode", "lamp": "lamp", "optocoupler": "optocoupler", "relay": "relay",
    "switch": "switch", "heatsink": "heatsink", "crystal": "crystal", "fan": "fan", "module": "module", "display": "display",
    "trimmer": "variable part", "connector": "connector", "socket": "socket", "holder": "fuse holder", "speaker": "loudspeaker",
    "motor": "motor",
}  # fmt: skip
#: Words of the kind that tell more than the kind, and so stay in the note.
TELLING = (
    "cell", "accumulator", "rectifier", "bridge", "discharge", "fusible", "network", "bead", "ferrite", "led", "neon", "resonator",
    "potentiometer", "feedthrough", "feed-through", "variable", "coil", "photocoupler", "thermal", "ptc", "jack", "button", "key",
    "inverter", "card",
)  # fmt: skip
#: What has ohms: a resistor its value, a thermistor what it has when cold, a coil its winding's.
OHMIC = ("bleeder", "thermistor", "resistor", "choke", "relay", "lamp", "trimmer", "speaker", "motor")
#: What a person may judge a part as, against its readings.
JUDGED = ("sound", "doubtful", "replace")
#: Under this a diode's volts are what it drops, not what it stands, V.
DROP = 2.0
CHARACTERISTICS = {"FF": "very fast", "F": "fast", "M": "medium", "T": "time-lag", "TT": "long time-lag"}
_FAMILY = re.compile(r"(78|79)([LMS]?)(\d\d)", re.I)
_SIZE = re.compile(r"(\d+(?:[.,]\d+)?)[x×](\d+(?:[.,]\d+)?)(?:mm)?", re.I)
_AMPS = re.compile(r"\d+(?:[.,]\d+)?[muµ]?a", re.I)
_VOLTS = re.compile(r"[+\-−]?\d+(?:[.,]\d+)?(?:v(?:ac|dc|~)?|~)", re.I)
_OHMS = re.compile(r"\d+(?:[.,]\d+)?(?:[kM]?(?:ohms?|Ω)|[kMR])|\d*[RkM]\d+|\d+(?:\.\d+)?e\+?\d+ohm")


@dataclass(frozen=True, kw_only=True)
class Device(DeviceWords):
    """A part that is no capacitor.

    Attributes:
        ref: reference in the print. what: a key of TITLES.
        volts: V: of a regulator its output (with its sign), of a fuse and a diode the rating, of a winding rms.
        current: A rated; of a battery what it gives while the machine is off. family: "7805" and the like, "" if none.
        characteristic: of a fuse, a key of CHARACTERISTICS. looks: one of LOOKS or "". length, across: mm. x, y: mm on the board.
        note: the words left over. output, centre: of an adapter, "ac", "regulated" or "unregulated", and the sign of its plug's
        centre, "" where nobody said; the plug's size stands in across and length. ohms: Ω of a bleeder, or of a thermistor when cold;
        volts of a varistor are the most AC it stands for good. reads: what was measured of it; lifted: whether it was out of its
        circuit, None where nobody said. judged: a verdict by hand, whose reason stands in the note.
    """

    ref: str
    what: str
    volts: float | None = None
    current: float | None = None
    family: str = ""
    characteristic: str = ""
    looks: str = ""
    across: float | None = None
    length: float | None = None
    x: float | None = None
    y: float | None = None
    note: str = ""
    output: str = ""
    centre: str = ""
    ohms: float | None = None
    reads: tuple[Measured, ...] = ()
    lifted: bool | None = None
    judged: str = ""

    @property
    def title(self) -> str:
        return TITLES[self.what]

    @property
    def marked(self) -> str:
        """What is marked on it, in one line."""
        bits = [self.family]
        if self.characteristic:
            bits.append(f"{self.characteristic} ({CHARACTERISTICS[self.characteristic]})")
        if self.current:
            bits.append(show(self.current, "A"))
        if self.ohms:
            bits.append(show(self.ohms, "Ω"))
        if self.what in ("resistor", "choke", "crystal", "zener", "trimmer"):
            told = ((self.henries, "H"), (self.hertz, "Hz"), (self.watts, "W"))
            bits += [show(value, unit) for value, unit in told if value]
            bits += [f"± {self.tolerance * 100:g} %"] if self.tolerance else []
        if self.volts is not None:
            bits.append(show(self.volts, "V") + {"winding": " rms", "varistor": "~"}.get(self.what, ""))
        if self.va:
            bits.append(f"{self.va:g} VA")
        if self.output:
            bits.append({"ac": "AC", "regulated": "DC, regulated"}.get(self.output, "DC"))
        if self.across and self.length:
            bits.append(f"{self.across:g} × {self.length:g} mm")
        if self.centre:
            bits.append(f"centre {self.centre}")
        return " ".join(filter(None, bits)) or self.note or "marking not read"

    @property
    def pins(self) -> tuple[str, ...]:
        """A fixed regulator's pins in the order of its package, and its tab ("" for none); empty where the family is not known.

        >>> read_device('VR2 regulator 7912').pins
        ('ground', 'input', 'output', 'input')
        >>> read_device('VR3 regulator 78L05').pins
        ('output', 'ground', 'input', '')
        """
        return PACKAGES[self.package].pins(self.family.startswith("79")) if self.family and self.package else ()

    @property
    def package(self) -> str:
        """Of a regulator, a key of PACKAGES: as its line says, else the usual one of its type; "" where that is not known."""
        return package_of(self.family, self.note) if self.what == "regulator" else ""

    @property
    def leaks(self) -> bool:
        """Whether it is a battery that has to come out first."""
        return self.what == "battery" and self.looks in ("leaking", "crusty", "burst")

    def as_line(self) -> str:
        """The part as it is typed."""
        bits = [self.ref, self.what, self.family, self.characteristic]
        if self.current:
            bits.append(f"{self.current * 1e6:g}uA" if self.current < 1e-3 else f"{self.current:g}A")
        if self.ohms:
            bits.append(f"{self.ohms:.12g}ohm")
        if self.volts is not None and not self.family:
            bits.append(f"{self.volts:g}V" + ("ac" if self.what == "varistor" else ""))
        if self.across and self.length:
            bits.append(f"{self.across:g}x{self.length:g}")
        bits += [self.output, f"centre {self.centre.replace('−', '-')}" if self.centre else ""]
        if self.looks:
            bits.append(self.looks)
        if self.reads:
            bits.append(f"reads {write_measured(self.reads, self.lifted)}")
        if self.judged:
            bits.append(f"judged {self.judged}")
        if self.x is not None and self.y is not None:
            bits.append(f"at {self.x:g},{self.y:g}")
        if self.note:
            bits.append(f"note {self.note}")
        return " ".join(filter(None, bits))


def is_plug(ref: str) -> bool:
    """Whether a reference is a connector's.

    >>> is_plug('J1'), is_plug('U1')
    (True, False)
    """
    return bool(re.fullmatch(r"(?:J|CN|P|K)\d{1,4}[A-Z]?", ref.upper()))


def is_device(text: str) -> bool:
    """Whether a typed line speaks of a part that is no capacitor."""
    words = text.split()
    return len(words) > 1 and words[1].lower() in WORDS


def read_device(text: str) -> Device:
    """Read a line of a part that is no capacitor. Words that no rule knows are kept as its note.

    Args:
        text: as it was typed.

    Returns:
        The part; what was not understood stands in its note.

    Raises:
        BadInput: the reference or a number cannot be read, or two words say different things.

    >>> o = read_device('F1 fuse T 1.6A 250V 5x20 sound')
    >>> o.characteristic, o.current, o.volts, o.looks
    ('T', 1.6, 250.0, 'sound')
    """
    words = text.replace("−", "-").strip().split()
    if len(text) > 400:
        raise BadInput(text, "one part a line, at most 400 characters", field="line")
    if len(words) < 2 or words[1].lower() not in WORDS:
        raise BadInput(
            text,
            f"a reference, then one of {', '.join(dict.fromkeys(WORDS.values()))}",
            "VR1 regulator 7805, for example.",
            field="line",
        )
    ref = words[0].upper()
    if not REF.fullmatch(ref):
        raise BadInput(words[0], "a reference such as VR1, F1, BT1, D1 or T1", field="ref")
    facts: dict[str, object] = {"what": WORDS[words[1].lower()]}
    loose: list[str] = [words[1].lower()] if words[1].lower() in TELLING else []
    queue = words[2:]
    while queue:
        word = queue.pop(0)
        if word.lower() in ("at", "note") and not queue:
            raise BadInput(word, f"something after “{word.lower()}”", field="line")
        if word.lower() == "at":
            x, _, y = queue.pop(0).partition(",")
            facts["x"] = read(x, "mm", field="at", low=0, high=2000)
            facts["y"] = read(y or (queue.pop(0) if queue else ""), "mm", field="at", low=0, high=2000)
        elif word.lower() == "from" and queue:
            rail = queue.pop(0)
            bare = re.fullmatch(r"[+\-]?\d+(?:[.,]\d+)?", rail) and queue and queue[0].lower() == "v"
            loose += ["from", rail + queue.pop(0) if bare else rail]
        elif facts["what"] == "adapter" and _of_adapter(facts, word.lower(), queue):
            continue
        elif word.lower() == "note":
            loose += queue
            queue = []
        elif word.lower() == "judged" and queue and queue[0].lower() in JUDGED:
            facts["judged"] = queue.pop(0).lower()
        elif word.lower() in ("reads", "measures", "measured") and queue:
            told = read_measured(" ".join(queue), str(facts["what"]), " ".join([*words[1:], *loose]))
            if told.readings:
                facts["reads"], facts["lifted"], queue = told.readings, told.lifted, list(told.rest)
            else:
                loose.append(word)
        elif facts["what"] in ("transformer", "winding") and word.lower() in ("tap", "secondary") and queue:
            loose += [word.lower(), *_of_winding(queue)]
        elif _reads_alone(facts, word, queue):
            continue
        elif not _known(facts, word, queue):
            loose.append(word)
    facts["note"] = " ".join(loose)[:400]
    if facts.get("judged") and len(" ".join(loose).split()) < 2:
        raise BadInput(
            text,
            "a reason in a few words",
            f"Such as {ref} judged {facts['judged']} note the trace was open.",
            field="judged",
        )
    return Device(ref=ref, **facts)  # type: ignore[arg-type]


def _of_winding(queue: list[str]) -> list[str]:
    """The volts and amps after a word of a transformer, taken off the line: they are not the part's own."""
    taken = [queue.pop(0)]
    while queue and re.fullmatch(r"(?i)v|m?a|\d+(?:[.,]\d+)?(?:m?a|v(?:ac|~)?)", queue[0]):
        taken.append(queue.pop(0))
    return taken


#: How the sign of a plug's centre is typed.
_SIGNS = {"+": "+", "plus": "+", "positive": "+", "-": "−", "minus": "−", "negative": "−"}


def _of_adapter(facts: dict[str, object], low: str, queue: list[str]) -> bool:
    """Words that only an adapter's line has: AC or DC, regulated or not, the sign of its plug's centre.

    Args:
        facts: what is known of it, by name.
        low: the lower limit, in SI; None for none.
        queue: words that are left of the line.

    Returns:
        Whether it took the word.

    Raises:
        BadInput: AC and DC both, or a centre without its sign.
    """
    if low in ("ac", "dc", "regulated", "unregulated"):
        was, now = facts.get("output"), "unregulated" if low == "dc" else low
        if was and "ac" in (was, now) and was != now:
            raise BadInput(low, "an adapter of AC or of DC, not both", field="line")
        facts["output"] = was if low == "dc" and was else now
        return True
    if low in ("centre", "center"):
        sign = _SIGNS.get(queue.pop(0).lower()) if queue else None
        if sign is None:
            raise BadInput(low, "centre + or centre -, as the label draws it", field="line")
        facts["centre"] = sign
        return True
    if low == "plug":
        return True
    if re.fullmatch(r"\d+(?:[.,]\d+)?v(ac|dc)", low):
        _of_adapter(facts, low[-2:], [])
    return False


def _known(facts: dict[str, object], word: str, queue: list[str]) -> bool:
    """Words that say what they are; a unit may stand apart from its number."""
    low = word.lower()
    if queue and re.fullmatch(r"[+\-]?\d+(?:[.,]\d+)?", low) and queue[0].lower() in ("a", "ma", "ua", "µa", "v"):
        word = word + queue.pop(0)
        low = word.lower()
    if hit := _FAMILY.fullmatch(word):
        if facts["what"] != "regulator":
            raise BadInput(word, f"a {TITLES[str(facts['what'])]}, and {word} is a regulator's marking", field="line")
        facts["family"] = word.upper()
        facts["volts"] = float(int(hit[3])) * (-1 if hit[1] == "79" else 1)
    elif low in LOOKS or low in LOOK_WORDS:
        facts["looks"] = LOOK_WORDS.get(low, low)
    elif facts["what"] == "fuse" and word.upper() in CHARACTERISTICS:
        facts["characteristic"] = word.upper()
    elif facts["what"] == "fuse" and (hit := re.fullmatch(r"(FF|TT|F|M|T)(\d.*a)", word, re.I)):
        facts["characteristic"] = hit[1].upper()
        facts["current"] = read(hit[2], "A", field="current", above=0, high=200)
    elif facts["what"] in OHMIC and _OHMS.fullmatch(word):
        facts["ohms"] = read(re.sub(r"(?i)ohms?$", "Ω", word), "Ω", field="ohms", above=0, high=1e9)
    elif _AMPS.fullmatch(low):
        facts["current"] = read(word, "A", field="current", above=0, high=200)
    elif facts["what"] in ("diode", "zener") and _VOLTS.fullmatch(low) and _drops(word):
        # what it drops was read; what it stands is another thing
        _measured(facts, word)
    elif _VOLTS.fullmatch(low):
        facts["volts"] = read(re.sub(r"(?i)(?:v(?:ac|dc|~)?|~)$", "V", word), "V", field="volts", low=-5000, high=50e3)
    elif hit := _SIZE.fullmatch(word):
        facts["across"], facts["length"] = (
            read(hit[i].replace(",", "."), "mm", field="size", low=0.5, high=300) for i in (1, 2)
        )
    else:
        return False
    return True


#: Kinds of which a word alone says what was read between their two ends.
TWO_ENDS = (
    "resistor", "bleeder", "choke", "fuse", "diode", "zener", "transformer", "winding", "lamp", "thermistor", "speaker", "motor",
)  # fmt: skip
#: Words that begin a reading wherever a number follows them.
_BEGINS = ("drop", "back", "be", "bc", "ce", "hfe", "closed", "opened")


def _reads_alone(facts: dict[str, object], word: str, queue: list[str]) -> bool:
    """Words that say what was measured without the word reads before them: ``OL``, ``blown``, ``drop 0.6``; whether it took the word.

    Args:
        facts: what is known of the part, by name.
        word: the word in hand.
        queue: words that are left of the line.

    Returns:
        Whether it took the word.
    """
    low = word.lower()
    what = str(facts["what"])
    if low in ("ol", "o.l") or (what in TWO_ENDS and low in ("open", "blown") and not facts.get("reads")):
        _measured(facts, "OL")
    elif low in ("short", "shorted") and what in TWO_ENDS:
        _measured(facts, "short")
    elif low in _BEGINS and queue and re.match(r"[.,]?\d|(?i:o\.?l\b)", queue[0]):
        _measured(facts, f"{low} {queue.pop(0)}")
    elif low in ("lifted", "in-circuit") and facts.get("reads"):
        facts["lifted"] = low == "lifted"
    else:
        return False
    return True


def _measured(facts: dict[str, object], text: str) -> None:
    """Add a reading to those that the line told so far."""
    before: tuple[Measured, ...] = facts.get("reads", ())  # type: ignore[assignment]
    told = read_measured(text, str(facts["what"])).readings
    facts["reads"] = (*(one for one in before if one.what not in {new.what for new in told}), *told)


def _drops(word: str) -> bool:
    """Whether a diode's volts are those it drops: no diode is made to stand so little."""
    number = re.match(r"[+\-]?[\d.,]+", word)
    return number is not None and abs(float(number[0].replace(",", "."))) < DROP

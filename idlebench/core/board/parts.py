"""The parts themselves: a capacitor in a catalogue, and a part as it stands on a board. SI units, sizes in mm.

Source: IEC 60384-14:2013, 1.5, for the classes; lead pitches and sizes: workshop practice, because IEC 60384-4:2016 leaves them to each
series: those that makers share.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, fields, replace

from ..refusal import BadInput, no_longer_than
from ..text.quantity import show

KINDS = ("wet", "polymer", "tantalum", "ceramic", "film", "paper")
#: How a part stands: can is a surface can, chassis a can that is held by lugs through a chassis.
MOUNTINGS = ("radial", "axial", "can", "snap", "chip", "screw", "chassis")
#: Those that stand on surface pads.
ON_PADS = ("can", "chip")
#: The widest and the tallest surface can made, mm: what is larger and called a can goes through a chassis.
LARGEST_SURFACE_CAN = (18.5, 22.5)
#: What else people call a mounting.
MOUNTING_WORDS = {"smd": "chip", "smt": "chip", "surface": "chip", "twist-lock": "chassis", "twistlock": "chassis"}
LOOKS = (
    "sound", "bulging", "leaking", "crusty", "burst", "missing", "cracked", "stained", "corroded", "rusty", "bare", "burnt",
)  # fmt: skip
#: What people call looks, by the look they mean; the longest words are tried first.
LOOK_WORDS = {
    "split": "cracked", "cracked case": "cracked", "swollen": "bulging", "swelled": "bulging", "domed": "bulging",
    "brown": "stained", "browned": "stained", "rusty legs": "rusty", "rusty leads": "rusty", "missing sleeve": "bare",
    "sleeve missing": "bare", "no sleeve": "bare", "charred": "burnt", "burned": "burnt", "scorched": "burnt",
}  # fmt: skip
#: The side of the board that a part stands on.
SIDES = ("parts", "solder")
SAFETY_CLASSES = ("X1", "X2", "X3", "Y1", "Y2", "Y4")
#: What may be marked: one class, or one of each kind.
SAFETY_MARKS = (*SAFETY_CLASSES, *(f"X{x}/Y{y}" for x in (1, 2, 3) for y in (1, 2, 4)))

#: What is noted as fitted in a place whose part is taken out for a test and nothing put in.
LEFT_OUT = "left out"

#: An ESR that a meter shows as OL, Ω: nothing is joined inside.
OPEN_ESR = 10e6

#: Kinds that have a plus and a minus side unless they are bipolar.
POLAR_KINDS = ("wet", "polymer", "tantalum")

#: Lead pitch of a radial can by diameter, mm.
RADIAL_PITCH = ((4.0, 1.5), (5.0, 2.0), (6.3, 2.5), (8.0, 3.5), (10.0, 5.0), (12.5, 5.0), (16.0, 7.5), (18.0, 7.5))


def read_safety(text: str) -> str:
    """A safety class as marked, in one way of writing it.

    Args:
        text: as it was typed.

    Returns:
        X1 to Y4 in capitals; "" for none.

    Raises:
        BadInput: no class.

    >>> read_safety('y2'), read_safety('Y2 X1'), read_safety('X1Y2')
    ('Y2', 'X1/Y2', 'X1/Y2')
    """
    found = sorted(re.findall(r"[XY]\d", no_longer_than(text, 40, "safety").upper()))
    mark = "/".join(found)
    if mark not in SAFETY_MARKS or re.sub(r"[XY]\d|[\s/,&+-]", "", text.upper()):
        raise BadInput(text, f"a class such as {', '.join(SAFETY_CLASSES)} or X1/Y2", field="safety")
    return mark


def classes_of(safety: str) -> tuple[str, ...]:
    """The classes of a mark: () for none, two for X1/Y2."""
    return tuple(safety.split("/")) if safety else ()


def read_looks(text: str) -> str:
    """How a part looks, by any of the words people have for it.

    Args:
        text: as it was typed.

    Returns:
        The one word for it.

    Raises:
        BadInput: none of them.

    >>> read_looks('swollen'), read_looks('rusty legs')
    ('bulging', 'rusty')
    """
    low = " ".join(text.lower().replace("_", " ").split())
    look = LOOK_WORDS.get(low, low)
    if look not in LOOKS:
        raise BadInput(text, f"one of {', '.join(LOOKS)}", field="looks")
    return look


def as_mounted(mounting: str, kind: str, diameter: float | None = None, height: float | None = None) -> str:
    """A mounting by its one name: what lies on surface pads is a can where its kind is rolled into one, else a chip.

    Args:
        mounting: one of MOUNTINGS, as somebody wrote it. diameter, height: mm, None or 0 where not known.
        kind: the kind, a word of the open formats.
        diameter: mm; None where nobody measured it.
        height: mm; None where nobody measured it.

    Returns:
        A word of MOUNTINGS.

    >>> as_mounted('chip', 'wet'), as_mounted('can', 'tantalum'), as_mounted('can', 'wet', 30, 50)
    ('can', 'chip', 'chassis')
    """
    if mounting not in ON_PADS:
        return mounting
    if kind in ("wet", "polymer"):
        wide, tall = LARGEST_SURFACE_CAN
        return "chassis" if (diameter or 0) > wide or (height or 0) > tall else "can"
    return "chassis" if kind == "paper" and mounting == "can" else "chip"


def radial_pitch(diameter: float) -> float:
    """Lead pitch usual for a radial can of that diameter (mm).

    >>> radial_pitch(12.5), radial_pitch(13)
    (5.0, 5.0)
    """
    pitch = RADIAL_PITCH[0][1]
    for limit, value in RADIAL_PITCH:
        if diameter >= limit - 0.3:
            pitch = value
    return pitch


@dataclass(frozen=True, kw_only=True)
class Capacitor:
    """A capacitor that can be bought or taken from the shelf.

    Attributes:
        part: its name in the catalogue.
        series, kind, mounting: as in the open formats.
        value: F. tolerance: fraction, symmetric. volts: V DC. ac_volts: V AC, 0 if none is given.
        safety: X1 … Y4 or "". temperature: °C, 0 where nobody says it. life: h at that temperature.
        ripple: A at ripple_frequency (Hz). esr: Ω at esr_frequency (Hz). 0 where not given.
        diameter, height, pitch: mm (for box parts the diameter is the length of the body).
        price: per piece. pack: pieces in a pack. lead_days: days to come. stock: on the shelf.
    """

    part: str
    series: str
    kind: str
    value: float
    volts: float
    mounting: str = "radial"
    diameter: float = 0.0
    height: float = 0.0
    pitch: float = 0.0
    tolerance: float = 0.2
    ac_volts: float = 0.0
    safety: str = ""
    temperature: float = 85.0
    life: float = 0.0
    ripple: float = 0.0
    ripple_frequency: float = 120.0
    esr: float = 0.0
    esr_frequency: float = 120.0
    bipolar: bool = False
    low_impedance: bool = False
    pulse: bool = False
    price: float = 0.0
    pack: int = 1
    supplier: str = ""
    lead_days: int = 0
    stock: int = 0
    note: str = ""

    def __post_init__(self) -> None:
        if self.mounting in ON_PADS:
            object.__setattr__(self, "mounting", as_mounted(self.mounting, self.kind, self.diameter, self.height))

    @property
    def rated(self) -> str:
        """Its volts as it is bought by: AC for a part with a safety class, else DC.

        >>> Capacitor(part='X', series='XL', kind='film', value=1e-7, volts=0.0, ac_volts=275.0, safety='X2').rated
        '275 V~'
        """
        return f"{self.ac_volts:g} V~" if self.ac_volts and (self.safety or not self.volts) else f"{self.volts:g} V"


#: A part's note where a photo alone told its room.
ROOM_FROM_PHOTO = "room from a photo"


@dataclass(frozen=True, kw_only=True)
class Fitted:
    """A part as it stands on a board, with what was seen and measured of it, and the room it has.

    Attributes:
        ref: the reference in the board's print.
        value: F. volts: V marked, None when it could not be read. temperature: °C marked.
        diameter, height, pitch, room_diameter, room_height: mm.
        ripple: A the place must carry at frequency (Hz). ambient: °C round the part.
        rail, rail_volts: the supply it sits on and the worst volts it sees there.
        series: its make series. year: of make. looks: one of LOOKS, "" when not looked at.
        esr: Ω at esr_frequency (Hz). capacitance: F measured. leakage: A measured. in_circuit: how ESR was read.
        x, y: mm from the board's upper left corner, None when not placed.
        angle: ° clockwise from the right to where its minus side points.
        side: one of SIDES. x, y and angle are those of the board seen from its parts side.
        note: anything else.
    """

    ref: str
    value: float
    volts: float | None = None
    kind: str = "wet"
    mounting: str = "radial"
    diameter: float | None = None
    height: float | None = None
    pitch: float | None = None
    temperature: float | None = None
    bipolar: bool = False
    safety: str = ""
    role: str = "unknown"
    rail: str = ""
    rail_volts: float | None = None
    ripple: float | None = None
    frequency: float | None = None
    ambient: float | None = None
    room_diameter: float | None = None
    room_height: float | None = None
    series: str = ""
    date: str = ""
    looks: str = ""
    esr: float | None = None
    esr_frequency: float | None = None
    capacitance: float | None = None
    leakage: float | None = None
    in_circuit: bool = False
    x: float | None = None
    y: float | None = None
    angle: float = 0.0
    note: str = ""
    side: str = "parts"

    def __post_init__(self) -> None:
        if self.mounting in ON_PADS:
            object.__setattr__(self, "mounting", as_mounted(self.mounting, self.kind, self.diameter, self.height))

    @property
    def polar(self) -> bool:
        """Whether it matters which way round it stands."""
        return self.kind in POLAR_KINDS and not self.bipolar

    @property
    def esr_text(self) -> str:
        """Its ESR as a meter shows it, "" where it was not read."""
        return "" if self.esr is None else "OL" if self.esr >= OPEN_ESR else show(self.esr, "Ω")

    def after_swap(self, value: float, kind: str, mounting: str, bipolar: bool) -> Fitted:
        """What stands in the place once a new part is in: its own value, kind, mounting and marks, nothing seen of it yet."""
        return replace(
            self, value=value, kind=kind, mounting=mounting, bipolar=bipolar,
            looks="", esr=None, capacitance=None, leakage=None, series="", date="",
        )  # fmt: skip

    def with_(self, **changes: object) -> Fitted:
        """A copy with some fields changed."""
        return replace(self, **changes)


FITTED_FIELDS = tuple(f.name for f in fields(Fitted))


@dataclass(frozen=True)
class PolarityMark:
    """What a part's mark tells: the side it is on, and how to say it."""

    side: str
    words: str


#: The polarity marks differ by kind, and by mounting where one is named (workshop practice, because no standard
#: fixes them: the marks that makers share).
POLARITY_MARKS: dict[tuple[str, str], PolarityMark] = {
    ("wet", "radial"): PolarityMark("negative", "the stripe is the negative side"),
    ("wet", "snap"): PolarityMark("negative", "the stripe is the negative side"),
    ("wet", "axial"): PolarityMark("positive", "the groove or dimple is positive, the band arrow points to negative"),
    ("wet", "can"): PolarityMark("negative", "the dark sector is negative"),
    ("polymer", "can"): PolarityMark("negative", "the dark sector is negative"),
    ("tantalum", ""): PolarityMark("positive", "the bar or + is the positive side"),
    ("tantalum", "chip"): PolarityMark("positive", "the bar is the positive side"),
}


def polarity_mark(kind: str, mounting: str, bipolar: bool = False) -> PolarityMark:
    """Which side the mark on a part stands for.

    >>> polarity_mark('tantalum', 'chip').side
    'positive'
    """
    if bipolar or kind not in POLAR_KINDS:
        return PolarityMark("none", "no polarity: either way round")
    found = POLARITY_MARKS.get((kind, mounting)) or POLARITY_MARKS.get((kind, ""))
    return found or PolarityMark("negative", "the stripe is the negative side")

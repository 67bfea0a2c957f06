"""What a practice machine is made of: its supply, its parts, the steps to its cure."""

from __future__ import annotations

import random
from dataclasses import dataclass, field

from ..board.monitor_lines import Monitor
from ..board.parts import Fitted
from ..prove import lamp_watts
from ..text.rails_and_chips import Rail, read_rail

#: What is claimed of a machine in which no part has failed.
NOTHING = "NOTHING"


@dataclass(frozen=True)
class PracticeStep:
    """A move of the careful way, and why it comes now."""

    move: str
    why: str


@dataclass(frozen=True, kw_only=True)
class Machine:
    """A machine with a fault.

    parts: as its sheet lists them. truth: what befell them, as the simulated bench reads it. marked: volts that really stand on a
    can, where the sheet says others. backwards: stores that somebody fitted the wrong way round. seen: what a close look at a
    part tells. cause: what is to be claimed in the end. hopeless: places in which a new part or a mend is needed. way: of a
    careful person.
    """

    kind: str
    seed: str
    title: str
    story: str
    told: str
    lines: str
    fuse: str
    rails: tuple[Rail, ...]
    parts: tuple[Fitted, ...]
    truth: str
    cause: frozenset[str]
    way: tuple[PracticeStep, ...]
    lesson: str
    seen: dict[str, str] = field(default_factory=dict)
    marked: dict[str, float] = field(default_factory=dict)
    backwards: frozenset[str] = frozenset()
    joints: tuple[str, ...] = ()
    others: tuple[str, ...] = ()
    monitor: Monitor | None = None
    board: tuple[float, float] = (120.0, 80.0)

    @property
    def switching(self) -> bool:
        return "converter" in self.lines

    @property
    def low(self) -> bool:
        """Whether an adapter feeds it: nothing of the mains is in it, and no lamp stands before it."""
        return self.lines.startswith("adapter")

    @property
    def tube(self) -> bool:
        return self.monitor is not None

    @property
    def cause_words(self) -> str:
        """What it was, in words."""
        return "no part at all" if self.cause == {NOTHING} else " and ".join(sorted(self.cause))

    def part(self, ref: str) -> Fitted | None:
        return next((p for p in self.parts if p.ref == ref), None)

    @property
    def lamp(self) -> float:
        """W of the lamp it is brought up behind."""
        return float(lamp_watts(self.rails, "switching" if self.switching else "linear"))


def fitted(
    ref: str,
    value: float,
    volts: float,
    role: str,
    at: tuple[float, float],
    size: tuple[float, float, float],
    rail: str = "",
) -> Fitted:
    """A wet radial can as the sheet lists it."""
    diameter, height, pitch = size
    return Fitted(
        ref=ref,
        value=value,
        volts=volts,
        kind="wet",
        mounting="radial",
        diameter=diameter,
        height=height,
        pitch=pitch,
        role=role,
        rail=rail,
        x=at[0],
        y=at[1],
        looks="sound",
    )


#: Sizes of a can, mm: diameter, height, pitch.
BIG, MIDDLE, SMALL = (18.0, 36.0, 7.5), (13.0, 26.0, 5.0), (8.0, 12.0, 3.5)


#: Linear supplies: rail, winding V, VA, store F and V, output store V.
LINEAR = (
    ("+5", 9.0, 25.0, 4700e-6, 25.0, 16.0), ("+12", 15.0, 40.0, 3300e-6, 35.0, 25.0), ("+8", 12.0, 30.0, 3300e-6, 25.0, 16.0),
    ("+15", 18.0, 40.0, 2200e-6, 50.0, 35.0),
)  # fmt: skip


@dataclass
class Linear:
    """A linear supply of one rail, before anything befell it."""

    chance: random.Random

    def __post_init__(self) -> None:
        name, winding, size, store, volts, out = self.chance.choice(LINEAR)
        self.rail = f"{name} V"
        self.point = f"{name}V"
        self.joint = f"J{self.chance.randint(2, 6)}"
        self.lines = f"bridge {winding:g}V {size:g}VA reservoir C1 regulator VR1 {name[1:]}V 1A joint {self.joint}"
        self.rails = (read_rail(f"{name} V 1 A min 0.2 A"),)
        x, y = self.chance.randint(24, 34), self.chance.randint(24, 34)
        self.parts = [
            fitted("C1", store, volts, "bulk", (x, y), BIG, self.rail),
            fitted("C2", 100e-6, out, "regulator_output", (x + 36, y + 4), SMALL, self.rail),
            fitted("C3", 47e-6, out, "decoupling", (x + 56, y + 22), SMALL, self.rail),
            fitted("C4", 100e-6, out, "decoupling", (x + 66, y - 8), SMALL, self.rail),
        ]
        self.facts = {
            "lines": self.lines, "fuse": "T 630 mA 250 V", "rails": self.rails, "parts": tuple(self.parts), "joints": (self.joint,),
            "others": ("VR1", "D1", "F1"),
        }  # fmt: skip


@dataclass
class Switching:
    """A switching supply of three rails, before anything befell it."""

    chance: random.Random

    def __post_init__(self) -> None:
        watts, rate = self.chance.choice((20, 22, 24)), self.chance.choice((40, 42, 48))
        self.rail, self.point = "+5 V", "+5V"
        self.lines = (
            f"bridge mains 10.6ohm reservoir C7 converter flyback {watts}W eff 0.78 at {rate}k fuse T1.6A least 0.4A startcap C9\n"
            "rail +5V 1.3A duty 0.47 capacitors C14,C15\nrail +12V 0.4A duty 0.47 capacitors C18\nrail -12V 0.08A duty 0.47 capacitors C21"
        )
        self.rails = tuple(
            map(read_rail, ("+5 V 1.3 A min 0.4 A", "+12 V 0.4 A min 0.05 A", "-12 V 0.08 A min 0.02 A"))
        )
        x = self.chance.randint(20, 28)
        self.parts = [
            fitted("C7", 220e-6, 400.0, "bulk", (x, 30), BIG),
            fitted("C9", 10e-6, 50.0, "startup", (x + 22, 58), SMALL),
            fitted("C14", 2200e-6, 10.0, "converter_output", (x + 46, 24), MIDDLE, "+5 V"),
            fitted("C15", 2200e-6, 10.0, "converter_output", (x + 62, 24), MIDDLE, "+5 V"),
            fitted("C18", 1000e-6, 16.0, "converter_output", (x + 62, 44), MIDDLE, "+12 V"),
            fitted("C21", 220e-6, 25.0, "converter_output", (x + 46, 60), SMALL, "-12 V"),
        ]
        self.facts = {
            "lines": self.lines, "fuse": "T 1.6 A 250 V", "rails": self.rails, "parts": tuple(self.parts),
            "others": ("Q1", "R5", "FB", "D1", "F1"),
        }  # fmt: skip


#: Machines on an adapter: rail, label V and A of the adapter, load A.
ADAPTERS = (("+5", 12.0, 1.0, 0.6), ("+5", 9.0, 1.0, 0.5), ("+9", 15.0, 0.8, 0.4))


@dataclass
class Adapter:
    """A machine of one rail that an adapter feeds, before anything befell it. Nothing of the mains is in it."""

    chance: random.Random

    def __post_init__(self) -> None:
        name, volts, amps, load = self.chance.choice(ADAPTERS)
        self.rail, self.point, self.joint = f"{name} V", f"{name}V", "J1"
        self.lines = f"adapter {volts:g}V DC {amps:g}A reservoir C1 regulator VR1 {name[1:]}V 1A joint {self.joint}"
        self.rails = (read_rail(f"{name} V {load:g} A min 0.1 A"),)
        x = self.chance.randint(24, 34)
        self.parts = [
            fitted("C1", 1000e-6, 35.0, "bulk", (x, 28), MIDDLE, self.rail),
            fitted("C2", 100e-6, 16.0, "regulator_output", (x + 34, 28), SMALL, self.rail),
            fitted("C3", 47e-6, 16.0, "decoupling", (x + 54, 46), SMALL, self.rail),
        ]
        self.facts = {
            "lines": self.lines, "fuse": "", "rails": self.rails, "parts": tuple(self.parts), "joints": (self.joint,),
            "others": ("AD1", "VR1"),
        }  # fmt: skip


PLACES = (
    "Gull Reach",
    "Lantern Quay",
    "Hollow Bay",
    "Thrift Island",
    "Sand Hook",
    "Mew Stone",
    "Kelp Harbour",
    "Ebb Point",
)


THINGS = (
    "tide clock",
    "fog bell timer",
    "wave recorder",
    "lamp turner",
    "beacon keyer",
    "swell meter",
    "signal mast lamp box",
)


def named(chance: random.Random) -> str:
    return f"{chance.choice(THINGS).capitalize()} of {chance.choice(PLACES)}"

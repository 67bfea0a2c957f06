"""What a place asks of a replacement, worked out from the old part, its role and the room it has.

Source: the role table (board.roles); IEC 60384-14:2013, 2.2, and IEC 60038:2009, table 1, for mains places; headroom, heat and room:
workshop practice, because no standard says how much air an old machine leaves.
"""

from __future__ import annotations

import math
from bisect import bisect_left
from dataclasses import dataclass
from functools import cached_property

from ..board.parts import ON_PADS, ROOM_FROM_PHOTO, Fitted, radial_pitch
from ..board.roles import Role, effective_role, role
from ..judge import ageing
from ..judge.policy import POLICIES, Policy
from ..text.calculation import Calculation, CalculationLine
from ..text.quantity import VOLT_RATINGS, show, show_range

#: Room taken where none is given: old diameter + 1 mm, old height + 20 %.
EXTRA_DIAMETER, EXTRA_HEIGHT = 1.0, 1.2
#: What the two bent leads of a lying part take between its holes, mm, together: the rest is room for its body.
LEADS_BENT = 4.0
#: At this ambient (°C) a place counts as hot and asks 105 °C.
HOT = 55.0
#: Headroom on volts by the new part's kind.
HEADROOM = {"polymer": 1.25, "tantalum": 2.0}
#: Mains parts: AC rating over the local mains.
MAINS_HEADROOM = 1.1
SOURCE = "what the place asks, by its role"
#: What rules reckon with, by name.
NUMBERS = (
    "value", "value_low", "value_high", "marked", "place_volts", "ac_volts", "temperature", "ambient", "ripple", "esr_low",
    "esr_high", "diameter", "height", "lid", "pitch", "old_height", "marked_step", "log2", "life_asked", "per_height",
    "stable_low", "stable_high", "strays_most", "strays_much",
    # yes or no
    "low_impedance", "pulse", "bulk", "touch", "unsettled", "relaxable", "on_pads", "axial", "radial", "holed", "bipolar",
    "on_supply", "ripples", "leaks",
)  # fmt: skip
NUMBER = {name: i for i, name in enumerate(NUMBERS)}
FLAGS_FROM = NUMBER["low_impedance"]


#: How far a part may stray from its value in a place whose value sets a frequency, and from where a time is looked at twice, as shares:
#: the window of the role (rules of the roles), which a part of a wider tolerance leaves by itself.
STRAYS = {"filter": 0.05, "feedback": 0.05}
STRAYS_MUCH = {"filter": 0.05, "feedback": 0.05, "timing": 0.10, "reset": 0.10}
#: Kinds whose old parts were ±20 % themselves.
WIDE_KINDS = ("wet", "polymer", "tantalum")
#: Places that carry ripple whether or not anybody knows how much.
RIPPLES = ("converter_output", "deflection_coupling")
#: Places where what leaks through a part is a time, a level or a battery's life: of two of a size the one that leaks less.
LEAKS = ("timing", "reset", "coupling", "memory_backup")
#: Places on a supply line, of low impedance: a tantalum there wants twice the volts.
ON_SUPPLY = ("bulk", "converter_output", "startup", "regulator_output", "decoupling", "memory_backup", "unknown")


def step_marked(volts: float) -> int:
    """The step of a marked rating in the row of ratings; one between two rows, such as 20, 40 or 500 V, counts as the lower,
    so that the next made is one step up.

    >>> step_marked(16), step_marked(20), step_marked(25)
    (4, 4, 5)
    """
    step = bisect_left(VOLT_RATINGS, volts * 0.999)
    made = step < len(VOLT_RATINGS) and volts >= VOLT_RATINGS[step] * 0.999
    return step if made else max(step - 1, 0)


def _or(value: float | None, default: float) -> float:
    return default if value is None else value


@dataclass(frozen=True)
class Mains:
    """The local mains: volts rms and Hz."""

    volts: float = 230.0
    frequency: float = 50.0


@dataclass(frozen=True, kw_only=True)
class Need:
    """What a place asks. SI, sizes in mm; None where nothing is asked or nothing is known.

    Attributes:
        old: the part that stands there. role: what the place does.
        value_low, value_high: F. volts: least V DC (before headroom by kind). place_volts: worst V the place sees.
        ac_volts: least V AC of a mains part. temperature: least °C. ambient: °C the life is reckoned at.
        ripple: A at ripple_frequency. esr_low, esr_high: Ω at 100 kHz of a new part; below low is looked at twice.
        diameter, height: greatest mm. lid: the room's height when it was measured, mm. pitch: mm of the holes.
        bipolar: whether only a bipolar part may stand here.
        stable: least and greatest ESR, Ω, at which the regulator before it is stable, where that is known.
    """

    old: Fitted
    role: Role
    value_low: float
    value_high: float
    volts: float
    place_volts: float
    ac_volts: float | None
    temperature: float
    ambient: float
    ripple: float
    ripple_frequency: float
    esr_low: float | None
    esr_high: float | None
    diameter: float | None
    height: float | None
    lid: float | None
    pitch: float | None
    bipolar: bool
    mains: Mains = Mains()
    policy: Policy = POLICIES["renew"]
    stable: tuple[float, float] | None = None

    @property
    def value(self) -> float:
        return self.old.value

    @property
    def kind(self) -> str:
        return self.old.kind

    @property
    def mounting(self) -> str:
        return self.old.mounting

    @property
    def safety(self) -> str:
        return self.old.safety

    @property
    def marked(self) -> float:
        """Volts marked on the old part, 0 where they could not be read."""
        return self.old.volts or 0.0

    @property
    def old_height(self) -> float:
        """Height of the old part, mm, 0 where it was not measured."""
        return self.old.height or 0.0

    @property
    def strays_most(self) -> float:
        """The most that a part may stray from its value here, as a share; endless where nothing asks it."""
        return math.inf if self.kind in WIDE_KINDS else STRAYS.get(self.role.name, math.inf)

    @property
    def strays_much(self) -> float:
        """From where a part that strays is looked at twice, as a share."""
        return STRAYS_MUCH.get(self.role.name, math.inf)

    @cached_property
    def numbers(self) -> tuple[float, ...]:
        """The numbers of NUMBERS in their order; what is not asked or not known is a value that no part misses."""
        inf, nan = math.inf, math.nan
        return (
            self.value, self.value_low, self.value_high, self.marked, self.place_volts, self.ac_volts or 0.0, self.temperature,
            self.ambient, self.ripple, _or(self.esr_low, -inf), _or(self.esr_high, inf), _or(self.diameter, inf),
            _or(self.height, inf), _or(self.lid, inf), _or(self.pitch, nan), self.old_height,
            float(step_marked(self.marked)), math.log2(self.value), self.role.life,
            1 / self.old_height if self.old_height else 0.0, *(self.stable or (0.0, inf)),
            self.strays_most, self.strays_much,
            self.role.low_impedance, self.role.pulse, self.role.name == "bulk", self.role.name == "mains_y",
            self.role.name == "unknown", self.role.relaxable, self.mounting in ON_PADS, self.mounting == "axial",
            self.mounting == "radial", self.mounting not in ("axial", "screw", "chassis", *ON_PADS), self.bipolar,
            self.role.name in ON_SUPPLY, self.role.name in RIPPLES, self.role.name in LEAKS,
        )  # fmt: skip

    @cached_property
    def alike(self) -> tuple[object, ...]:
        """Places that are alike in this are asked the same rules, each with its own numbers."""
        return self.role.safety, self.safety if self.role.safety else "", self.policy.name, id(self.policy), self.mains

    @cached_property
    def same(self) -> tuple[object, ...]:
        """Places that are the same in this ask the same of a part."""
        return self.alike, self.numbers, self.ripple_frequency, self.role.name, self.kind, self.mounting

    @property
    def value_range(self) -> str:
        """The value window as people write it."""
        return show_range(self.value_low, self.value_high, "F")

    @property
    def esr_range(self) -> str:
        """The ESR window as people write it, "" where none is asked."""
        return (
            show_range(self.esr_low, self.esr_high, "Ω")
            if self.esr_low is not None and self.esr_high is not None
            else ""
        )

    def working(self) -> Calculation:
        """The limits with how each came about."""
        lines = [
            CalculationLine(
                label="Value",
                formula="marked × window of the role",
                numbers=f"{show(self.value, 'F')} × {self.role.window[0]:g} to {self.role.window[1]:g}",
                value=self.value_range,
                unit="",
                source=f"role: {self.role.title}",
            ),
        ]
        if self.ac_volts:
            lines.append(
                CalculationLine(
                    label="AC rating",
                    formula="1.1 × local mains",
                    numbers=f"1.1 × {self.mains.volts:g}",
                    value=self.ac_volts,
                    unit="V",
                    source="IEC 60384-14:2013, 2.2; IEC 60038:2009, table 1",
                )
            )
        else:
            lines.append(
                CalculationLine(
                    label="Volts",
                    formula="marked, and the worst the place sees",
                    numbers=f"{show(self.old.volts, 'V')}, {show(self.place_volts or None, 'V')}",
                    value=self.volts,
                    unit="V",
                    source="never down",
                )
            )
        if self.temperature:
            how = f"{show(self.old.temperature, '°C')}, {show(self.ambient, '°C')} round it"
            asked = "old rating; 105 °C near heat or where the role asks"
            lines.append(
                CalculationLine(
                    label="Temperature", formula=asked, numbers=how, value=self.temperature, unit="°C", source=SOURCE
                )
            )
        if self.ripple:
            lines.append(
                CalculationLine(
                    label="Ripple",
                    formula="what the place carries",
                    numbers=f"at {show(self.ripple_frequency, 'Hz')}",
                    value=self.ripple,
                    unit="A",
                    source="survey, or simulated from the supply",
                )
            )
        if self.esr_high is not None:
            lines.append(
                CalculationLine(
                    label="ESR",
                    formula="share of the old part's when new",
                    numbers=f"{self.role.esr[0]:g} to {self.role.esr[1]:g} × {show(self.esr_high / self.role.esr[1], 'Ω')}",
                    value=self.esr_range,
                    unit="",
                    source=ageing.SOURCE_ESR,
                )
            )
        given = "room measured" if self.old.room_diameter or self.old.room_height else "old size + 1 mm, + 20 % height"
        if self.old.room_diameter and ROOM_FROM_PHOTO in self.old.note:
            given = f"{ROOM_FROM_PHOTO}, to the nearest part"
        lines.append(
            CalculationLine(
                label="Room",
                formula=given,
                numbers=f"ø{show(self.diameter, 'mm')} × {show(self.height, 'mm')}",
                value=self.space,
                unit="",
                source=SOURCE,
            )
        )
        return Calculation(name="need", values=self.as_json(), lines=tuple(lines), cautions=(self.role.notes,))

    @property
    def space(self) -> str:
        """Room as people write it."""
        if self.diameter is None and self.height is None:
            return "not measured"
        wide = f"ø{self.diameter:.3g}" if self.diameter is not None else "ø –"
        return f"{wide} × {self.height:.3g} mm" if self.height is not None else f"{wide} mm"

    def as_json(self) -> dict[str, object]:
        """The need in the shape of the plan JSON, SI and mm."""
        return {
            "role": self.role.name,
            "value_low": self.value_low,
            "value_high": self.value_high,
            "volts": self.volts,
            "ac_volts": self.ac_volts,
            "safety": list(self.role.safety),
            "temperature": self.temperature,
            "ripple": self.ripple,
            "ripple_frequency": self.ripple_frequency,
            "esr_low": self.esr_low,
            "esr_high": self.esr_high,
            "diameter": self.diameter,
            "height": self.height,
            "pitch": self.pitch,
            "mounting": self.old.mounting,
            "bipolar": self.bipolar,
            "low_impedance": self.role.low_impedance,
        }


def need_of(old: Fitted, mains: Mains = Mains(), ambient: float = 40.0, policy: Policy = POLICIES["renew"]) -> Need:
    """What the place of an old part asks of a new one.

    Args:
        old: the part as surveyed.
        mains: the local mains.
        ambient: °C assumed where the survey gives none.
        policy: how values and kinds may move where the role leaves it open.

    Returns:
        Every number that a rule asks of a part.
    """
    # a part with a safety class makes its place a mains place, whatever was typed
    asked = role(effective_role(old.role, old.safety))
    place_ambient = old.ambient if old.ambient is not None else ambient
    marked = old.volts or 0.0
    place = abs(old.rail_volts) if old.rail_volts else 0.0
    hot = 105.0 if place_ambient >= HOT else 0.0
    fallback = 85.0 if old.kind in ("wet", "paper") else 0.0
    frequency = asked.frequency if isinstance(asked.frequency, float) else 2 * mains.frequency
    esr_low = esr_high = None
    if asked.esr and marked and old.kind == "wet":
        new = ageing.new_esr(old.value, marked, 100e3)
        esr_low, esr_high = asked.esr[0] * new, asked.esr[1] * new
    return Need(
        old=old,
        role=asked,
        value_low=old.value * asked.window[0],
        value_high=old.value * asked.window[1],
        volts=max(marked, place),
        place_volts=place,
        ac_volts=MAINS_HEADROOM * mains.volts if asked.safety else None,
        temperature=max(old.temperature or fallback, asked.temperature, hot),
        ambient=place_ambient,
        ripple=old.ripple or 0.0,
        ripple_frequency=old.frequency or frequency,
        esr_low=esr_low,
        esr_high=esr_high,
        diameter=_room_across(old),
        height=_room_along(old),
        lid=old.room_height,
        pitch=_pitch(old),
        bipolar=old.bipolar,
        mains=mains,
        policy=policy,
    )


def _room_across(old: Fitted) -> float | None:
    """mm across for a new part; what lies is held by the lid above it as well."""
    across = old.room_diameter or (old.diameter + EXTRA_DIAMETER if old.diameter else None)
    if old.mounting == "axial" and old.room_height:
        return min(across, old.room_height) if across else old.room_height
    return across


def _room_along(old: Fitted) -> float | None:
    """mm of height for a new part; of what lies the length, between its holes or by the old one's."""
    if old.mounting == "axial":
        by_holes = old.pitch - LEADS_BENT if old.pitch and old.pitch > LEADS_BENT else None
        by_old = old.height * EXTRA_HEIGHT if old.height else None
        return max(filter(None, (by_holes, by_old)), default=None)
    return old.room_height or (old.height * EXTRA_HEIGHT if old.height else None)


def _pitch(old: Fitted) -> float | None:
    if old.pitch:
        return old.pitch
    if old.kind == "wet" and old.mounting == "radial" and old.diameter:
        return radial_pitch(old.diameter)
    return None

"""Regulators and fuses against the place they go into: each rule says its number. Few rows, so one part at a time.

Source: thermal Ohm's law: Horowitz and Hill, The Art of Electronics (2015), 9.4; IEC 60127-2:2014, clause 9, for fuse characteristics;
pinouts and tabs as in circuit.packages.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from ..board.devices import Device
from ..circuit import regulator
from ..circuit.packages import PACKAGES, SMALL, Package
from ..judge.policy import POLICIES, Policy
from ..text.quantity import show
from .rank import Reason
from .rules import FAILS, FITS, VERDICT_NAMES
from .stand_in import LOOK_TWICE

LINEAR, MODULE = "linear", "module"
#: How much of its current a regulator may give day and night.
CURRENT_MARGIN = 0.8
SIZES = ("5x20", "6.3x32")


@dataclass(frozen=True, kw_only=True)
class Regulator:
    """A regulator of the catalogue.

    Attributes:
        part, series: names. type: linear or module. volts: V out with its sign. current: A. dropout: V. v_in_max: V.
        pins: in order from the left, marking to the front. tab: what it is joined to, "" where there is none.
        theta_jc: K/W (linear). package: a key of PACKAGES, "" where it is not known. height: mm. min_load: A (module).
        efficiency: of a module. esr_low, esr_high: Ω that its output capacitor must have, 0 where any will do.
    """

    part: str
    series: str
    type: str
    volts: float
    current: float
    dropout: float
    v_in_max: float
    pins: tuple[str, ...]
    tab: str = ""
    theta_jc: float = 3.0
    height: float = 16.0
    min_load: float = 0.0
    efficiency: float = 0.0
    esr_low: float = 0.0
    esr_high: float = 0.0
    price: float = 0.0
    stock: int = 0
    package: str = ""

    @property
    def has_window(self) -> bool:
        """Whether its output capacitor's ESR must stand in a window: a low-dropout type."""
        return self.esr_high > 0


@dataclass(frozen=True)
class OutputCapacitor:
    """What stands, or will stand, at a regulator's output: ref, what it is in words, its ESR at 100 kHz in Ω, and whether that is known
    (given by its maker or measured out of circuit) or only what such a part usually has."""

    ref: str
    what: str
    esr: float
    known: bool


@dataclass(frozen=True)
class Judged:
    """A part that is no capacitor judged for a place: its grade and its reasons, the weightiest first."""

    part: Any
    status: int
    reasons: tuple[Reason, ...]
    score: float

    @property
    def verdict(self) -> str:
        return VERDICT_NAMES[self.status]

    @property
    def package(self) -> Package | None:
        """Its package, where it is a regulator of a known one."""
        return PACKAGES.get(getattr(self.part, "package", ""))


@dataclass(frozen=True, kw_only=True)
class RegulatorNeed:
    """What a regulator's place asks.

    Attributes:
        old: the part as listed. volts: with the sign. current: A. v_in_low: lowest V at −10 % mains. v_in_high: average at +10 %.
        v_in_peak: V without load at +10 %. theta_sa: K/W of the heatsink. ambient: °C. height: mm of room, None if not known.
        quiet: whether audio or a modulator stands near. outputs: the capacitors at its output as they will be. feed: what feeds it,
        in words, "" where its supply tells; assumed: whether that is only likely.
    """

    old: Device
    volts: float
    current: float
    v_in_low: float
    v_in_high: float
    v_in_peak: float
    theta_sa: float = 8.0
    ambient: float = 45.0
    height: float | None = None
    quiet: bool = False
    outputs: tuple[OutputCapacitor, ...] = ()
    feed: str = ""
    assumed: bool = False
    policy: Policy = POLICIES["renew"]


def reason(
    rule: str, text: str, status: int, value: float | None = None, limit: float | None = None, unit: str = ""
) -> Reason:
    return Reason(rule=rule, text=text, status=status, value=value, limit=limit, unit=unit)


def judge_regulator(need: RegulatorNeed, part: Regulator) -> Judged:
    """One regulator against a place."""
    said = []
    if part.volts != need.volts:
        said.append(
            reason(
                "volts",
                f"{show(part.volts, 'V')}, the rail is {show(need.volts, 'V')}",
                FAILS,
                part.volts,
                need.volts,
                "V",
            )
        )
    usable = part.current * CURRENT_MARGIN
    if usable < need.current:
        text = f"{show(usable, 'A')} day and night, the rail draws {show(need.current, 'A')}"
        said.append(reason("current", text, FAILS, usable, need.current, "A"))
    if part.v_in_max < need.v_in_peak:
        text = (
            f"Rated {show(part.v_in_max, 'V')} in; the reservoir capacitor rises to "
            f"{show(need.v_in_peak, 'V')} at +10 % mains without load"
        )
        said.append(reason("input", text, FAILS, part.v_in_max, need.v_in_peak, "V"))
    headroom = need.v_in_low - abs(part.volts) - part.dropout
    if headroom < 0:
        text = f"Drops out at −10 % mains: {show(-headroom, 'V')} are missing"
        said.append(reason("headroom", text, FAILS, headroom, 0.0, "V"))
    said += _pins(need, part) + (_module(need, part) if part.type == MODULE else _heat(need, part))
    said += _stability(need, part) if part.has_window else []
    if need.height is not None and part.height > need.height:
        text = f"{part.height:g} mm tall, room for {need.height:g} mm"
        said.append(reason("height", text, FAILS, part.height, need.height, "mm"))
    if need.feed:
        said.append(reason("feed", need.feed, LOOK_TWICE if need.assumed else FITS))
    said.sort(key=lambda r: -r.status)
    status = max((r.status for r in said), default=FITS)
    other_kind = (part.type == MODULE) != (need.policy.regulators == "module")
    score = (
        2.0 * other_kind
        # a standard type where one does: it is stable with any capacitor at its output
        + 2.0 * part.has_window
        + abs(part.current / max(need.current, 1e-6) - 1.5) * 0.3
        + 0.1 * part.price
        + 0.25 * (part.stock <= 0)
    )
    return Judged(part, status, tuple(said), score)


def _pins(need: RegulatorNeed, part: Regulator) -> list[Reason]:
    said = []
    old = need.old.pins
    if not part.package and part.type == LINEAR and part.current <= SMALL:
        text = "Its package is not known. In TO-92 its pins run output, ground, input, and it has no tab: say which, such as to92"
        said.append(reason("package", text, LOOK_TWICE))
    if old and part.pins != old[:3]:
        order = ", ".join(part.pins)
        text = (
            f"Its pins are {order}; the old one's are {', '.join(old[:3])}: it needs crossed leads or a small "
            "adapter board"
        )
        said.append(reason("pins", text, LOOK_TWICE))
    if part.tab and part.tab != "ground":
        text = f"Its tab is the {part.tab}: insulate it from the chassis, and check the insulation with a meter"
        said.append(reason("tab", text, FITS if old and old[3] == part.tab else LOOK_TWICE))
    return said


def _stability(need: RegulatorNeed, part: Regulator) -> list[Reason]:
    """A low-dropout type against the capacitors at its output: outside of its window of ESR it oscillates.

    Source: data of low-dropout types with a pnp output, whose loop needs the zero of its output capacitor.
    """
    window = f"it is stable from {show(part.esr_low, 'Ω')} to {show(part.esr_high, 'Ω')}"
    if not need.outputs:
        text = f"Low-dropout: {window} of ESR at its output, and no capacitor is listed there: list it with role regulator output"
        return [reason("stability", text, LOOK_TWICE)]
    said = []
    for one in need.outputs:
        inside = part.esr_low <= one.esr <= part.esr_high
        known = "" if one.known else ", as such a part usually has"
        text = f"{one.ref}, {one.what}: ESR {show(one.esr, 'Ω')} at 100 kHz{known}; {window}"
        status = FITS if inside and one.known else FAILS if one.known else LOOK_TWICE
        said.append(
            reason("stability", text + ("" if inside else ": it would oscillate"), status, one.esr, part.esr_high, "Ω")
        )
    return said


def _heat(need: RegulatorNeed, part: Regulator) -> list[Reason]:
    if need.v_in_high <= abs(part.volts):
        return []
    low = min(need.v_in_low, need.v_in_high)
    package = PACKAGES.get(part.package)
    bare = package is not None and not package.sink
    thetas = (package.to_air, 0.0, 0.0) if bare else (part.theta_jc, regulator.case_to_sink(part.tab), need.theta_sa)
    found = regulator.regulator(
        abs(part.volts), need.current, low, need.v_in_high, part.dropout, *thetas, need.ambient
    ).values
    hot = found["junction"] > regulator.JUNCTION
    text = f"Junction {found['junction']:.0f} °C at +10 % mains, {found['dissipation']:.2g} W"
    if bare:
        text += f", {package.title} {package.to_air:g} K/W to air"
    if hot and bare:
        text += ": no heatsink is made for it"
    elif hot and found["theta_sa_max"] <= 0:
        text += ": no heatsink helps it"
    elif hot:
        text += f": the heatsink must be {found['theta_sa_max']:.2g} K/W or less, it is {need.theta_sa:g}"
    return [reason("junction", text, FAILS if hot else FITS, found["junction"], regulator.JUNCTION, "°C")]


def _module(need: RegulatorNeed, part: Regulator) -> list[Reason]:
    said = []
    if need.policy.regulators == "same":
        said.append(reason("policy", "The policy asks the same kind, and this is a switching module", FAILS))
    if part.min_load > need.current:
        text = f"Wants at least {show(part.min_load, 'A')}, the rail draws {show(need.current, 'A')}"
        said.append(reason("min_load", text, FAILS, need.current, part.min_load, "A"))
    heat, draws = regulator.module(part.volts, need.current, max(need.v_in_low, 1.0), part.efficiency)
    said.append(
        reason(
            "module",
            f"{show(heat, 'W')} of heat, draws {show(draws, 'A')} from the reservoir capacitor at low mains",
            FITS,
        )
    )
    noise = (
        "next to sound circuits or a modulator its noise is heard and seen"
        if need.quiet
        else "keep it away from audio and modulators"
    )
    said.append(reason("noise", f"A switching module: {noise}", LOOK_TWICE))
    return said


def rank_regulators(need: RegulatorNeed, parts: Iterable[Regulator], fits: int = 6, refused: int = 3) -> list[Judged]:
    """Those that go in, best first; then the nearest refused."""
    return ranked([judge_regulator(need, part) for part in parts], fits, refused)


def ranked(judged: list[Judged], fits: int, refused: int) -> list[Judged]:
    """Those that go in, best first; then the nearest refused."""
    good = sorted((j for j in judged if j.status != FAILS), key=lambda j: (j.score + j.status, j.part.part))
    bad = sorted(
        (j for j in judged if j.status == FAILS),
        key=lambda j: (sum(r.status == FAILS for r in j.reasons), j.score, j.part.part),
    )
    return [*good[:fits], *bad[:refused]]

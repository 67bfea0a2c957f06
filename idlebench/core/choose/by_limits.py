"""Zener diodes, optocouplers and transistors against the place they go into, by what is marked or typed; and the ranking of all such.

Source: IEC 60747-5-5:2020, clause 5, for the insulation of optocouplers; the rest: workshop practice, because makers differ by half.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from ..board.devices import Device
from ..refusal import BadInput
from ..text.quantity import show
from .regulators_and_fuses import Judged, ranked, reason
from .resistors import NEAR, SAME, Resistor, ResistorNeed, judge_resistor, judged_by, resistor_need
from .rules import FAILS, FITS
from .stand_in import LOOK_TWICE

TRANSISTOR_TYPES = ("npn", "pnp", "n-fet", "p-fet")
#: Least V rms that an optocoupler holds off between its two sides where mains stand behind it.
HOLDS_OFF = 3750.0
#: How far a gain may lie under the old one's.
GAIN = 0.7


@dataclass(frozen=True, kw_only=True)
class Zener:
    """A zener diode. volts: V. tolerance: share. watts: W."""

    part: str
    series: str
    volts: float
    tolerance: float
    watts: float
    price: float = 0.0
    stock: int = 0

    @property
    def marked(self) -> str:
        return f"{show(self.volts, 'V')} ± {self.tolerance * 100:g} %, {show(self.watts, 'W')}"


@dataclass(frozen=True, kw_only=True)
class Optocoupler:
    """An optocoupler. ctr_low, ctr_high: transfer ratio, shares. volts: V collector to emitter. holds_off: V rms between its sides."""

    part: str
    series: str
    ctr_low: float
    ctr_high: float
    volts: float
    holds_off: float
    price: float = 0.0
    stock: int = 0

    @property
    def marked(self) -> str:
        return f"{self.ctr_low * 100:g}–{self.ctr_high * 100:g} %, {show(self.volts, 'V')}, holds off {show(self.holds_off, 'V')}"


@dataclass(frozen=True, kw_only=True)
class Transistor:
    """A transistor. type: of TRANSISTOR_TYPES. volts: V. current: A. watts: W. gain: current gain, least; 0 for a field-effect type."""

    part: str
    series: str
    type: str
    volts: float
    current: float
    watts: float
    gain: float = 0.0
    price: float = 0.0
    stock: int = 0

    @property
    def marked(self) -> str:
        gain = f", gain {self.gain:g}" if self.gain else ""
        return f"{self.type}, {show(self.volts, 'V')} {show(self.current, 'A')}, {show(self.watts, 'W')}{gain}"


LimitPart = Resistor | Zener | Optocoupler | Transistor


@dataclass(frozen=True, kw_only=True)
class ZenerNeed:
    """What a zener diode's place asks: V, share, W."""

    old: Device
    volts: float
    tolerance: float
    watts: float


def zener_need(old: Device) -> ZenerNeed:
    """What the place of a zener diode asks, from its line.

    Args:
        old: what stands there.

    Returns:
        Volts, tolerance and watts.

    Raises:
        BadInput: its volts or watts are not known.
    """
    if not old.volts:
        raise BadInput(old.ref, "its volts", f"Type what is marked: {old.ref} zener 5.1V 0.5W.", field="volts")
    if not old.watts:
        raise BadInput(
            old.ref,
            "its watts",
            f"Type them: {old.ref} 0.5W. A glass body is 0.5 W, a thicker one 1.3 W.",
            field="watts",
        )
    return ZenerNeed(old=old, volts=abs(old.volts), tolerance=old.tolerance or 0.05, watts=old.watts)


def judge_zener(need: ZenerNeed, part: Zener) -> Judged:
    """One zener diode against a place."""
    off = abs(part.volts / need.volts - 1)
    status = FITS if off <= SAME else LOOK_TWICE if off <= NEAR * need.tolerance else FAILS
    said = [
        reason(
            "volts", f"{show(part.volts, 'V')}, marked {show(need.volts, 'V')}", status, part.volts, need.volts, "V"
        ),
        reason(
            "watts",
            f"{show(part.watts, 'W')}, needed {show(need.watts, 'W')}",
            FAILS if part.watts < need.watts * 0.999 else FITS,
            part.watts,
            need.watts,
            "W",
        ),
    ]
    if part.tolerance > need.tolerance * 1.001:
        said.append(
            reason("tolerance", f"± {part.tolerance * 100:g} %, the old one ± {need.tolerance * 100:g} %", LOOK_TWICE)
        )
    if part.watts > 2.5 * need.watts:
        said.append(
            reason("knee", "Much larger than the old one: at little current its volts are less sharp", LOOK_TWICE)
        )
    return judged_by(part, said, off + 0.05 * abs(part.watts / need.watts - 1))


@dataclass(frozen=True, kw_only=True)
class OptocouplerNeed:
    """What an optocoupler's place asks: transfer ratio as shares, V, and V rms between its sides."""

    old: Device
    ctr_low: float
    ctr_high: float
    volts: float
    holds_off: float


def optocoupler_need(old: Device, *, mains: bool) -> OptocouplerNeed:
    """What the place of an optocoupler asks, from its line.

    Args:
        old: what stands there.
        mains: whether one of its sides is joined to the mains.

    Returns:
        Its transfer ratio, volts, and what it holds off.

    Raises:
        BadInput: its transfer ratio is not known.
    """
    hit = re.search(r"\bctr ?(\d+)(?:[-–](\d+))? ?%", old.note.lower())
    if hit is None:
        raise BadInput(
            old.ref, "its transfer ratio", f"Look it up by its type, and type it: {old.ref} ctr 80-160%.", field="ctr"
        )
    low, high = float(hit[1]) / 100, float(hit[2] or 2 * float(hit[1])) / 100
    return OptocouplerNeed(
        old=old, ctr_low=low, ctr_high=high, volts=abs(old.volts or 0.0), holds_off=HOLDS_OFF if mains else 0.0
    )


def judge_optocoupler(need: OptocouplerNeed, part: Optocoupler) -> Judged:
    """One optocoupler against a place."""
    text = f"{part.ctr_low * 100:g}–{part.ctr_high * 100:g} %, the old one {need.ctr_low * 100:g}–{need.ctr_high * 100:g} %"
    if part.ctr_low < need.ctr_low * 0.999:
        said = [reason("ctr", f"{text}: the loop may not close", FAILS, part.ctr_low, need.ctr_low, "")]
    elif part.ctr_high > need.ctr_high * 1.001:
        said = [
            reason(
                "ctr", f"{text}: more gain in the loop, which may ring", LOOK_TWICE, part.ctr_high, need.ctr_high, ""
            )
        ]
    else:
        said = [reason("ctr", text, FITS, part.ctr_low, need.ctr_low, "")]
    if need.holds_off:
        text = f"Holds off {show(part.holds_off, 'V')} between mains and output, {show(need.holds_off, 'V')} is wanted"
        status = FAILS if part.holds_off < need.holds_off else FITS
        said.append(reason("insulation", text, status, part.holds_off, need.holds_off, "V"))
    if need.volts:
        text = f"Rated {show(part.volts, 'V')}, needed {show(need.volts, 'V')}"
        said.append(reason("volts", text, FAILS if part.volts < need.volts else FITS, part.volts, need.volts, "V"))
    return judged_by(part, said, abs(part.ctr_low / need.ctr_low - 1))


@dataclass(frozen=True, kw_only=True)
class TransistorNeed:
    """What a transistor's place asks: its type, V, A, W and gain; 0 for what nobody said."""

    old: Device
    type: str
    volts: float
    current: float
    watts: float
    gain: float


def transistor_need(old: Device) -> TransistorNeed:
    """What the place of a transistor asks, from its line.

    Args:
        old: what stands there.

    Returns:
        Its type and limits.

    Raises:
        BadInput: its type, volts or current is not known.
    """
    words = old.note.lower()
    fet = re.search(r"\b(?:([np])[- ]?(?:channel )?)?(?:mos)?fet\b", words)
    kind = f"{fet[1] or 'n'}-fet" if fet else next((one for one in ("npn", "pnp") if one in words.split()), "")
    if not kind:
        raise BadInput(old.ref, "its type", f"Type it: {old.ref} npn, pnp, n-fet or p-fet.", field="type")
    if not old.volts or not old.current:
        missing = "volts" if not old.volts else "current"
        raise BadInput(old.ref, f"its {missing}", f"Look them up by its type: {old.ref} {kind} 60V 2A.", field=missing)
    gain = re.search(r"\b(?:hfe|beta|gain) ?(\d+)", words)
    read = next((one.value for one in old.reads if one.what == "hfe"), 0.0)
    return TransistorNeed(
        old=old,
        type=kind,
        volts=abs(old.volts),
        current=old.current,
        watts=old.watts or 0.0,
        gain=float(gain[1]) if gain else read,
    )


def judge_transistor(need: TransistorNeed, part: Transistor) -> Judged:
    """One transistor against a place."""
    said = []
    if part.type != need.type:
        said.append(reason("type", f"{part.type}, the old one is {need.type}", FAILS))
    for rule, has, wants, unit in (
        ("volts", part.volts, need.volts, "V"),
        ("current", part.current, need.current, "A"),
        ("watts", part.watts, need.watts, "W"),
    ):
        if wants:
            text = f"{show(has, unit)}, needed {show(wants, unit)}"
            said.append(reason(rule, text, FAILS if has < wants * 0.999 else FITS, has, wants, unit))
    if need.gain and part.gain < GAIN * need.gain:
        said.append(
            reason(
                "gain", f"Gain at least {part.gain:g}, the old one {need.gain:g}", LOOK_TWICE, part.gain, need.gain, ""
            )
        )
    said.append(reason("pins", "Pins differ between types that look alike: compare them before it goes in", LOOK_TWICE))
    over = part.volts / need.volts + part.current / need.current - 2
    return judged_by(part, said, 0.1 * over)


def rank_by_limits(need: object, parts: Iterable[LimitPart], fits: int = 6, refused: int = 3) -> list[Judged]:
    """Those that go in, best first; then the nearest refused.

    Args:
        need: a ResistorNeed, ZenerNeed, OptocouplerNeed or TransistorNeed.
        parts: of the kind that the need is of.
        fits: how many of those that go in.
        refused: how many of those that do not.

    Returns:
        The parts, judged.
    """
    judge = JUDGES[type(need)]
    return ranked([judge(need, part) for part in parts], fits, refused)


#: What a place asks, by kind: from the part's own line, without its board.
NEEDS = {
    "resistor": resistor_need, "zener": zener_need, "optocoupler": lambda old: optocoupler_need(old, mains=True),
    "transistor": transistor_need,
}  # fmt: skip
#: How a part is judged, by what its place asks.
JUDGES = {
    ResistorNeed: judge_resistor, ZenerNeed: judge_zener, OptocouplerNeed: judge_optocoupler, TransistorNeed: judge_transistor,
}  # fmt: skip

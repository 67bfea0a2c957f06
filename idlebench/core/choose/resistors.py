"""Resistors against the place they go into: ohms, watts, volts, and whether the old one is the fuse of its branch.

Source: IEC 60115-1:2020, clause 4, for the ratings of resistors; what a body of a size may turn into heat: workshop practice, because
makers differ by half.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

from ..board.devices import Device
from ..refusal import BadInput
from ..text.quantity import show
from .rank import Reason
from .regulators_and_fuses import Judged, reason
from .rules import FAILS, FITS
from .stand_in import LOOK_TWICE

#: What a resistor is made of.
FILM, WIREWOUND, FUSIBLE = "film", "wirewound", "fusible"
RESISTOR_KINDS = (FILM, WIREWOUND, FUSIBLE)
#: Length of a lying resistor's body up to which it is made for so many watts: mm, W.
BODY_WATTS = ((4.5, 0.125), (7.0, 0.25), (10.0, 0.5), (12.5, 1.0), (17.0, 2.0), (26.0, 5.0))
#: Ohms and volts nearer than this are the same value; how far a neighbour value may stand off where the tolerance allows it.
SAME, NEAR = 0.005, 1.0


@dataclass(frozen=True, kw_only=True)
class Resistor:
    """A resistor. kind: of RESISTOR_KINDS. ohms: Ω. tolerance: share. watts: W at 70 °C. volts: V at most, 0 where none is given."""

    part: str
    series: str
    kind: str
    ohms: float
    tolerance: float
    watts: float
    volts: float = 0.0
    price: float = 0.0
    stock: int = 0

    @property
    def marked(self) -> str:
        return f"{show(self.ohms, 'Ω')} ± {self.tolerance * 100:g} %, {show(self.watts, 'W')}, {self.kind}"


@dataclass(frozen=True, kw_only=True)
class ResistorNeed:
    """What a resistor's place asks. watts: W, guessed from its size where by_size. volts: V it sees, 0 where nobody said."""

    old: Device
    ohms: float
    tolerance: float
    watts: float
    by_size: bool
    fusible: bool
    wirewound: bool
    volts: float


def watts_of(old: Device) -> tuple[float, bool]:
    """W that a part is made for: as marked, else by the length of its body.

    Args:
        old: what stands there.

    Returns:
        W, and whether it is a guess by its size.

    Raises:
        BadInput: neither is known.
    """
    if old.watts:
        return old.watts, False
    if old.across and old.length:
        long = max(old.across, old.length)
        return next((watts for length, watts in BODY_WATTS if long <= length), BODY_WATTS[-1][1]), True
    raise BadInput(
        old.ref,
        "its watts, or its size",
        f"Type what is marked, {old.ref} 1W, or the size of its body, {old.ref} 3.3x9.",
        field="watts",
    )


def resistor_need(old: Device) -> ResistorNeed:
    """What the place of a resistor asks, from its line.

    Args:
        old: what stands there.

    Returns:
        Ohms, tolerance, watts, kind and volts.

    Raises:
        BadInput: its ohms or watts are not known.
    """
    if not old.ohms:
        raise BadInput(old.ref, "its ohms", f"Type them by its colours or print: {old.ref} 2k2.", field="ohms")
    words = old.note.lower()
    watts, by_size = watts_of(old)
    return ResistorNeed(
        old=old,
        ohms=old.ohms,
        tolerance=old.tolerance or 0.05,
        watts=watts,
        by_size=by_size,
        fusible="fusible" in words.split(),
        wirewound=bool(re.search(r"\bwire ?wound\b", words)),
        volts=abs(old.volts or 0.0),
    )


def judge_resistor(need: ResistorNeed, part: Resistor) -> Judged:
    """One resistor against a place."""
    off = abs(part.ohms / need.ohms - 1)
    near = off <= NEAR * need.tolerance
    said = [
        reason(
            "ohms",
            f"{show(part.ohms, 'Ω')}, marked {show(need.ohms, 'Ω')}"
            + ("" if off <= SAME else f", {off * 100:.1f} % off"),
            FITS if off <= SAME else LOOK_TWICE if near else FAILS,
            part.ohms,
            need.ohms,
            "Ω",
        )
    ]
    guessed = ", by its size" if need.by_size else ""
    text = f"{show(part.watts, 'W')}, needed {show(need.watts, 'W')}{guessed}"
    if part.watts < need.watts * 0.999:
        said.append(reason("watts", text, FAILS, part.watts, need.watts, "W"))
    elif need.fusible and part.watts > need.watts * 1.01:
        said.append(reason("watts", f"{text}: a larger one opens too late", FAILS, part.watts, need.watts, "W"))
    else:
        said.append(reason("watts", text, LOOK_TWICE if need.by_size else FITS, part.watts, need.watts, "W"))
    if need.fusible and part.kind != FUSIBLE:
        said.append(
            reason("kind", "A fusible resistor stands here: it is the fuse of its branch. No other kind", FAILS)
        )
    elif part.kind == FUSIBLE and not need.fusible:
        said.append(reason("kind", "Fusible, and the old one is not known to be: it may open at switch-on", LOOK_TWICE))
    elif need.wirewound and part.kind != WIREWOUND:
        said.append(reason("kind", "The old one is wirewound: it takes pulses that a film does not", LOOK_TWICE))
    elif part.kind == WIREWOUND and not need.wirewound:
        said.append(
            reason("kind", "Wirewound has inductance: not beside what switches or carries a picture", LOOK_TWICE)
        )
    if part.tolerance > need.tolerance * 1.001:
        text = f"± {part.tolerance * 100:g} %, the old one ± {need.tolerance * 100:g} %"
        said.append(reason("tolerance", text, LOOK_TWICE))
    if need.volts:
        text = f"Rated {show(part.volts, 'V') if part.volts else 'for no volts given'}, sees {show(need.volts, 'V')}"
        said.append(reason("volts", text, FAILS if part.volts < need.volts else FITS, part.volts, need.volts, "V"))
    return judged_by(part, said, off + 0.05 * abs(part.watts / need.watts - 1))


def judged_by(part: Any, said: list[Reason], score: float) -> Judged:
    """A part with its reasons, the weightiest first, and its score with price and stock."""
    said.sort(key=lambda r: -r.status)
    return Judged(part, max(r.status for r in said), tuple(said), score + 0.1 * part.price + 0.25 * (part.stock <= 0))

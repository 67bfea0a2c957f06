"""A part out of a donor, for the shelf: what may come out of one, what it is reckoned as, and when it may be taken.

Source: workshop practice, because nobody knows what a used part has been through. No safety class and no tube tuning part is ever used
twice; a fuse never (a fuse is no capacitor, and has no way here).
"""

from __future__ import annotations

from collections.abc import Iterable

from ..board.parts import Capacitor, Fitted
from ..board.roles import is_mains_place, role
from ..judge.ageing import new_esr
from ..refusal import Block
from ..text.quantity import show
from ..wording import many

#: A reading out of circuit is good for so many days; a used part's life is counted from this share of a new one's, h of which are NEW_LIFE.
GOOD_FOR, SHARE, NEW_LIFE = 30.0, 0.5, 2000.0
#: Looks with which nothing is used again.
SPENT = ("bulging", "leaking", "crusty", "burst", "missing", "cracked", "corroded")
#: Least measured ÷ marked value, and most measured ESR ÷ that of a new part, of a wet part that is used again.
LEAST_VALUE, MOST_ESR = 0.8, 1.5


def may_come_out(part: Fitted, value: float, esr: float | None) -> tuple[Block, ...]:
    """Why a part of a donor is not used again.

    Args:
        part: the part in its place.
        value: the value, in SI.
        esr: Ω; None where it was not read.

    Returns:
        Each reason against it, none where it may.
    """
    reasons = []
    if is_mains_place(part.role, part.safety) or part.safety:
        reasons.append(Block("safety", f"{part.ref} is a mains part: none is ever used twice."))
    if not role(part.role).relaxable:
        reasons.append(Block("safety", f"{part.ref} tunes what no used part may."))
    if part.looks in SPENT:
        reasons.append(Block("looks", f"{part.ref} is {part.looks}."))
    if not part.volts:
        reasons.append(Block("volts", f"The volts of {part.ref} are not known.", "Read them off it first."))
    if value < LEAST_VALUE * part.value:
        reasons.append(
            Block("value", f"{show(value, 'F')} of {show(part.value, 'F')} marked: under {LEAST_VALUE:.0%}.")
        )
    if part.kind == "wet" and part.volts:
        limit = MOST_ESR * new_esr(part.value, part.volts)
        if esr is None:
            reasons.append(Block("esr", "An electrolytic needs its ESR, too.", "Read it out of circuit."))
        elif esr > limit:
            reasons.append(Block("esr", f"ESR {show(esr, 'Ω')}, a used part may have {show(limit, 'Ω')} at most."))
    return tuple(reasons)


def used(part: Fitted, name: str, value: float, esr: float | None, where: str) -> Capacitor:
    """A part of a donor as the shelf lists it: its measured value, its marked volts, half of a new one's life."""
    wet = part.kind in ("wet", "polymer")
    return Capacitor(
        part=name,
        series="used",
        kind=part.kind,
        value=value,
        volts=part.volts or 0.0,
        mounting=part.mounting,
        diameter=part.diameter or 0.0,
        height=part.height or 0.0,
        pitch=part.pitch or 0.0,
        temperature=part.temperature or 85.0,
        life=NEW_LIFE * SHARE if wet else 0.0,
        esr=esr or 0.0,
        bipolar=part.bipolar,
        stock=1,
        note=f"used, out of {where}",
    )


def may_be_taken(days: float | None) -> tuple[Block, ...]:
    """Why a used part is not taken now.

    Args:
        days: since it was last read out of circuit; None for a part that is not used.

    Returns:
        Each reason against it, none where it may.
    """
    if days is None or days <= GOOD_FOR:
        return ()
    return (
        Block(
            "used",
            f"It is used, and was read out of circuit {many(round(days), 'day')} ago.",
            f"Read it again on its page of the Shelf: a reading is good for {GOOD_FOR:.0f} days.",
        ),
    )


def by_hand_only(names: Iterable[str], used_parts: Iterable[str]) -> list[str]:
    """Of some parts those that may be taken without a person deciding it: no used one."""
    spent = set(used_parts)
    return [name for name in names if name not in spent]

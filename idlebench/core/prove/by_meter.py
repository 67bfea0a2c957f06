"""Readings by an instrument: what it is asked for a check, and where the simulated bench puts its probe."""

from __future__ import annotations

import math
import re
from collections.abc import Collection

from ..simulate.state import State
from .checks import Check
from .expect import rails_are_read, state_at
from .facts import DUMMY, MAINS_READ

#: What an instrument is asked for each kind of check; ripple is what a meter shows of AC beside the DC.
KINDS = {
    "dc_volts": "dc_volts",
    "ac_volts": "ac_volts",
    "ripple": "ac_volts",
    "resistance": "resistance",
    "continuity": "resistance",
    "temperature": "temperature",
    "amps": "amps",
}


def kind_of(check: Check) -> str:
    """What an instrument is asked for a check, "" where none can answer: the lowest of a rail is a scope's, looks are a person's."""
    return "" if check.aspect == "lowest" or check.fact == MAINS_READ else KINDS.get(check.kind, "")


def simulates(check: Check) -> bool:
    """Whether the simulated bench has what a check under power is read at: an adapter alone, a winding, a bench supply it has not."""
    return not check.live or rails_are_read(check.step)


def as_typed(check: Check, value: float) -> str:
    """A reading of an instrument as a person would type it."""
    if math.isinf(value):
        return "OL"
    return f"{value:.6g} rms" if check.kind == "ripple" else f"{value:.6g}"


def point_of(check: Check, made: Collection[str], refs: Collection[str]) -> str:
    """Where the simulated bench puts its probe for a check, "" where it has no such point.

    Args:
        check: the check that is made.
        made: names of the rails that the supply's lines make.
        refs: of its parts.

    Returns:
        A point as the simulated bench names it; "" where it has none.
    """
    if check.rail:
        return check.rail.replace(" ", "").replace("−", "-") if check.rail in made else ""
    named = [word for word in re.findall(r"\b[A-Z]{1,3}\d{1,4}\b", check.point) if word in refs]
    if named:
        return named[0]
    return "L-N" if "line to neutral" in check.point.lower() else ""


def setting(check: Check, live: str, way: str, mains: float, frequency: float, lamp: float) -> State:
    """The simulated bench as the unit is: off, or as the step that has power sets it."""
    found = state_at(live, way, mains, frequency, lamp) if live and check.live else None
    return found or State(frequency=frequency, load="dummy" if check.fact == DUMMY else "none")

"""A whole supply replaced by a modern unit behind the old harness: its rails against the old ones, and the harness wire by wire.

Source: worked here; the machine asks what the old supply was rated for, local codes and trained people come first.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from ..refusal import BadInput, no_longer_than
from ..text.quantity import show
from ..text.rails_and_chips import Rail, rail_name, rail_volts

GROUND, EARTH = "ground", "earth"
EXAMPLE = "J1 1 +5V"


@dataclass(frozen=True)
class Wire:
    """A wire of the harness: the plug's pin as ``J1 1``, and what it is joined to: a rail's name, GROUND or EARTH."""

    pin: str
    to: str

    def as_line(self) -> str:
        return f"{self.pin} {self.to.replace(' ', '').replace('−', '-')}"


def read_wire(text: str) -> Wire:
    """Read a wire of the harness.

    Raises:
        BadInput: no plug's pin, or what it goes to is neither a rail nor ground nor earth.

    >>> read_wire('J1 3 ground').to, read_wire('j1.1 +5V').as_line()
    ('ground', 'J1 1 +5V')
    """
    no_longer_than(text, 80, "wire")
    hit = re.fullmatch(r"\s*([A-Za-z]{1,4}\d{1,4})[ .\-/]\s*(?:pin )?([A-Za-z]?\d{1,3})\s+(?:to )?(.+?)\s*", text)
    if hit is None:
        raise BadInput(text, f"a plug's pin and what it goes to, such as {EXAMPLE} or J1 3 ground", "", "wiring")
    to = hit[3].lower()
    if to in ("gnd", "0v", "0 v", GROUND):
        to = GROUND
    elif to in ("pe", EARTH):
        to = EARTH
    else:
        volts = rail_volts(hit[3]) if re.fullmatch(r"[+\-−]?\d+(?:[.,]\d+)? ?[Vv]", hit[3]) else None
        if volts is None:
            raise BadInput(hit[3], "a rail such as +5V, ground, or earth", f"Such as {EXAMPLE}.", "wiring")
        to = rail_name(volts)
    return Wire(f"{hit[1].upper()} {hit[2].upper()}", to)


def check_wiring(wires: Sequence[Wire], rails: Sequence[Rail]) -> None:
    """Refuse a harness that cannot be.

    Raises:
        BadInput: a pin twice, a wire to a rail that is not made, a rail that goes nowhere, or no ground.
    """
    pins = [wire.pin for wire in wires]
    if twice := next((pin for pin in pins if pins.count(pin) > 1), ""):
        raise BadInput(twice, "each pin once", "Two wires to one pin would join what they come from.", "wiring")
    made = {rail.name for rail in rails}
    for wire in wires:
        if wire.to not in made and wire.to not in (GROUND, EARTH):
            raise BadInput(wire.as_line(), f"a rail that the new unit makes: {', '.join(made)}", "", "wiring")
    if lost := sorted(made - {wire.to for wire in wires}):
        raise BadInput(lost[0], "a wire for each rail", "Leave a rail out that the machine does not use.", "wiring")
    if GROUND not in {wire.to for wire in wires}:
        raise BadInput("no ground", "at least one wire to ground", "Such as J1 3 ground.", "wiring")


def held_against(old: Sequence[Rail], new: Sequence[Rail]) -> tuple[str, ...]:
    """What is looked at twice when a new unit takes an old one's place.

    Raises:
        BadInput: a rail is missing, or gives less than the old one was rated for.
    """
    said = []
    by_name = {rail.name: rail for rail in new}
    for rail in old:
        one = by_name.get(rail.name)
        if one is None:
            raise BadInput(
                ", ".join(by_name) or "no rails",
                f"{rail.name}, which the old supply makes",
                "A small converter can make it.",
                "rails",
            )
        if rail.current and one.current < rail.current:
            raise BadInput(
                f"{one.name} {show(one.current, 'A')}",
                f"at least {show(rail.current, 'A')}",
                "The old supply was rated for that.",
                "rails",
            )
        if one.minimum and one.minimum > max(rail.minimum, 0.2 * rail.current):
            said.append(
                f"{one.name} wants at least {show(one.minimum, 'A')}: where the machine draws less, a load resistor is fitted for good"
            )
        if one.tolerance > rail.tolerance:
            said.append(f"{one.name} strays by {one.tolerance:.0%}, the machine had {rail.tolerance:.0%}")
    for name in by_name.keys() - {rail.name for rail in old}:
        said.append(f"{name} is new: nothing of the machine had it")
    return tuple(said)

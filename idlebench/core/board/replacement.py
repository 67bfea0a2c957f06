"""A whole board replaced, by a modern unit behind the old harness or by a donor's: rails, fuse, and the harness wire by wire.

Source: workshop practice, because the machine's own label is all that is left of the old supply; the machine asks what the old supply
was rated for, local codes and trained people come first.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import dataclass

from ..refusal import BadInput, SeveralRefused, no_longer_than
from ..text.quantity import show
from ..text.rails_and_chips import Rail, rail_called

GROUND, EARTH, UNUSED = "ground", "earth", "unused"
#: Wires that carry no power.
CONTROLS = ("power-on", "power-good", "sense", "-sense", UNUSED)
EXAMPLE = "J1 1 +5V"


@dataclass(frozen=True)
class Wire:
    """A wire of the harness: the plug's pin as ``J1 1``, and what it is joined to: a rail's name, GROUND, EARTH or one of CONTROLS."""

    pin: str
    to: str

    def as_line(self) -> str:
        return f"{self.pin} {self.to.replace(' ', '').replace('−', '-')}"


def read_wire(text: str) -> Wire:
    """Read a wire of the harness.

    Args:
        text: as it was typed.

    Returns:
        Plug, pin, and the rail or ground it goes to.

    Raises:
        BadInput: no plug's pin, or what it goes to is neither a rail nor ground nor earth.

    >>> read_wire('J1 3 ground').to, read_wire('j1.1 +5V').as_line()
    ('ground', 'J1 1 +5V')
    """
    no_longer_than(text, 80, "wire")
    hit = re.fullmatch(r"\s*([A-Za-z]{1,4}\d{1,4})[ .\-/]\s*(?:pin )?([A-Za-z]?\d{1,3})\s+(?:to )?(.+?)\s*", text)
    if hit is None:
        raise BadInput(text, f"a plug's pin and what it goes to, such as {EXAMPLE} or J1 3 ground", field="wiring")
    to = hit[3].lower()
    if to in ("gnd", "0v", "0 v", GROUND):
        to = GROUND
    elif to in ("pe", EARTH):
        to = EARTH
    elif to.replace(" ", "-") in CONTROLS:
        to = to.replace(" ", "-")
    else:
        named = re.fullmatch(r"[+\-−]?\d+(?:[.,]\d+)? ?[Vv](?::[A-Za-z][A-Za-z0-9_-]{0,19})?", hit[3])
        if not named:
            expected = f"a rail such as +5V or +5V:standby, ground, earth, {', '.join(CONTROLS[:-1])} or {CONTROLS[-1]}"
            raise BadInput(hit[3], expected, f"Such as {EXAMPLE}.", field="wiring")
        to = rail_called(hit[3])
    return Wire(f"{hit[1].upper()} {hit[2].upper()}", to)


def check_wiring(wires: Sequence[Wire], rails: Sequence[Rail]) -> None:
    """Refuse a harness that cannot be.

    Args:
        wires: the wires of the harness.
        rails: the rails.

    Raises:
        BadInput: a pin twice, a wire to a rail that is not made, a rail that goes nowhere, or no ground.
    """
    pins = [wire.pin for wire in wires]
    if twice := next((pin for pin in pins if pins.count(pin) > 1), ""):
        raise BadInput(
            twice, "each pin once", "Two wires on one pin would join the rails they come from.", field="wiring"
        )
    made = {rail.name for rail in rails}
    for wire in wires:
        if wire.to not in made and wire.to not in (GROUND, EARTH, *CONTROLS):
            raise BadInput(wire.as_line(), f"a rail that the new unit makes: {', '.join(made)}", field="wiring")
    if lost := sorted(made - {wire.to for wire in wires}):
        raise BadInput(
            lost[0], "a wire for each rail", "Leave out a rail that the machine does not use.", field="wiring"
        )
    if GROUND not in {wire.to for wire in wires}:
        raise BadInput("no ground", "at least one wire to ground", "Such as J1 3 ground.", field="wiring")


def held_against(old: Sequence[Rail], new: Sequence[Rail]) -> tuple[str, ...]:
    """What is looked at twice when a new unit takes an old one's place.

    Args:
        old: what stands there.
        new: what goes in.

    Returns:
        A sentence for each, none where all agrees.

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
                "A small converter can make that rail.",
                field="rails",
            )
        if rail.current and one.current < rail.current:
            raise BadInput(
                f"{one.name} {show(one.current, 'A')}",
                f"at least {show(rail.current, 'A')}",
                "The old supply had that rating.",
                field="rails",
            )
        if one.minimum and one.minimum > max(rail.minimum, 0.2 * rail.current):
            said.append(
                f"{one.name} needs at least {show(one.minimum, 'A')}: where the machine draws less, fit a load "
                "resistor for good"
            )
        if one.tolerance > rail.tolerance:
            said.append(f"{one.name} varies by {one.tolerance:.0%}, the machine had {rail.tolerance:.0%}")
    for name in by_name.keys() - {rail.name for rail in old}:
        said.append(f"{name} is new: the machine had no such rail")
    return tuple(said)


@dataclass(frozen=True)
class Whole:
    """A board as a whole, where one takes the place of another: its name, its kind of supply, "" where it is fed; its fuse as it
    is marked, and the rails it makes.
    """

    name: str
    supply: str = ""
    fuse: str = ""
    rails: tuple[Rail, ...] = ()


def check_donor(old: Whole, new: Whole, wires: Sequence[Wire], fed: Sequence[Rail]) -> tuple[str, ...]:
    """What is looked at twice when a donor's board takes another's place.

    A board of the same name takes the old plugs as they were. Any other is wired pin by pin, as a modern unit is.

    Args:
        old: what stands there.
        new: what goes in.
        wires: the harness, where it was typed.
        fed: the rails of the machine's supplies, for a board that makes none.

    Returns:
        A sentence for each, none where all agrees.

    Raises:
        BadInput: a supply for a fed board or the other way round, a rail missing or too weak, no fuse or another one on a board
            of the same name, or a harness that cannot be.
    """
    if bool(old.supply) != bool(new.supply):
        wanted = "a supply board" if old.supply else "a board that is fed"
        raise BadInput(new.name, wanted, f"{old.name} is one.", field="donor")
    same = new.name.casefold() == old.name.casefold()
    said: list[str] = []
    wrong: list[BadInput] = []

    def ask(check: Callable[[], Iterable[str] | None]) -> None:
        try:
            said.extend(check() or ())
        except BadInput as error:
            wrong.append(error)

    if old.supply:
        ask(lambda: _fuses_of(old, new, same))
        ask(lambda: held_against(old.rails, new.rails))
    if wires:
        ask(lambda: check_wiring(wires, new.rails if new.supply else fed))
    elif not same:
        lacks, mend = f"{new.name} for {old.name}, no harness", f"Such as {EXAMPLE} and J1 3 ground."
        wrong.append(BadInput(lacks, "its harness, a wire a line", mend, field="wiring"))
    if wrong:
        # all that it lacks at once
        raise SeveralRefused(wrong) if len(wrong) > 1 else wrong[0]
    if not same:
        said.append(f"{new.name} is not a {old.name}: compare plugs, holes and room before it goes in")
    return tuple(said)


def _fuses_of(old: Whole, new: Whole, same: bool) -> list[str]:
    """What is said of the two fuses. BadInput: none, or another one where the board is the same."""
    if not new.fuse.strip():
        raise BadInput(
            f"{new.name}, no fuse marked", "the fuse's marking", "Write it down at the donor, as printed next to the holder.", field="donor"
        )  # fmt: skip
    if not old.fuse.strip() or _plain(old.fuse) == _plain(new.fuse):
        return []
    if same:
        raise BadInput(
            f"{new.fuse} in the donor's {new.name}", f"{old.fuse}, as on the board it stands for",
            "One of the two was changed. Fit the fuse that is printed next to the holder, and write it down "
            "at the donor's Intake.", field="donor",
        )  # fmt: skip
    return [f"its fuse is {new.fuse}, the old board had {old.fuse}: the one printed next to its own holder counts"]


def _plain(fuse: str) -> str:
    """A fuse's marking without spaces and volts, to hold against another."""
    return re.sub(r"(?<=a)\d+v(?:ac)?$", "", re.sub(r"[\s/~]", "", fuse.casefold()).replace(",", "."))


def free_name(name: str, unit: str, taken: Collection[str], longest: int = 60) -> str:
    """A name for a board that comes from another unit, where its own is taken there: the old board keeps its name.

    >>> free_name('PS-1', 'B', {'PS-1'}), free_name('PS-1', 'B', ()), free_name('PS-1', 'B', {'PS-1', 'PS-1 of B'})
    ('PS-1 of B', 'PS-1', 'PS-1 of B 2')
    """
    if name not in taken:
        return name
    count = 1
    while True:
        tail = f" of {unit}"[:30] + (f" {count}" if count > 1 else "")
        tried = name[: longest - len(tail)] + tail
        if tried not in taken:
            return tried
        count += 1

"""Wires of a supply that carry no power: power-on, power-good, sense wires, and those that lead nowhere.

Source: logic levels of 0.8 V and 2.0 V at 5 V: JEDEC JESD8C.01, and 0.4 V more for a wire's noise; the resistor that starts it: workshop
practice, because through a kΩ the wrong pin harms nothing.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ..text.rails_and_chips import Pin, Rail
from .checks import BoardFacts, Check, PowerStep, key_of
from .cold_rails import CONTINUITY
from .facts import JOINED, NO_SHORT, PLUG, STEP
from .power_methods import Of
from .rail_checks import rail_checks

#: V of a power-good wire that says yes.
GOOD_LOW, GOOD_HIGH = 2.4, 5.5
#: The name of a rail that is there before the supply is switched on.
STANDBY = "standby"


def wires(board: BoardFacts, is_: str) -> tuple[tuple[str, Pin], ...]:
    """The pins of a board that are a kind of control wire, each with the reference it belongs to."""
    return tuple((chip.ref, pin) for chip in board.chips for pin in chip.pins if pin.is_ == is_)


def cold_control(board: BoardFacts) -> list[Check]:
    """What is read of control wires before power: sense wires joined to what they watch, unused ones insulated.

    Args:
        board: a supply's board.

    Returns:
        The checks; none where no such wire is listed.
    """
    own = {"rows": frozenset({board.id}), "boards": frozenset({board.id}), "board": board.name, "step": "cold"}
    checks = [
        Check(
            key=key_of("cold.sense", board.id, ref, pin.number),
            kind="continuity",
            point=f"{ref} pin {pin.number}, sense wire, to {'ground' if pin.is_ == 'sense_return' else 'its rail'}",
            ask="Plug off the boards, at the plug: the sense wire is joined to what it watches.",
            high=CONTINUITY,
            safety=True,
            why="With its sense wire open a supply raises its rail until something stops it.",
            fact=JOINED,
            of=(("sense", f"{ref} {pin.number}"),),
            **own,
        )
        for is_ in ("sense", "sense_return")
        for ref, pin in wires(board, is_)
    ]
    if unused := wires(board, "unused"):
        names = ", ".join(f"{ref} {pin.number}" for ref, pin in unused)
        checks.append(
            Check(
                key=key_of("cold.unused", board.id),
                kind="look",
                point=f"unused wires {names}",
                ask="Each has its end insulated and tied back.",
                safety=True,
                why="A bare end shorts what it touches.",
                fact=NO_SHORT,
                of=(("unused", names),),
                **own,
            )
        )
    return checks


def with_control(supply: BoardFacts, steps: Sequence[PowerStep], rails: Sequence[Rail], under: Of) -> list[PowerStep]:
    """The steps of a supply that starts by a wire: its standby rail alone first, then the wire joined, then power-good read.

    Args:
        supply: the board.
        steps: its steps under power, in order.
        rails: what it makes.
        under: what its checks are of.

    Returns:
        The steps; the same where it has no such wires.
    """
    found = list(steps)
    if starts := wires(supply, "power_on"):
        found[:1] = [_standby(supply, found[0], rails, starts[0], under), _joined(supply, found[0], starts[0])]
    if good := wires(supply, "power_good"):
        found = [
            replace(step, checks=(*step.checks[:-1], *_good(supply, good, under), step.checks[-1]))
            if step.key == "full"
            else step
            for step in found
        ]
    return found


def _standby(
    supply: BoardFacts, first: PowerStep, rails: Sequence[Rail], wire: tuple[str, Pin], under: Of
) -> PowerStep:
    """The supply in as for its first step, its power-on wire open: only the standby rail is there."""
    standby = [rail for rail in rails if rail.name.partition(":")[2] == STANDBY]
    others = [rail.name for rail in rails if rail not in standby]
    ref, pin = wire
    look = Check(
        key="up.standby.look",
        step="standby",
        kind="look",
        point="other rails",
        ask=f"{', '.join(others) or 'All rails'} near 0 V while {ref} pin {pin.number} (power-on) is open; nothing warm, no noise.",
        live=True,
        safety=True,
        board=supply.name,
        why="A supply that runs by itself has its power-on wire joined, or its start circuit is at fault.",
        fact=STEP,
        of=(*under, ("power-on", f"{ref} {pin.number}")),
    )
    return PowerStep(
        key="standby",
        title=f"Standby alone, {first.title[:1].lower()}{first.title[1:]}",
        detail=f"power-on wire {ref} {pin.number} open",
        checks=(*rail_checks("standby", standby, supply.name, ("volts",), under), look),
        live=True,
        caution=first.caution,
    )


def _joined(supply: BoardFacts, step: PowerStep, wire: tuple[str, Pin]) -> PowerStep:
    ref, pin = wire
    check = Check(
        key=key_of("up.power-on", supply.id),
        step=step.key,
        kind="look",
        point=f"power-on wire {ref} pin {pin.number}",
        ask="Idle: joined to ground by 1 kΩ, or by what the machine's plate says, so that the supply starts with the mains.",
        safety=True,
        board=supply.name,
        fact=PLUG,
        of=(("power-on", f"{ref} {pin.number}"),),
    )
    return replace(step, checks=(check, *step.checks), rewire=True)


def _good(supply: BoardFacts, good: Sequence[tuple[str, Pin]], under: Of) -> list[Check]:
    return [
        Check(
            key=key_of("up.power-good", supply.id, ref, pin.number),
            step="full",
            kind="dc_volts",
            point=f"{ref} pin {pin.number}, power-good",
            ask="Up within a second of the rails, and stays.",
            low=GOOD_LOW,
            high=GOOD_HIGH,
            live=True,
            board=supply.name,
            why="Low with all rails inside: the supply's own supervisor sees a rail that a meter does not, or is at fault itself.",
            fact=STEP,
            of=(*under, ("power-good", f"{ref} {pin.number}")),
        )
        for ref, pin in good
    ]

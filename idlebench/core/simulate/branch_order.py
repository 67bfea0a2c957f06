"""The lines of a supply in the order in which they feed each other, each rail made once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ..circuit.supply_lines import Branch
from ..refusal import BadInput


def each_rail_once(branches: Sequence[Branch]) -> None:
    """Refuse supplies whose rails cannot be told apart by their volts.

    Args:
        branches: the lines of the supply, one for each source or winding.

    Raises:
        BadInput: naming the rail.
    """
    made = [(b.regulator.rail, b.regulator.volts) for b in branches if b.regulator]
    made += [(rail.name, rail.volts) for b in branches if b.converter for rail in b.converter.rails]
    names = [name for name, _ in made]
    for name, volts in made:
        if not volts or names.count(name) > 1:
            raise BadInput(
                name, "each rail once, above or below 0 V",
                "The simulated bench tells rails apart by their volts: leave out one of the two.", field="supply",
            )  # fmt: skip


def fed_in_turn(branches: Sequence[Branch]) -> tuple[Branch, ...]:
    """Branches in an order in which each rail is made before the branch that it feeds.

    Args:
        branches: as typed.

    Returns:
        The same; a source's own amps count only where no other branch stands in front of the whole supply.

    Raises:
        BadInput: rails that feed each other in a ring.
    """
    makes = {
        id(b): {r.name for r in b.converter.rails} if b.converter else {b.regulator.rail} if b.regulator else set()
        for b in branches
    }
    inside = set().union(*makes.values()) if makes else set()
    waiting, found, made = list(branches), [], set()
    while waiting:
        ready = [b for b in waiting if not b.direct or b.direct.rail not in inside - made]
        if not ready:
            rails = " and ".join(b.direct.rail for b in waiting if b.direct)
            raise BadInput(rails, "rails that do not feed each other in a ring", field="supply")
        waiting = [b for b in waiting if b not in ready]
        found += ready
        made |= set().union(*(makes[id(b)] for b in ready))
    alone = all(b.outside for b in branches)
    return tuple(
        replace(b, outside=replace(b.direct, counts=alone and b.direct.rail not in inside)) if b.direct else b
        for b in found
    )

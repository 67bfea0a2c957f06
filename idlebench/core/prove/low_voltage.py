"""Whether all of a machine stays under 60 V DC, so that a short way up is enough for it.

Source: IEC 62368-1:2018, 5.2.1, for 60 V DC as what an ordinary person may touch; what makes more of little: workshop practice, because
backlights, displays, flashes and step-up converters do it without a word on the outside.
"""

from __future__ import annotations

import re
from collections.abc import Sequence

from ..board.roles import is_mains_place
from ..text.quantity import show
from ..text.rails_and_chips import Rail
from .adapters import amps, unloaded
from .checks import BoardFacts, PowerStep

#: The most DC volts that the short way is for, and the marked volts of an electrolytic from which more is suspected, V.
MOST, SUSPECT = 60.0, 100.0
#: The step at which a smoke test has power: the bench supply with its limit.
SMOKE_STEP = "bench"
#: Roles of a picture tube's stages.
TUBE_ROLES = ("retrace_tuning", "deflection_coupling", "tube_supply", "boost", "field_store")
#: What makes high volts of low ones, by the words that people have for it.
_RAISES = re.compile(
    r"\b(inverter|back-?light|flash|strobe|step-?up|boost|el panel|electroluminescent|plasma|vacuum fluorescent|vfd|neon|crt|tube|ccfl)\b",
    re.I,
)


def why_not_low(boards: Sequence[BoardFacts]) -> tuple[str, ...]:
    """Why the short way is not for a machine, in words; () where it is.

    Args:
        boards: all of the unit.

    Returns:
        Each reason once.
    """
    why: list[str] = []
    for board in boards:
        why += _source(board)
        if board.monitor is not None:
            why.append(f"{board.name} drives a picture tube")
        why += [
            f"{rail.name} on {board.name} is over {show(MOST, 'V')}" for rail in board.rails if abs(rail.nominal) > MOST
        ]
        for part in board.parts:
            if is_mains_place(part.role, part.safety):
                why.append(f"{part.ref} on {board.name} is a mains part")
            elif part.role in TUBE_ROLES:
                why.append(f"{part.ref} on {board.name} belongs to a picture tube")
            elif abs(part.rail_volts or 0.0) > MOST or (part.kind == "wet" and (part.volts or 0.0) > SUSPECT):
                why.append(f"{part.ref} on {board.name} is made for {show(part.rail_volts or part.volts, 'V')}")
        for device in board.devices:
            if device.what not in ("adapter", "fuse") and (hit := _RAISES.search(f"{device.note} {device.title}")):
                why.append(f"{device.ref} on {board.name} may raise the volts: {hit[0].lower()}")
        for chip in board.chips:
            if hit := _RAISES.search(chip.label):
                why.append(f"{chip.ref} on {board.name} may raise the volts: {hit[0].lower()}")
    if not any(board.supply and board.adapter for board in boards):
        why.append("no adapter and no cells are listed as its source")
    return tuple(dict.fromkeys(why))


def smoke_step(steps: Sequence[PowerStep], way: str) -> PowerStep | None:
    """The step of the short way at which a smoke test has power; None where no DC source with a limit is in it."""
    return next((step for step in steps if step.key == SMOKE_STEP), None) if way == "low" else None


def _source(board: BoardFacts) -> list[str]:
    """What of a supply's source is too much, or is the mains."""
    if not board.supply or board.behind:
        return []
    if board.adapter is None:
        return [f"{board.name} is fed by the mains, as far as anybody listed"]
    most = unloaded(board.adapter)[2] * (2**0.5 if board.adapter.output == "ac" else 1.0)
    return [f"{board.adapter.ref} may give {show(most, 'V')} without load"] if most > MOST else []


def to_buy(supply: BoardFacts, rails: Sequence[Rail]) -> str:
    """Which adapter to buy where the machine's own is missing, from its label and what its rails draw; "" where it is there.

    Args:
        supply: the board that it feeds.
        rails: what the board makes.

    Returns:
        A sentence.
    """
    adapter = supply.adapter
    if adapter is None or adapter.looks != "missing":
        return ""
    drawn = sum(abs(rail.current) for rail in rails)
    need = max(amps(adapter) if adapter.current else 0.0, 1.2 * drawn)
    kind = {"ac": "AC", "regulated": "regulated DC"}.get(adapter.output, "DC, regulated or not")
    size = f", plug {adapter.across:g} × {adapter.length:g} mm" if adapter.across and adapter.length else ""
    centre = (
        f", centre {adapter.centre}"
        if adapter.centre
        else ", its polarity as the machine's plate says"
        if adapter.output != "ac"
        else ""
    )
    return f"Buy an adapter of {show(adapter.volts or 0.0, 'V')} {kind}, {show(need or 1.0, 'A', 2)} or more{size}{centre}."

"""Where the leads go for a check: the board with its place lit, the chip from above, the pins of a regulator."""

from __future__ import annotations

import re

from idlebench.core import prove
from idlebench.core.circuit.packages import PACKAGES
from idlebench.core.draw.chip_outline import outline
from idlebench.core.prove.leads import leads_of

from ..unit.parts import DeviceState
from ..unit.picture import board_picture
from ..unit.state import UnitState

_REF = re.compile(r"\b[A-Z]{1,4}\d{0,5}[A-Z]?\b")
_PIN = re.compile(r"\bpin (\S+) to ")


def where(state: UnitState, check: prove.Check) -> dict[str, object]:
    """What is drawn beside a check: nothing where it names no place that is known."""
    board = next((b for b in state.boards if b.row.name == check.board), None)
    found: dict[str, object] = {"leads": leads_of(check)}
    if board is None:
        return found
    refs = _REF.findall(check.point)
    part = next((one for ref in refs if (one := board.find(ref))), None)
    if part is not None and part.core.x is not None:
        return {**found, "where": board, **board_picture(board, part, part.core.side)}
    chip = next((c for ref in refs for c in board.chips if c.ref == ref), None)
    place = next((d for ref in refs for d in board.devices if d.ref == ref), None)
    device = place.standing if place is not None else None
    pin = _PIN.search(check.point)
    if chip is not None and pin:
        found["outline"] = outline(chip, pin[1])
    found |= _pins_of(place)
    placed = chip if chip is not None else device
    if placed is not None and placed.x is not None:
        found |= {"where": board, "here": placed.ref, **board_picture(board)}
    return found


def _pins_of(place: DeviceState | None) -> dict[str, object]:
    """The pins of the regulator that stands in a place, in order, what its tab is joined to, and its package."""
    if place is None or place.device.what != "regulator":
        return {}
    new = place.swap.facts if place.swap else {}
    pins = (*new["pins"], new.get("tab", "")) if new.get("pins") else place.device.pins
    package = str(new.get("package", "")) if new.get("pins") else place.device.package
    if not pins:
        return {}
    return {"regulator_pins": pins[:3], "regulator_tab": pins[3], "regulator_package": PACKAGES.get(package)}

"""What rails are loaded with, and the connector in between.

Source: workshop practice, because what a board draws below its volts depends on the board.
"""

from __future__ import annotations

import numpy as np

from ..circuit import dummy_load
from ..circuit.supply_lines import Branch
from .rectifier import Floats
from .state import State
from .stores import OPEN
from .supply import USUAL, Bench, RailPlace
from .truth import Values

#: A constant current falls below this share of a rail's volts.
FADES = 0.8
#: A load step draws so much more, as a share of the rail's amps.
STEP = 0.5


def drawn(bench: Bench, values: Values, state: State, rail: RailPlace) -> tuple[Floats, Floats]:
    """A rail's load: A it draws at its volts, and whether that is through a resistor (1) or steady (0)."""
    how = state.load_of(rail.name)
    by = values.get(rail.name, "load", 1.0)
    step = (1 + STEP) if state.steps(rail.name) else 1.0
    if how == "dummy" and rail.minimum:
        ohms = dummy_load.dummy_load(rail.volts, rail.minimum).values["resistance"]
        return step * by * abs(rail.volts) / ohms, np.ones(values.count)
    steady = {"none": 0.0, "dummy": 0.0}.get(how, rail.board if how == "board" and rail.board else rail.current)
    return steady * by * step, np.zeros(values.count)


def joint_ohms(bench: Bench, values: Values, state: State, branch: Branch) -> Floats:
    """Ω of the connector behind a branch: cracked, pressed, or open."""
    ref = branch.joint or USUAL["joint"]
    ohms = values.get(ref, "joint", 0.0)
    if ref in state.pressed:
        ohms = values.get(ref, "pressed", 0.0) if ref in values.refs() and values.has(ref, "pressed").any() else ohms
    return np.where(values.has(ref, "open"), OPEN, ohms)

"""What rails are loaded with, and the connector in between.

Source: workshop practice, because what a board draws below its volts depends on the board.
"""

from __future__ import annotations

import numpy as np

from ..circuit import dummy_load
from ..circuit.supply import IDLE_CURRENT
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
    more = _passed_on(bench, values, state, rail)
    if how == "dummy" and rail.lamp:
        return step * by * rail.minimum + more, np.ones(values.count)
    if how == "dummy" and rail.minimum:
        ohms = dummy_load.dummy_load(rail.volts, rail.minimum).values["resistance"]
        return step * by * abs(rail.volts) / ohms + more, np.ones(values.count)
    steady = {"none": 0.0, "dummy": 0.0}.get(how, rail.board if how == "board" and rail.board else rail.current)
    # the amps typed for a rail are all that it gives, what it passes on among them; a fault of the board is none of a dummy load
    heavy = values.get(rail.name, "heavy", 1.0)
    return np.maximum(steady * by * step * heavy, more), np.zeros(values.count)


def _passed_on(bench: Bench, values: Values, state: State, rail: RailPlace) -> Floats:
    """A that the lines draw which this rail feeds: a linear regulator what it gives, a converter its watts by the rail's volts."""
    amps = np.zeros(values.count)
    for branch in bench.fed_by(rail.name):
        made = [one for one in bench.rails.values() if bench.branches[one.branch] is branch]
        if branch.regulator:
            amps = (
                amps + sum((drawn(bench, values, state, one)[0] for one in made), np.zeros(values.count)) + IDLE_CURRENT
            )
        elif branch.converter:
            watts = sum((drawn(bench, values, state, one)[0] * abs(one.volts) for one in made), np.zeros(values.count))
            amps = amps + watts / branch.converter.efficiency / abs(rail.volts)
        elif state.load != "none":
            amps = amps + (branch.current or abs(rail.volts) / branch.resistance)
    return amps


def joint_ohms(bench: Bench, values: Values, state: State, branch: Branch) -> Floats:
    """Ω of the connector behind a branch: cracked, pressed, or open."""
    ref = branch.joint or USUAL["joint"]
    ohms = values.get(ref, "joint", 0.0)
    if ref in state.pressed:
        ohms = values.get(ref, "pressed", 0.0) if ref in values.refs() and values.has(ref, "pressed").any() else ohms
    return np.where(values.has(ref, "open"), OPEN, ohms)

"""Old and new parts: markings, ESR, reforming, life.

Source: each line of a reckoning names its own.
"""

from __future__ import annotations

from ..board.parts import KINDS
from ..circuit import (
    corner,
    timing,
)
from ..judge import ageing, reform
from ..text import marking
from .declared import Input, Reckoning

PARTS = (
    Reckoning(
        name="marking",
        title="Printed marking",
        about="Every reading of a printed marking, the likeliest first.",
        inputs=(
            Input(name="text", label="Print", default="104K 2A", help="as it stands on the part", text=True),
            Input(name="kind", label="Kind", default="", help="kind of part, if you know it", options=("", *KINDS)),
        ),
        function=marking.marking_working,
        result="capacitance",
        result_unit="F",
    ),
    Reckoning(
        name="new_esr",
        title="ESR of a new part",
        about="The highest ESR that a new electrolytic of this size may read.",
        inputs=(
            Input(name="value", label="Value", default="100u", unit="F", help="marked value", low=1e-13, high=10),
            Input(name="volts", label="Rated volts", default="10", unit="V", help="marked volts", low=0, high=1e5),
            Input(
                name="frequency",
                label="Meter's frequency",
                default="120",
                unit="Hz",
                help="what the meter measures at",
                low=1,
                high=1e7,
            ),
        ),
        function=ageing.new_esr_working,
        result="esr",
        result_unit="Ω",
    ),
    Reckoning(
        name="reform",
        title="Reforming an old capacitor",
        about="The steps, the currents allowed, and the resistor.",
        inputs=(
            Input(name="value", label="Value", default="4700u", unit="F", help="marked value", low=1e-13, high=10),
            Input(name="volts", label="Rated volts", default="16", unit="V", help="never exceeded", low=0, high=1e5),
            Input(
                name="resistance",
                label="Series resistor",
                default="330",
                unit="Ω",
                help="100 Ω to 10 kΩ",
                low=0,
                high=1e6,
            ),
        ),
        function=reform.reform,
        result="current_limit",
        result_unit="A",
    ),
    Reckoning(
        name="life",
        title="Expected life",
        about="From the rated life, by temperature and ripple.",
        inputs=(
            Input(
                name="life",
                label="Rated life",
                default="3000",
                unit="h",
                help="at the rated temperature",
                low=1,
                high=1e6,
            ),
            Input(
                name="rated_temperature",
                label="Rated temperature",
                default="105",
                unit="°C",
                help="printed on it",
                low=20,
                high=250,
            ),
            Input(
                name="ambient",
                label="Surroundings",
                default="75",
                unit="°C",
                help="with the case closed",
                low=-40,
                high=250,
            ),
            Input(
                name="ripple",
                label="Ripple carried",
                default="1.46",
                unit="A",
                help="in the circuit",
                low=0,
                high=1000,
            ),
            Input(
                name="rated_ripple",
                label="Rated ripple",
                default="2.29",
                unit="A",
                help="at the circuit's frequency",
                low=1e-6,
                high=1000,
            ),
        ),
        function=lambda life, **rest: ageing.life_working(life, **rest),
        result="hours",
        result_unit="h",
    ),
    Reckoning(
        name="timing",
        title="Timing",
        about="The time constant of a resistor and a capacitor.",
        inputs=(
            Input(name="value", label="Value", default="10u", unit="F", help="of the new part", low=0, high=10),
            Input(
                name="resistance",
                label="Resistor",
                default="47k",
                unit="Ω",
                help="it charges through",
                low=0,
                high=1e9,
            ),
            Input(
                name="k",
                label="Factor",
                default="1.1",
                unit="",
                help="ln of the ratio it switches at",
                low=0,
                high=100,
            ),
            Input(name="old_value", label="Old value", default="0", unit="F", help="0 to leave it out", low=0, high=10),
        ),
        function=timing.timing,
        result="seconds",
        result_unit="s",
    ),
    Reckoning(
        name="corner",
        title="Coupling corner",
        about="Where low frequencies begin to fall.",
        inputs=(
            Input(name="value", label="Value", default="4u7", unit="F", help="coupling capacitor", low=1e-13, high=10),
            Input(name="resistance", label="Into", default="10k", unit="Ω", help="what it feeds", low=1e-3, high=1e9),
        ),
        function=corner.corner,
        result="frequency",
        result_unit="Hz",
    ),
)

"""The registry of reckonings: each is declared once, and its page, address, command and JSON come from that.

Source: each line of a reckoning names its own.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from .board.parts import KINDS
from .circuit import (
    converter,
    corner,
    discharge,
    dummy_load,
    inrush,
    mains,
    monitor,
    regulator,
    supply,
    supply_working,
    timing,
    transformer,
)
from .faults import stripe
from .judge import ageing, reform
from .refusal import BadInput
from .text import marking
from .text.calculation import Calculation
from .text.quantity import read, show


@dataclass(frozen=True, kw_only=True)
class Input:
    """A typed input. unit "" with options or text=True is a word; whole asks a whole number."""

    name: str
    label: str
    default: str
    unit: str = ""
    help: str = ""
    options: tuple[str, ...] = ()
    text: bool = False
    whole: bool = False
    low: float | None = None
    high: float | None = None

    @property
    def shown(self) -> str:
        """The default as people read it."""
        value = self.take(self.default)
        if isinstance(value, str):
            return value or "not known"
        return show(value, self.unit)

    def take(self, text: str) -> float | int | str:
        """Read the typed text.

        Raises:
            BadInput: naming this input.
        """
        if self.options:
            if text not in self.options:
                raise BadInput(text, f"one of {', '.join(o or '(empty)' for o in self.options)}", field=self.name)
            return text
        if self.text:
            return text
        value = read(text, self.unit, field=self.name, low=self.low, high=self.high)
        if not self.whole:
            return value
        if value != int(value):
            raise BadInput(text, "a whole number", field=self.name)
        return int(value)


#: How many points a curve of a reckoning has.
CURVE_POINTS = 25


@dataclass(frozen=True)
class Curve:
    """How a reckoning's value moves with one input: its label and unit, points (input, value) in SI, and where the input stands."""

    label: str
    unit: str
    points: tuple[tuple[float, float], ...]
    at: float


@dataclass(frozen=True, kw_only=True)
class Reckoning:
    """A named piece of arithmetic with its inputs. result: the value shown large, with its unit. slow: whether a supply is simulated
    for it, so that no curve of it is drawn while somebody types."""

    name: str
    title: str
    about: str
    inputs: tuple[Input, ...]
    function: Callable[..., Calculation]
    result: str
    result_unit: str
    slow: bool = False

    def defaults(self) -> dict[str, str]:
        return {i.name: i.default for i in self.inputs}

    def headline(self, working: Calculation) -> str:
        """What the value shown large is called: the label of the line of the working that it is the value of."""
        value = working.values[self.result]
        return next((line.label for line in reversed(working.lines) if line.value == value), self.title)

    def curve(self, typed: Mapping[str, str]) -> Curve | None:
        """The value shown large over a number of the inputs, from a quarter of what it is to four times as much.

        The input is the first that is a number above zero and moves the value; None where there is none. Places of it at which
        nothing can be reckoned are left out.
        """
        if self.slow:
            return None
        taken = {i.name: i.take(typed.get(i.name, i.default)) for i in self.inputs}
        for one in self.inputs:
            at = taken[one.name]
            if one.whole or not isinstance(at, float) or at <= 0:
                continue
            points = []
            for n in range(CURVE_POINTS):
                x = at * 16 ** (n / (CURVE_POINTS - 1) - 0.5)
                try:
                    y = self.function(**{**taken, one.name: x}).values[self.result]
                except BadInput:
                    continue
                if isinstance(y, int | float) and math.isfinite(y):
                    points.append((x, float(y)))
            if len(points) > 4 and len({round(y, 12) for _, y in points}) > 1:
                return Curve(one.label, one.unit, tuple(points), at)
        return None

    def run(self, typed: Mapping[str, str]) -> Calculation:
        """Reckon from typed inputs; those left out take their default.

        Raises:
            BadInput: an unknown input, or one that cannot be read; the field names it.
        """
        known = {i.name: i for i in self.inputs}
        for name in typed:
            if name not in known:
                raise BadInput(name, f"one of the inputs {', '.join(known)}", field=name)
        return self.function(**{name: i.take(typed.get(name, i.default)) for name, i in known.items()})


_VALUE = Input(name="value", label="Value", default="220u", unit="F", help="marked value", low=1e-13, high=10)
_VOLTS = Input(name="volts", label="Volts", default="325", unit="V", help="what it is charged to", low=0, high=1e6)

REGISTRY: dict[str, Reckoning] = {
    r.name: r
    for r in (
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
            name="discharge",
            title="Discharging a capacitor",
            about="How long a resistor takes, and its rating.",
            inputs=(
                _VALUE,
                _VOLTS,
                Input(
                    name="resistance",
                    label="Resistor",
                    default="2k2",
                    unit="Ω",
                    help="across the capacitor",
                    low=0,
                    high=1e9,
                ),
                Input(
                    name="safe_volts",
                    label="Down to",
                    default="10",
                    unit="V",
                    help="10 V to handle, 1 V for a meter",
                    low=0,
                    high=1e5,
                ),
            ),
            function=discharge.discharge,
            result="seconds",
            result_unit="s",
        ),
        Reckoning(
            name="plug_pins",
            title="Pins of a plug after unplugging",
            about="The charge of filter parts across the line, and the resistor that discharges them in time.",
            inputs=(
                Input(
                    name="value",
                    label="Across the line",
                    default="330n",
                    unit="F",
                    help="all together",
                    low=0,
                    high=1e-3,
                ),
                Input(
                    name="resistance",
                    label="Discharge resistor",
                    default="1M",
                    unit="Ω",
                    help="across the line",
                    low=0,
                    high=1e9,
                ),
                Input(name="mains", label="Mains", default="230", unit="V", help="rms", low=10, high=500),
            ),
            function=discharge.plug_pins,
            result="volts_2s",
            result_unit="V",
        ),
        Reckoning(
            name="reform",
            title="Reforming an old capacitor",
            about="The steps, the currents allowed, and the resistor.",
            inputs=(
                Input(name="value", label="Value", default="4700u", unit="F", help="marked value", low=1e-13, high=10),
                Input(
                    name="volts", label="Rated volts", default="16", unit="V", help="never exceeded", low=0, high=1e5
                ),
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
            name="earth_leakage",
            title="Current to earth",
            about="What class Y parts pass to the case.",
            inputs=(
                Input(
                    name="value",
                    label="Value",
                    default="4n7",
                    unit="F",
                    help="all line-to-earth parts together",
                    low=1e-13,
                    high=1,
                ),
                Input(name="mains", label="Mains", default="230", unit="V", help="local mains", low=1, high=1000),
                Input(
                    name="frequency", label="Frequency", default="50", unit="Hz", help="of the mains", low=1, high=1000
                ),
                Input(
                    name="tolerance",
                    label="Parts above their marking by",
                    default="0.2",
                    unit="",
                    help="0.2 of letter M, 0.1 of K",
                    low=0,
                    high=1,
                ),
            ),
            function=mains.earth_leakage,
            result="current",
            result_unit="A",
        ),
        Reckoning(
            name="dummy_load",
            title="Dummy load",
            about="The resistor a rail is first proven on.",
            inputs=(
                Input(name="volts", label="Rail", default="5", unit="V", help="its nominal volts", low=-1e4, high=1e4),
                Input(
                    name="current",
                    label="Current",
                    default="0.5",
                    unit="A",
                    help="its minimum, or a fifth of its rating",
                    low=0,
                    high=1000,
                ),
            ),
            function=dummy_load.dummy_load,
            result="resistance",
            result_unit="Ω",
        ),
        Reckoning(
            name="retrace",
            title="Retrace of a line stage",
            about="How long the beam of a monitor takes to fly back, and the pulse that makes the tube's volts.",
            inputs=(
                Input(
                    name="inductance",
                    label="Coil",
                    default="1m2",
                    unit="H",
                    help="with the line transformer's primary in parallel, where known",
                    low=1e-7,
                    high=1,
                ),
                Input(
                    name="value",
                    label="Retrace part",
                    default="6n8",
                    unit="F",
                    help="by the service sheet",
                    low=1e-11,
                    high=1e-5,
                ),
                Input(
                    name="line",
                    label="Line rate",
                    default="15625",
                    unit="Hz",
                    help="as the monitor is made for",
                    low=1000,
                    high=200e3,
                ),
                Input(name="supply", label="B+", default="12", unit="V", help="of the line stage", low=1, high=1000),
            ),
            function=monitor.retrace,
            result="pulse",
            result_unit="V",
        ),
        Reckoning(
            name="tube_charge",
            title="Charge of a picture tube",
            about="The charge that glass and coating keep for years.",
            inputs=(
                Input(name="value", label="Tube", default="1n", unit="F", help="500 p to 2 n", low=1e-12, high=100e-9),
                Input(name="volts", label="Anode", default="12k", unit="V", help="as marked", low=1, high=60e3),
            ),
            function=monitor.tube_charge,
            result="energy",
            result_unit="J",
        ),
        Reckoning(
            name="hum_bar",
            title="Hum bar on a picture",
            about="How long a bar takes to crawl once over the picture.",
            inputs=(
                Input(name="mains", label="Mains", default="50", unit="Hz", help="local", low=10, high=1000),
                Input(
                    name="field",
                    label="Field rate",
                    default="60",
                    unit="Hz",
                    help="pictures a second, or half pictures",
                    low=10,
                    high=1000,
                ),
                Input(
                    name="multiple",
                    label="Multiple",
                    default="2",
                    help="1 for the mains, 2 for twice the mains",
                    whole=True,
                    low=1,
                    high=2,
                ),
            ),
            function=monitor.hum_bar,
            result="seconds",
            result_unit="s",
        ),
        Reckoning(
            name="field_store",
            title="Field output capacitor",
            about="Where it begins to bend the picture, and the current it carries.",
            inputs=(
                Input(
                    name="value",
                    label="Store",
                    default="1000u",
                    unit="F",
                    help="in series with the field coil",
                    low=1e-6,
                    high=1,
                ),
                Input(
                    name="resistance", label="Coil", default="8", unit="Ω", help="of the field coil", low=0.1, high=1000
                ),
                Input(
                    name="field",
                    label="Field rate",
                    default="60",
                    unit="Hz",
                    help="pictures a second, or half pictures",
                    low=10,
                    high=1000,
                ),
                Input(
                    name="current",
                    label="Coil current",
                    default="0",
                    unit="A",
                    help="peak to peak; 0 where it is not known",
                    low=0,
                    high=100,
                ),
            ),
            function=monitor.field_store,
            result="corner",
            result_unit="Hz",
        ),
        Reckoning(
            name="lamp_load",
            title="Lamp as a load on B+",
            about="What a lamp draws below its own volts.",
            inputs=(
                Input(name="watts", label="Lamp", default="60", help="W as printed on it", low=1, high=5000),
                Input(
                    name="rated", label="Made for", default="230", unit="V", help="as printed on it", low=1, high=5000
                ),
                Input(name="supply", label="B+", default="115", unit="V", help="of the line stage", low=1, high=5000),
            ),
            function=monitor.lamp_load,
            result="watts",
            result_unit="W",
        ),
        Reckoning(
            name="stripe",
            title="Stripe on the picture",
            about="Which data line is broken.",
            inputs=(
                Input(
                    name="width",
                    label="Word width",
                    default="16",
                    help="bits in a word of the picture memory",
                    whole=True,
                    low=1,
                    high=64,
                ),
                Input(
                    name="order",
                    label="Leftmost pixel is",
                    default="msb",
                    help="msb: the highest bit, lsb: the lowest",
                    options=stripe.ORDERS,
                ),
                Input(
                    name="offset",
                    label="Stripe's offset",
                    default="3",
                    help="pixels from the left of the picture",
                    whole=True,
                    low=0,
                    high=99_999,
                ),
            ),
            function=stripe.stripe,
            result="bit",
            result_unit="",
        ),
        Reckoning(
            name="corner",
            title="Coupling corner",
            about="Where low frequencies begin to fall.",
            inputs=(
                Input(
                    name="value", label="Value", default="4u7", unit="F", help="coupling capacitor", low=1e-13, high=10
                ),
                Input(
                    name="resistance", label="Into", default="10k", unit="Ω", help="what it feeds", low=1e-3, high=1e9
                ),
            ),
            function=corner.corner,
            result="frequency",
            result_unit="Hz",
        ),
        Reckoning(
            name="supply",
            title="Rectifier and reservoir",
            about="Simulated to the state that repeats each cycle: volts, ripple, currents.",
            inputs=(
                Input(
                    name="topology",
                    label="Rectifier",
                    default="bridge",
                    help="how the diodes are arranged",
                    options=(*supply.TOPOLOGIES, supply_working.DOUBLER),
                ),
                Input(
                    name="source",
                    label="Winding, without load",
                    default="9",
                    unit="V",
                    help="rms; one half where it is tapped",
                    low=0,
                    high=2000,
                ),
                Input(
                    name="frequency",
                    label="Mains frequency",
                    default="50",
                    unit="Hz",
                    help="of the mains",
                    low=1,
                    high=1000,
                ),
                Input(
                    name="source_resistance",
                    label="Winding's resistance",
                    default="0.6",
                    unit="Ω",
                    help="as the load sees it",
                    low=0,
                    high=1e5,
                ),
                Input(
                    name="store", label="Store", default="4700u", unit="F", help="after the rectifier", low=0, high=10
                ),
                Input(name="store_esr", label="Its ESR", default="30m", unit="Ω", help="at 120 Hz", low=0, high=1e4),
                Input(name="load", label="Load", default="1.0 A", help="1.0 A, 8 Ω or 30 W", text=True),
                Input(
                    name="mains_percent",
                    label="Mains tolerance, %",
                    default="0",
                    unit="",
                    help="−10 or 10",
                    low=-50,
                    high=50,
                ),
                Input(
                    name="v_out",
                    label="Regulated to",
                    default="0",
                    unit="V",
                    help="0 where no linear regulator follows",
                    low=0,
                    high=1000,
                ),
                Input(
                    name="dropout", label="Its dropout", default="2", unit="V", help="of the regulator", low=0, high=50
                ),
            ),
            function=supply_working.supply_working,
            result="v_avg",
            result_unit="V",
            slow=True,
        ),
        Reckoning(
            name="adapter",
            title="What an adapter should read",
            about="With nothing plugged in, calculated from its label.",
            inputs=(
                Input(
                    name="label_volts", label="Label, volts", default="9", unit="V", help="as printed", low=0, high=1000
                ),
                Input(
                    name="label_current",
                    label="Label, current",
                    default="1",
                    unit="A",
                    help="as printed",
                    low=0,
                    high=100,
                ),
                Input(
                    name="kind",
                    label="Kind",
                    default="unregulated",
                    help="what comes out",
                    options=transformer.ADAPTERS,
                ),
                Input(
                    name="measured",
                    label="Measured",
                    default="0",
                    unit="V",
                    help="without load; 0 if not read yet",
                    low=0,
                    high=2000,
                ),
                Input(
                    name="frequency",
                    label="Mains frequency",
                    default="50",
                    unit="Hz",
                    help="of the mains",
                    low=1,
                    high=1000,
                ),
            ),
            function=transformer.adapter,
            result="expected_unloaded",
            result_unit="V",
            slow=True,
        ),
        Reckoning(
            name="tap",
            title="Another mains tap",
            about="What a winding gives on a tap that does not match the mains.",
            inputs=(
                Input(name="mains", label="Mains", default="230", unit="V", help="local mains", low=1, high=1000),
                Input(
                    name="tap_volts",
                    label="Tap",
                    default="240",
                    unit="V",
                    help="what the tap is marked",
                    low=1,
                    high=1000,
                ),
                Input(
                    name="winding_volts",
                    label="Winding",
                    default="9",
                    unit="V",
                    help="at its own mains",
                    low=0,
                    high=5000,
                ),
            ),
            function=transformer.tap,
            result="volts",
            result_unit="V",
        ),
        Reckoning(
            name="regulator",
            title="Linear regulator",
            about="Headroom at low mains, heat at high mains, the heatsink.",
            inputs=(
                Input(name="v_out", label="Out", default="5", unit="V", help="regulated", low=-1000, high=1000),
                Input(name="load", label="Load", default="1", unit="A", help="what it feeds", low=0, high=100),
                Input(
                    name="v_in_min",
                    label="Lowest in",
                    default="7.7",
                    unit="V",
                    help="at −10 % mains",
                    low=-1000,
                    high=1000,
                ),
                Input(
                    name="v_in_max",
                    label="Average in",
                    default="10.2",
                    unit="V",
                    help="at +10 % mains",
                    low=-1000,
                    high=1000,
                ),
                Input(
                    name="dropout",
                    label="Dropout",
                    default="2",
                    unit="V",
                    help="what it needs above the output",
                    low=0,
                    high=20,
                ),
                Input(
                    name="theta_jc",
                    label="Junction to case, K/W",
                    default="3",
                    unit="",
                    help="of the part",
                    low=0,
                    high=500,
                ),
                Input(
                    name="theta_cs",
                    label="Case to heatsink, K/W",
                    default="0.5",
                    unit="",
                    help="compound, and 1.0 more for an insulator",
                    low=0,
                    high=50,
                ),
                Input(
                    name="theta_sa",
                    label="Heatsink to air, K/W",
                    default="8",
                    unit="",
                    help="of the heatsink",
                    low=0,
                    high=500,
                ),
                Input(
                    name="ambient",
                    label="Air around it",
                    default="45",
                    unit="°C",
                    help="with the case closed",
                    low=-40,
                    high=120,
                ),
                Input(
                    name="quiescent",
                    label="Own current",
                    default="0",
                    unit="A",
                    help="0 if not known; often 5 mA",
                    low=0,
                    high=1,
                ),
                Input(
                    name="v_in_limit",
                    label="Input rated at most",
                    default="35",
                    unit="V",
                    help="by its data sheet: 35 V of a 78xx-type, 40 V from 24 V out on; 0 leaves it out",
                    low=-200,
                    high=200,
                ),
            ),
            function=regulator.regulator,
            result="junction",
            result_unit="°C",
        ),
        Reckoning(
            name="converter_ripple",
            title="Ripple of a converter's output capacitor",
            about="The ripple current of an output capacitor at the switching rate.",
            inputs=(
                Input(
                    name="topology",
                    label="Converter",
                    default="flyback",
                    help="how it works",
                    options=converter.TOPOLOGIES,
                ),
                Input(
                    name="current", label="Current out", default="3.1", unit="A", help="of the rail", low=0, high=1000
                ),
                Input(
                    name="duty",
                    label="Duty",
                    default="0.47",
                    unit="",
                    help="share of the time the switch is on",
                    low=0,
                    high=1,
                ),
                Input(
                    name="frequency",
                    label="Switching rate",
                    default="50k",
                    unit="Hz",
                    help="of the converter",
                    low=1,
                    high=1e8,
                ),
                Input(
                    name="inductor_ripple",
                    label="Choke's ripple",
                    default="0",
                    unit="A",
                    help="peak to peak; buck and forward",
                    low=0,
                    high=1000,
                ),
                Input(
                    name="share",
                    label="This capacitor's share",
                    default="1",
                    unit="",
                    help="1 if it is alone",
                    low=0,
                    high=1,
                ),
                Input(
                    name="mode",
                    label="Conduction",
                    default="continuous",
                    help="a flyback may be discontinuous",
                    options=converter.MODES,
                ),
            ),
            function=converter.converter_ripple,
            result="ripple",
            result_unit="A",
        ),
        Reckoning(
            name="inrush",
            title="Inrush",
            about="The pulse of charging an empty capacitor.",
            inputs=(
                Input(
                    name="volts", label="Peak", default="325", unit="V", help="of the mains or winding", low=0, high=1e5
                ),
                Input(name="value", label="Store", default="220u", unit="F", help="that is empty", low=0, high=10),
                Input(
                    name="resistance",
                    label="Through",
                    default="10.6",
                    unit="Ω",
                    help="winding, NTC, everything in series",
                    low=0,
                    high=1e6,
                ),
            ),
            function=inrush.inrush,
            result="i2t",
            result_unit="A²s",
        ),
        Reckoning(
            name="fuse",
            title="Fuse, where the marking is missing",
            about="Calculated; a marked rating always stays.",
            inputs=(
                Input(name="power", label="Power out", default="40", unit="W", help="of all rails", low=0, high=5000),
                Input(
                    name="efficiency",
                    label="Efficiency",
                    default="0.75",
                    unit="",
                    help="0.7 to 0.85 is usual",
                    low=0,
                    high=1,
                ),
                Input(
                    name="power_factor",
                    label="Power factor",
                    default="0.6",
                    unit="",
                    help="0.6 for a rectifier and reservoir",
                    low=0,
                    high=1,
                ),
                Input(
                    name="mains_min",
                    label="Lowest mains",
                    default="207",
                    unit="V",
                    help="local mains − 10 %",
                    low=1,
                    high=1000,
                ),
                Input(
                    name="store", label="Store", default="220u", unit="F", help="charged at switch-on", low=0, high=10
                ),
                Input(
                    name="resistance",
                    label="Through",
                    default="10.6",
                    unit="Ω",
                    help="what limits the pulse",
                    low=0,
                    high=1e6,
                ),
                Input(
                    name="standard",
                    label="Designed to carry",
                    default="iec",
                    help="iec: IEC 60127-2:2014, clause 9; ul: UL 248-14:2000",
                    options=tuple(inrush.CARRIES),
                ),
            ),
            function=inrush.fuse,
            result="rating",
            result_unit="A",
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
                Input(
                    name="old_value", label="Old value", default="0", unit="F", help="0 to leave it out", low=0, high=10
                ),
            ),
            function=timing.timing,
            result="seconds",
            result_unit="s",
        ),
    )
}


def reckoning(name: str) -> Reckoning:
    """The reckoning of that name.

    Raises:
        BadInput: there is none.
    """
    if name not in REGISTRY:
        raise BadInput(name, f"one of {', '.join(REGISTRY)}", field="reckoning")
    return REGISTRY[name]

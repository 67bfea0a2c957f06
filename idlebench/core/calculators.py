"""The registry of reckonings: each is declared once, and its page, address, command and JSON come from that.

Source: each line of a reckoning names its own.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from .board.parts import KINDS
from .calculation import Calculation
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
    timing,
    transformer,
)
from .faults import stripe
from .judge import ageing, reform
from .refusal import BadInput
from .text import marking
from .text.quantity import read, show


@dataclass(frozen=True)
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
                raise BadInput(text, f"one of {', '.join(o or '(empty)' for o in self.options)}", "", self.name)
            return text
        if self.text:
            return text
        value = read(text, self.unit, field=self.name, low=self.low, high=self.high)
        if not self.whole:
            return value
        if value != int(value):
            raise BadInput(text, "a whole number", "", self.name)
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


@dataclass(frozen=True)
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
                raise BadInput(name, f"one of the inputs {', '.join(known)}", "", name)
        return self.function(**{name: i.take(typed.get(name, i.default)) for name, i in known.items()})


_VALUE = Input("value", "Value", "220u", "F", "marked value", low=1e-13, high=10)
_VOLTS = Input("volts", "Volts", "325", "V", "what it is charged to", low=0, high=1e6)

REGISTRY: dict[str, Reckoning] = {
    r.name: r
    for r in (
        Reckoning(
            "marking",
            "Printed marking",
            "Every reading of a printed marking, the likeliest first.",
            (
                Input("text", "Print", "104K 2A", help="as it stands on the part", text=True),
                Input("kind", "Kind", "", help="kind of part, if you know it", options=("", *KINDS)),
            ),
            marking.marking_working,
            "capacitance",
            "F",
        ),
        Reckoning(
            "new_esr",
            "ESR of a new part",
            "The highest ESR that a new electrolytic of this size may read.",
            (
                Input("value", "Value", "100u", "F", "marked value", low=1e-13, high=10),
                Input("volts", "Rated volts", "10", "V", "marked volts", low=0, high=1e5),
                Input("frequency", "Meter's frequency", "120", "Hz", "what the meter measures at", low=1, high=1e7),
            ),
            ageing.new_esr_working,
            "esr",
            "Ω",
        ),
        Reckoning(
            "discharge",
            "Discharging a capacitor",
            "How long a resistor takes, and its rating.",
            (
                _VALUE,
                _VOLTS,
                Input("resistance", "Resistor", "2k2", "Ω", "across the capacitor", low=0, high=1e9),
                Input("safe_volts", "Down to", "10", "V", "10 V to handle, 1 V for a meter", low=0, high=1e5),
            ),
            discharge.discharge,
            "seconds",
            "s",
        ),
        Reckoning(
            "plug_pins",
            "Pins of a plug after unplugging",
            "The charge of filter parts across the line, and the resistor that discharges them in time.",
            (
                Input("value", "Across the line", "330n", "F", "all together", low=0, high=1e-3),
                Input("resistance", "Discharge resistor", "1M", "Ω", "across the line", low=0, high=1e9),
                Input("mains", "Mains", "230", "V", "rms", low=10, high=500),
            ),
            discharge.plug_pins,
            "volts_2s",
            "V",
        ),
        Reckoning(
            "reform",
            "Reforming an old capacitor",
            "The steps, the currents allowed, and the resistor.",
            (
                Input("value", "Value", "4700u", "F", "marked value", low=1e-13, high=10),
                Input("volts", "Rated volts", "16", "V", "never exceeded", low=0, high=1e5),
                Input("resistance", "Series resistor", "330", "Ω", "100 Ω to 10 kΩ", low=0, high=1e6),
            ),
            reform.reform,
            "current_limit",
            "A",
        ),
        Reckoning(
            "life",
            "Expected life",
            "From the rated life, by temperature and ripple.",
            (
                Input("life", "Rated life", "3000", "h", "at the rated temperature", low=1, high=1e6),
                Input("rated_temperature", "Rated temperature", "105", "°C", "printed on it", low=20, high=250),
                Input("ambient", "Surroundings", "75", "°C", "with the case closed", low=-40, high=250),
                Input("ripple", "Ripple carried", "1.46", "A", "in the circuit", low=0, high=1000),
                Input("rated_ripple", "Rated ripple", "2.29", "A", "at the circuit's frequency", low=1e-6, high=1000),
            ),
            lambda life, **rest: ageing.life_working(life, **rest),
            "hours",
            "h",
        ),
        Reckoning(
            "earth_leakage",
            "Current to earth",
            "What class Y parts pass to the case.",
            (
                Input("value", "Value", "4n7", "F", "all line-to-earth parts together", low=1e-13, high=1),
                Input("mains", "Mains", "230", "V", "local mains", low=1, high=1000),
                Input("frequency", "Frequency", "50", "Hz", "of the mains", low=1, high=1000),
                Input(
                    "tolerance", "Parts above their marking by", "0.2", "", "0.2 of letter M, 0.1 of K", low=0, high=1
                ),
            ),
            mains.earth_leakage,
            "current",
            "A",
        ),
        Reckoning(
            "dummy_load",
            "Dummy load",
            "The resistor a rail is first proven on.",
            (
                Input("volts", "Rail", "5", "V", "its nominal volts", low=-1e4, high=1e4),
                Input("current", "Current", "0.5", "A", "its minimum, or a fifth of its rating", low=0, high=1000),
            ),
            dummy_load.dummy_load,
            "resistance",
            "Ω",
        ),
        Reckoning(
            "retrace",
            "Retrace of a line stage",
            "How long the beam of a monitor takes to fly back, and the pulse that makes the tube's volts.",
            (
                Input(
                    "inductance",
                    "Coil",
                    "1m2",
                    "H",
                    "with the line transformer's primary in parallel, where known",
                    low=1e-7,
                    high=1,
                ),
                Input("value", "Retrace part", "6n8", "F", "by the service sheet", low=1e-11, high=1e-5),
                Input("line", "Line rate", "15625", "Hz", "as the monitor is made for", low=1000, high=200e3),
                Input("supply", "B+", "12", "V", "of the line stage", low=1, high=1000),
            ),
            monitor.retrace,
            "pulse",
            "V",
        ),
        Reckoning(
            "tube_charge",
            "Charge of a picture tube",
            "The charge that glass and coating keep for years.",
            (
                Input("value", "Tube", "1n", "F", "500 p to 2 n", low=1e-12, high=100e-9),
                Input("volts", "Anode", "12k", "V", "as marked", low=1, high=60e3),
            ),
            monitor.tube_charge,
            "energy",
            "J",
        ),
        Reckoning(
            "hum_bar",
            "Hum bar on a picture",
            "How long a bar takes to crawl once over the picture.",
            (
                Input("mains", "Mains", "50", "Hz", "local", low=10, high=1000),
                Input("field", "Field rate", "60", "Hz", "pictures a second, or half pictures", low=10, high=1000),
                Input(
                    "multiple",
                    "Multiple",
                    "2",
                    help="1 for the mains, 2 for twice the mains",
                    whole=True,
                    low=1,
                    high=2,
                ),
            ),
            monitor.hum_bar,
            "seconds",
            "s",
        ),
        Reckoning(
            "field_store",
            "Field output capacitor",
            "Where it begins to bend the picture, and the current it carries.",
            (
                Input("value", "Store", "1000u", "F", "in series with the field coil", low=1e-6, high=1),
                Input("resistance", "Coil", "8", "Ω", "of the field coil", low=0.1, high=1000),
                Input("field", "Field rate", "60", "Hz", "pictures a second, or half pictures", low=10, high=1000),
                Input("current", "Coil current", "0", "A", "peak to peak; 0 where it is not known", low=0, high=100),
            ),
            monitor.field_store,
            "corner",
            "Hz",
        ),
        Reckoning(
            "lamp_load",
            "Lamp as a load on B+",
            "What a lamp draws below its own volts.",
            (
                Input("watts", "Lamp", "60", help="W as printed on it", low=1, high=5000),
                Input("rated", "Made for", "230", "V", "as printed on it", low=1, high=5000),
                Input("supply", "B+", "115", "V", "of the line stage", low=1, high=5000),
            ),
            monitor.lamp_load,
            "watts",
            "W",
        ),
        Reckoning(
            "stripe",
            "Stripe on the picture",
            "Which data line is broken.",
            (
                Input(
                    "width", "Word width", "16", help="bits in a word of the picture memory", whole=True, low=1, high=64
                ),
                Input(
                    "order",
                    "Leftmost pixel is",
                    "msb",
                    help="msb: the highest bit, lsb: the lowest",
                    options=stripe.ORDERS,
                ),
                Input(
                    "offset",
                    "Stripe's offset",
                    "3",
                    help="pixels from the left of the picture",
                    whole=True,
                    low=0,
                    high=99_999,
                ),
            ),
            stripe.stripe,
            "bit",
            "",
        ),
        Reckoning(
            "corner",
            "Coupling corner",
            "Where low frequencies begin to fall.",
            (
                Input("value", "Value", "4u7", "F", "coupling capacitor", low=1e-13, high=10),
                Input("resistance", "Into", "10k", "Ω", "what it feeds", low=1e-3, high=1e9),
            ),
            corner.corner,
            "frequency",
            "Hz",
        ),
        Reckoning(
            "supply",
            "Rectifier and reservoir",
            "Simulated to the state that repeats each cycle: volts, ripple, currents.",
            (
                Input(
                    "topology",
                    "Rectifier",
                    "bridge",
                    help="how the diodes are arranged",
                    options=(*supply.TOPOLOGIES, supply.DOUBLER),
                ),
                Input(
                    "source", "Winding, without load", "9", "V", "rms; one half where it is tapped", low=0, high=2000
                ),
                Input("frequency", "Mains frequency", "50", "Hz", "of the mains", low=1, high=1000),
                Input("source_resistance", "Winding's resistance", "0.6", "Ω", "as the load sees it", low=0, high=1e5),
                Input("store", "Store", "4700u", "F", "after the rectifier", low=0, high=10),
                Input("store_esr", "Its ESR", "30m", "Ω", "at 120 Hz", low=0, high=1e4),
                Input("load", "Load", "1.0 A", help="1.0 A, 8 Ω or 30 W", text=True),
                Input("mains_percent", "Mains tolerance, %", "0", "", "−10 or 10", low=-50, high=50),
                Input("v_out", "Regulated to", "0", "V", "0 where no linear regulator follows", low=0, high=1000),
                Input("dropout", "Its dropout", "2", "V", "of the regulator", low=0, high=50),
            ),
            supply.supply_working,
            "v_avg",
            "V",
            slow=True,
        ),
        Reckoning(
            "adapter",
            "What an adapter should read",
            "With nothing plugged in, calculated from its label.",
            (
                Input("label_volts", "Label, volts", "9", "V", "as printed", low=0, high=1000),
                Input("label_current", "Label, current", "1", "A", "as printed", low=0, high=100),
                Input("kind", "Kind", "unregulated", help="what comes out", options=transformer.ADAPTERS),
                Input("measured", "Measured", "0", "V", "without load; 0 if not read yet", low=0, high=2000),
                Input("frequency", "Mains frequency", "50", "Hz", "of the mains", low=1, high=1000),
            ),
            transformer.adapter,
            "expected_unloaded",
            "V",
            slow=True,
        ),
        Reckoning(
            "tap",
            "Another mains tap",
            "What a winding gives on a tap that does not match the mains.",
            (
                Input("mains", "Mains", "230", "V", "local mains", low=1, high=1000),
                Input("tap_volts", "Tap", "240", "V", "what the tap is marked", low=1, high=1000),
                Input("winding_volts", "Winding", "9", "V", "at its own mains", low=0, high=5000),
            ),
            transformer.tap,
            "volts",
            "V",
        ),
        Reckoning(
            "regulator",
            "Linear regulator",
            "Headroom at low mains, heat at high mains, the heatsink.",
            (
                Input("v_out", "Out", "5", "V", "regulated", low=-1000, high=1000),
                Input("load", "Load", "1", "A", "what it feeds", low=0, high=100),
                Input("v_in_min", "Lowest in", "7.7", "V", "at −10 % mains", low=-1000, high=1000),
                Input("v_in_max", "Average in", "10.2", "V", "at +10 % mains", low=-1000, high=1000),
                Input("dropout", "Dropout", "2", "V", "what it needs above the output", low=0, high=20),
                Input("theta_jc", "Junction to case, K/W", "3", "", "of the part", low=0, high=500),
                Input(
                    "theta_cs",
                    "Case to heatsink, K/W",
                    "0.5",
                    "",
                    "compound, and 1.0 more for an insulator",
                    low=0,
                    high=50,
                ),
                Input("theta_sa", "Heatsink to air, K/W", "8", "", "of the heatsink", low=0, high=500),
                Input("ambient", "Air around it", "45", "°C", "with the case closed", low=-40, high=120),
                Input("quiescent", "Own current", "0", "A", "0 if not known; often 5 mA", low=0, high=1),
                Input(
                    "v_in_limit",
                    "Input rated at most",
                    "35",
                    "V",
                    "by its data sheet: 35 V of a 78xx-type, 40 V from 24 V out on; 0 leaves it out",
                    low=-200,
                    high=200,
                ),
            ),
            regulator.regulator,
            "junction",
            "°C",
        ),
        Reckoning(
            "converter_ripple",
            "Ripple of a converter's output capacitor",
            "The ripple current of an output capacitor at the switching rate.",
            (
                Input("topology", "Converter", "flyback", help="how it works", options=converter.TOPOLOGIES),
                Input("current", "Current out", "3.1", "A", "of the rail", low=0, high=1000),
                Input("duty", "Duty", "0.47", "", "share of the time the switch is on", low=0, high=1),
                Input("frequency", "Switching rate", "50k", "Hz", "of the converter", low=1, high=1e8),
                Input(
                    "inductor_ripple", "Choke's ripple", "0", "A", "peak to peak; buck and forward", low=0, high=1000
                ),
                Input("share", "This capacitor's share", "1", "", "1 if it is alone", low=0, high=1),
                Input(
                    "mode", "Conduction", "continuous", help="a flyback may be discontinuous", options=converter.MODES
                ),
            ),
            converter.converter_ripple,
            "ripple",
            "A",
        ),
        Reckoning(
            "inrush",
            "Inrush",
            "The pulse of charging an empty capacitor.",
            (
                Input("volts", "Peak", "325", "V", "of the mains or winding", low=0, high=1e5),
                Input("value", "Store", "220u", "F", "that is empty", low=0, high=10),
                Input("resistance", "Through", "10.6", "Ω", "winding, NTC, everything in series", low=0, high=1e6),
            ),
            inrush.inrush,
            "i2t",
            "A²s",
        ),
        Reckoning(
            "fuse",
            "Fuse, where the marking is missing",
            "Calculated; a marked rating always stays.",
            (
                Input("power", "Power out", "40", "W", "of all rails", low=0, high=5000),
                Input("efficiency", "Efficiency", "0.75", "", "0.7 to 0.85 is usual", low=0, high=1),
                Input("power_factor", "Power factor", "0.6", "", "0.6 for a rectifier and reservoir", low=0, high=1),
                Input("mains_min", "Lowest mains", "207", "V", "local mains − 10 %", low=1, high=1000),
                Input("store", "Store", "220u", "F", "charged at switch-on", low=0, high=10),
                Input("resistance", "Through", "10.6", "Ω", "what limits the pulse", low=0, high=1e6),
                Input(
                    "standard",
                    "Designed to carry",
                    "iec",
                    help="iec: IEC 60127-2:2014, clause 9; ul: UL 248-14:2000",
                    options=tuple(inrush.CARRIES),
                ),
            ),
            inrush.fuse,
            "rating",
            "A",
        ),
        Reckoning(
            "timing",
            "Timing",
            "The time constant of a resistor and a capacitor.",
            (
                Input("value", "Value", "10u", "F", "of the new part", low=0, high=10),
                Input("resistance", "Resistor", "47k", "Ω", "it charges through", low=0, high=1e9),
                Input("k", "Factor", "1.1", "", "ln of the ratio it switches at", low=0, high=100),
                Input("old_value", "Old value", "0", "F", "0 to leave it out", low=0, high=10),
            ),
            timing.timing,
            "seconds",
            "s",
        ),
    )
}


def reckoning(name: str) -> Reckoning:
    """The reckoning of that name.

    Raises:
        BadInput: there is none.
    """
    if name not in REGISTRY:
        raise BadInput(name, f"one of {', '.join(REGISTRY)}", "", "reckoning")
    return REGISTRY[name]

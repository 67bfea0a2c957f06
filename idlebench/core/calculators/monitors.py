"""Monitors: pulses, tube, bars, lamps and stripes.

Source: each line of a reckoning names its own.
"""

from __future__ import annotations

from ..circuit import (
    monitor,
)
from ..faults import stripe
from .declared import Input, Reckoning

MONITORS = (
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
            Input(name="resistance", label="Coil", default="8", unit="Ω", help="of the field coil", low=0.1, high=1000),
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
            Input(name="rated", label="Made for", default="230", unit="V", help="as printed on it", low=1, high=5000),
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
)

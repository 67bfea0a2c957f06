"""What a monitor on the simulated bench shows: B+, heater, anode by its retrace part, height by its field store, hum by its supply.

Source: as in circuit.monitor; the anode goes with the pulse, the pulse with B+; the height with what the store lets through at the
field rate.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..board.monitor_lines import Monitor
from ..circuit.monitor import field_store, hum_bar
from .truth import Fault

#: Ripple of B+ over which a bar is seen, as its share; height under which a picture is called pressed.
SEEN, PRESSED = 0.01, 0.97
#: A joint of the line transformer of so many Ω shakes the picture.
SHAKES = 0.05


@dataclass(frozen=True, kw_only=True)
class Shows:
    """b_plus, heater, anode: V. height: as a share of what it should be. amps: of the line stage. bar: seconds of one crawl of a hum
    bar, endless where it stands still, None where none is seen. signs: words of the signs that are seen.
    """

    b_plus: float
    heater: float
    anode: float
    height: float
    amps: float
    bar: float | None
    signs: tuple[str, ...]


def shows(
    monitor: Monitor,
    b_plus: float,
    ripple: float,
    values: Mapping[str, float],
    faults: Sequence[Fault] = (),
    mains: float = 50.0,
) -> Shows:
    """What a monitor shows on a B+.

    Args:
        monitor: the monitor, as its lines say.
        b_plus: V at its line stage.
        ripple: V p-p on it.
        values: F of its parts as they stand, by reference.
        faults: what befell them.
        mains: Hz.

    Returns:
        Size, volts and heater of the picture.
    """
    true = {**values, **{f.ref: f.value for f in faults if f.what == "cap"}}
    broken = {f.ref for f in faults if f.what in ("open", "dead", "short")}
    stage, out, signs = monitor.stage, monitor.output, []
    anode, amps, share = monitor.anode, 0.0, 1.0
    if stage is not None:
        share = b_plus / stage.supply
        swung = 1.0 + monitor.rise_with(true.get(stage.retrace, stage.value))
        alive = not {stage.transistor, stage.transformer, stage.retrace} & (broken - {""})
        anode = monitor.anode * share * swung if alive and math.isfinite(swung) else 0.0
        amps = stage.draws * share if alive else 0.0
        if any(f.ref == stage.transformer and f.what == "joint" and f.value > SHAKES for f in faults):
            signs.append("picture shakes")
    heater = (
        0.0 if monitor.heater is None else monitor.heater.volts * (share if monitor.heater.by_line or stage else 1.0)
    )
    height = _height(monitor, true, broken)
    if anode <= 0:
        signs.append("no picture, heater glows" if heater > 0 else "no picture, heater dark")
    elif height <= 0:
        signs.append("one bright line across")
    elif height < PRESSED and out is not None:
        signs.append("no height at the bottom")
    over = ripple > SEEN * b_plus > 0
    crawl = hum_bar(mains, monitor.field, 2).values["seconds"] if over else None
    bar = (math.inf if crawl is None else crawl) if over else None
    if over and anode > 0:
        signs.append("hum bar")
    return Shows(b_plus=b_plus, heater=heater, anode=anode, height=height, amps=amps, bar=bar, signs=tuple(signs))


def _height(monitor: Monitor, true: Mapping[str, float], broken: set[str]) -> float:
    """Height by what the field store lets through at the field rate, as a share of what the one of the sheet does."""
    out = monitor.output
    if out is None:
        return 1.0
    if {out.chip, out.store} & (broken - {""}):
        return 0.0
    if not out.store or not out.value:
        return 1.0

    def through(value: float) -> float:
        return 1 / math.hypot(1.0, field_store(value, out.ohms, monitor.field).values["corner"] / monitor.field)

    return through(max(true.get(out.store, out.value), 1e-9)) / through(out.value)

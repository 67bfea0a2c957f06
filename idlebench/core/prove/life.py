"""Signs of life: rails at the chips' own pins, clocks at their frequency, lines that move or stand at a level.

Source: levels of TTL: JEDEC JESD8C.01, 0.8 V and 2.0 V, with 0.4 V for noise; one per cent of a clock: workshop practice, because a
crystal strays by a hundredth of that and an old RC oscillator by more is a fault.
"""

from __future__ import annotations

from collections.abc import Sequence

from ..text.quantity import show
from ..text.rails_and_chips import Pin, Rail
from .checks import BoardFacts, Check, PowerStep, key_of
from .facts import STEP
from .power_methods import Of

#: Pins that tell something under power.
ALIVE = ("clock", "activity", "supply", "high", "low")
#: How far a clock may stray, a share; V of a high level at the least, and of a low one at the most.
CLOCK_STRAYS, HIGH, LOW = 0.01, 2.4, 0.8
#: What a level may be at the most, V: a pin of a 5 V chip, pulled up.
MOST = 5.5


def life_step(boards: Sequence[BoardFacts], rails: Sequence[Rail], under: Of, whole: frozenset[str]) -> PowerStep:
    """The pins of all chips that are to be tested under power.

    Args:
        boards: of the unit.
        rails: of its supplies.
        under: what its checks are of.
        whole: the rows of all boards.

    Returns:
        The step.
    """
    by_name, checks = {r.name: r for r in rails}, []
    for board in boards:
        for chip in board.chips:
            for pin in chip.pins:
                told = _of_pin(pin, by_name)
                if told is None:
                    continue
                of = (*under, ("rail", by_name[pin.rail].as_line())) if pin.is_ == "supply" else under
                of = (*of, ("clock", f"{pin.hertz:.12g} Hz")) if pin.hertz else of
                checks.append(
                    Check(
                        key=key_of("up.life", board.id, chip.ref, pin.number),
                        step="life",
                        point=f"{chip.ref} pin {pin.number}",
                        live=True,
                        board=board.name,
                        of=of,
                        names=(key_of("up.life", board.name, chip.ref, pin.number),),
                        fact=STEP,
                        rows=whole,
                        boards=whole,
                        **told,
                    )
                )
    detail = "rails at the chips, clock, lines that must move"
    return PowerStep(key="life", title="Signs of life", detail=detail, checks=tuple(checks), live=True)


def _of_pin(pin: Pin, rails: dict[str, Rail]) -> dict[str, object] | None:
    """What is asked of a pin; None for one that tells nothing under power."""
    if pin.is_ == "supply" and pin.rail in rails:
        rail = rails[pin.rail]
        return {
            "kind": "dc_volts", "ask": f"{pin.rail} at the chip's own pin.", "low": rail.low, "high": rail.high,
            "nominal": rail.nominal, "why": "Rail limits, measured where they count",
        }  # fmt: skip
    if pin.is_ == "clock" and pin.hertz:
        return {
            "kind": "frequency", "ask": f"{show(pin.hertz, 'Hz')} by a counter or scope, a probe of 10 : 1.",
            "low": pin.hertz * (1 - CLOCK_STRAYS), "high": pin.hertz * (1 + CLOCK_STRAYS),
            "why": "Half or twice of it is a divider; none is the oscillator or its crystal.",
        }  # fmt: skip
    if pin.is_ == "clock":
        return {"kind": "activity", "ask": "The clock runs between clean levels."}
    if pin.is_ == "activity":
        ask = f"As it should be: {pin.note}." if pin.note else "The line moves between levels and is not stuck."
        return {"kind": "activity", "ask": ask}
    if pin.is_ == "high":
        return {
            "kind": "dc_volts",
            "ask": "It stands high.",
            "low": HIGH,
            "high": MOST,
            "why": "Between levels a chip or its pull-up is at fault.",
        }
    if pin.is_ == "low":
        return {
            "kind": "dc_volts",
            "ask": "It stands low.",
            "low": -0.5,
            "high": LOW,
            "why": "Between levels two outputs work against each other.",
        }
    return None

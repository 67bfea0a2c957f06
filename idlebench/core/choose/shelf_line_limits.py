"""Resistors, zener diodes, optocouplers and transistors of one's own for the Shelf, from the words that a survey line has.

``resistor 2R2 1W 5% fusible``, ``zener 5.1V 0.5W``, ``optocoupler ctr 80-160% 35V holds 5000V``, ``transistor npn 80V 4A 36W hfe 40``.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from ..board.devices import Device, read_device
from ..refusal import BadInput
from .by_limits import LimitPart, Optocoupler, Transistor, Zener, optocoupler_need, transistor_need, zener_need
from .resistors import FILM, FUSIBLE, WIREWOUND, Resistor, resistor_need

#: What an optocoupler holds off between its two sides, V.
_HOLDS = re.compile(r"\bholds(?: off)? (\d{3,5}) ?V(?:ac)?\b", re.I)
#: The words that begin such a line.
FIRST = ("resistor", "zener", "optocoupler", "transistor")


def read_by_limits(text: str, common: Mapping[str, Any]) -> LimitPart:
    """A part of such a kind from its line without name, price and stock.

    Args:
        text: the line, which begins with one of FIRST.
        common: name, series, price and stock, as far as they were typed.

    Returns:
        The part; without a name it is called by what it is.

    Raises:
        BadInput: a limit is missing.

    >>> read_by_limits('resistor 2R2 1W 5% fusible', {}).part, read_by_limits('transistor npn 80V 4A 36W hfe 40', {}).gain
    ('FUSIBLE-2.2R-1W', 40.0)
    """
    held = _HOLDS.search(text)
    old = read_device(f"AA1 {_HOLDS.sub(' ', text)}")
    try:
        return {"resistor": _resistor, "zener": _zener, "optocoupler": _optocoupler, "transistor": _transistor}[
            old.what
        ](old, dict(common), float(held[1]) if held else 0.0)
    except BadInput as error:
        raise BadInput(text, error.expected, f"Such as {EXAMPLES[old.what]}.", field="line") from None


EXAMPLES = {
    "resistor": "resistor 2R2 1W 5% fusible", "zener": "zener 5.1V 0.5W", "optocoupler": "optocoupler ctr 80-160% 35V holds 5000V",
    "transistor": "transistor npn 80V 4A 36W hfe 40",
}  # fmt: skip


def _resistor(old: Device, common: dict[str, Any], holds_off: float) -> Resistor:
    need = resistor_need(old)
    kind = FUSIBLE if need.fusible else WIREWOUND if need.wirewound else FILM
    made = f"{kind.upper()}-{need.ohms:g}R-{need.watts:g}W"
    facts = {"part": made, "series": "", **common}
    return Resistor(**facts, kind=kind, ohms=need.ohms, tolerance=need.tolerance, watts=need.watts, volts=need.volts)


def _zener(old: Device, common: dict[str, Any], holds_off: float) -> Zener:
    need = zener_need(old)
    facts = {"part": f"ZENER-{need.volts:g}V-{need.watts:g}W", "series": "", **common}
    return Zener(**facts, volts=need.volts, tolerance=need.tolerance, watts=need.watts)


def _optocoupler(old: Device, common: dict[str, Any], holds_off: float) -> Optocoupler:
    need = optocoupler_need(old, mains=False)
    facts = {"part": f"OPTO-{need.ctr_low * 100:g}-{need.ctr_high * 100:g}", "series": "", **common}
    return Optocoupler(**facts, ctr_low=need.ctr_low, ctr_high=need.ctr_high, volts=need.volts, holds_off=holds_off)


def _transistor(old: Device, common: dict[str, Any], holds_off: float) -> Transistor:
    need = transistor_need(old)
    if not need.watts:
        raise BadInput(old.ref, "its watts", field="watts")
    facts = {"part": f"{need.type.upper()}-{need.volts:g}V-{need.current:g}A", "series": "", **common}
    return Transistor(**facts, type=need.type, volts=need.volts, current=need.current, watts=need.watts, gain=need.gain)

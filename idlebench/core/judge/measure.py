"""Measuring a board's parts one after the other: in which order, what must be safe first, what of a reading is kept.

Source: workshop practice, because a meter dies on what a store still holds.
"""

from __future__ import annotations

import math
import re
from collections.abc import Collection, Iterable, Sequence

from ..board.parts import OPEN_ESR, Fitted
from ..board.roles import is_mains_place
from ..circuit.discharge import SAFE_FOR_METER
from ..refusal import BadInput, Block
from ..text.quantity import read, show

#: From this energy on (J), and where the volts are high (V) from a smaller one, the volts left on a part are read and logged
#: before the meter touches it.
ASKED_ENERGY, HIGH_VOLTS, ASKED_AT_HIGH = 0.05, 60.0, 1e-3
#: Peak of the highest local mains (240 V) 10 % up, V: what a part on the mains may hold.
MAINS_PEAK = 375.0


def most_volts(part: Fitted) -> float:
    """The most volts that may be left on a part: what it sees at worst, else what is marked, else the mains for its class."""
    if is_mains_place(part.role, part.safety):
        # its marked volts are AC, or none: it holds the peak, with the mains 10 % up
        return MAINS_PEAK
    return part.rail_volts or part.volts or 0.0


def stored(part: Fitted) -> float:
    """The most energy a part can hold, ½CV², J.

    >>> round(stored(Fitted(ref='C7', value=220e-6, volts=400.0, rail_volts=325.0)), 1)
    11.6
    """
    return 0.5 * part.value * most_volts(part) ** 2


def must_be_read_empty(part: Fitted) -> bool:
    """Whether a part holds enough to hurt a person or a meter."""
    asked = ASKED_AT_HIGH if most_volts(part) >= HIGH_VOLTS else ASKED_ENERGY
    return stored(part) >= asked


def shut_before_meter(part: Fitted, left: float | None) -> Block | None:
    """Why a meter may not touch a part yet, or None.

    Args:
        part: the part.
        left: volts read across it, None when nobody read them.

    Returns:
        The reason; None where it may.
    """
    if left is None:
        if not must_be_read_empty(part):
            return None
        return Block(
            "charged",
            f"{part.ref} can hold {show(stored(part), 'J')}.",
            f"Read the volts left across it and type them: under {show(SAFE_FOR_METER, 'V')} the meter may go on.",
        )
    if abs(left) < SAFE_FOR_METER:
        return None
    return Block(
        "charged",
        f"{show(left, 'V')} is left on {part.ref}, under {show(SAFE_FOR_METER, 'V')} is wanted.",
        "Discharge it through a resistor, then read again.",
    )


def with_reading(part: Fitted, capacitance: float, esr: float, frequency: float, in_circuit: bool) -> Fitted:
    """A part with what a meter read of it. In circuit its neighbours stand in parallel: the capacitance is not its own.

    >>> p = with_reading(Fitted(ref='C1', value=1e-4, volts=16.0), 3.3e-4, 0.4, 120.0, True)
    >>> p.capacitance, p.esr, p.in_circuit
    (None, 0.4, True)
    """
    changes: dict[str, object] = {"esr": esr, "esr_frequency": frequency, "in_circuit": in_circuit}
    if not in_circuit:
        changes["capacitance"] = capacitance
    return part.with_(**changes)


def read_typed_reading(text: str) -> tuple[float | None, float | None]:
    """ESR (Ω) and capacitance (F) as typed in a run: either, or both in any order. A value with p, n or µ is a capacitance; OL is an open
    part.

    Args:
        text: as it was typed.

    Returns:
        Ω and F, None for what was not typed.

    Raises:
        BadInput: neither, or one of them twice.

    >>> read_typed_reading('6.8'), read_typed_reading('98n'), read_typed_reading('71u 6.8')
    ((6.8, None), (None, 9.8e-08), (6.8, 7.1e-05))
    """
    esr = value = None
    words = text.split()
    for word in words:
        if word.upper() in ("OL", "O.L", "OPEN"):
            if esr is not None:
                break
            esr = OPEN_ESR
        elif re.search(r"\d[pnuµμ]|^[pnuµμ]\d|F$", word):
            if value is not None:
                break
            value = read(word, "F", field="reading", above=0, high=10)
        else:
            if esr is not None:
                break
            esr = read(word, "Ω", field="reading", low=0, high=50e6)
    else:
        if words:
            return esr, value
    raise BadInput(text, "ESR, capacitance or both: 6.8, 71u, or 6.8 71u", field="reading")


def read_with(part: Fitted, frequency: float) -> Fitted:
    """A part with its ESR at the meter's frequency (Hz), where the part names none.

    >>> read_with(Fitted(ref='C1', value=1e-4, volts=16.0, esr=0.4), 100e3).esr_frequency
    100000.0
    """
    return part.with_(esr_frequency=frequency) if part.esr is not None and part.esr_frequency is None else part


def in_walking_order(points: Iterable[tuple[str, float | None, float | None]]) -> tuple[str, ...]:
    """References in the order in which two leads go over a board: from its upper left corner always to the nearest that is left; those
    without a place last, as they are listed.

    Args:
        points: reference and place of each, mm; None where it has none.

    Returns:
        References, each once.

    >>> in_walking_order([('C1', 90.0, 10.0), ('R2', 12.0, 11.0), ('C3', None, None), ('D4', 60.0, 12.0)])
    ('R2', 'D4', 'C1', 'C3')
    """
    points = list(points)
    left = {ref: (x, y) for ref, x, y in points if x is not None and y is not None}
    order, (x, y) = [], (0.0, 0.0)
    while left:
        ref = min(left, key=lambda one: (math.hypot(left[one][0] - x, left[one][1] - y), one))
        x, y = left.pop(ref)
        order.append(ref)
    return (*order, *(ref for ref, *place in points if None in place))


def next_unread(order: Sequence[str], read: Collection[str], after: str = "") -> str:
    """The next place without a reading, from the one after the one named, round to the first; "" where all have one.

    >>> next_unread(('C1', 'R2', 'C3'), {'C1'}), next_unread(('C1', 'R2', 'C3'), {'C1'}, 'C3')
    ('R2', 'R2')
    """
    at = order.index(after) + 1 if after in order else 0
    return next((ref for ref in (*order[at:], *order[:at]) if ref not in read and ref != after), "")

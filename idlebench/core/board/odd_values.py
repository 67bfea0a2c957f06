"""Values that no part of a kind is made in, or hardly: they are asked about before they are kept.

Source: IEC 60063:2015, table 1, for the E series; the largest of each kind: workshop practice, because it is what makers list; the
decade values of before 1970 (8, 16, 25, 32, 40, 50, 64, 80 µF), because cans of that time bear them.
"""

from __future__ import annotations

import math

import eseries

from ..text.quantity import show
from ..wording import on_screen
from .parts import Fitted

#: The most that a kind is made in, F.
MOST = {"film": 100e-6, "paper": 100e-6, "ceramic": 100e-6, "tantalum": 1000e-6, "wet": 1.0, "polymer": 10e-3}
#: Values of old cans, in no E series.
OLD = (8.0, 16.0, 25.0, 32.0, 40.0, 50.0, 64.0, 80.0)
#: How far from a made value is far, as a share.
FAR = 0.03
#: A listed value over this was once typed without its unit, as often as not, F.
BARE = 0.01


def odd_value(value: float, kind: str) -> str:
    """Why a value is asked about, "" where parts of that kind are made so.

    >>> odd_value(220e-6, 'film')
    '220 µF is more than any film part is made for (100 µF)'
    >>> odd_value(137e-6, 'wet')
    '137 µF is not a standard value; the nearest are 130 µF and 150 µF'
    >>> odd_value(100e-6, 'wet'), odd_value(32e-6, 'wet'), odd_value(0.1, 'wet')
    ('', '', '')
    """
    most = MOST.get(kind, 10.0)
    if value > most * (1 + 1e-9):
        return f"{show(value, 'F')} is more than any {on_screen(kind)} part is made for ({show(most, 'F')})"
    below, above = (
        find(eseries.E24, value) for find in (eseries.find_less_than_or_equal, eseries.find_greater_than_or_equal)
    )
    if any(abs(value / made - 1) <= FAR for made in (below, above)) or _of_old(value):
        return ""
    return f"{show(value, 'F')} is not a standard value; the nearest are {show(below, 'F')} and {show(above, 'F')}"


def _of_old(value: float) -> bool:
    digits = value / 10 ** math.floor(math.log10(value))
    return any(math.isclose(digits, one if one < 10 else one / 10, rel_tol=1e-6) for one in OLD)


def doubt_of(part: Fitted) -> str:
    """What is asked about the value of a listed part, "" for nothing: a bare decimal was once kept in farads.

    >>> doubt_of(Fitted(ref='C22', value=0.1, kind='film'))
    'C22 is listed as 0.1 F. A bare 0.1 was once read in farads: is it 0.1 µF?'
    """
    if BARE < part.value < 1 and (part.kind != "wet" or not part.volts or part.volts > 6.3):
        number = f"{part.value:.4g}"
        return f"{part.ref} is listed as {number} F. A bare {number} was once read in farads: is it {number} µF?"
    odd = odd_value(part.value, part.kind)
    return f"{part.ref}: {odd}. Is it right?" if odd else ""

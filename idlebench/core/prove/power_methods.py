"""How a machine is given power: the methods, their lamps and what they hold.

Source: mains of ±10 %: IEC 60038:2009, table 1;
lamps, shares and holds: workshop practice, because a fault should show before it does harm.
"""

from __future__ import annotations

from collections.abc import Iterable

from ..text.rails_and_chips import Rail
from .checks import BoardFacts

#: Lamps that can be bought, W.
LAMPS = (15, 25, 40, 60, 100, 150, 200)


#: How long full mains is held, minutes.
HOLD = 5


#: A rail under this share of its volts did not come up.
DEAD_SHARE = 0.1


#: How far the mains may stray from nominal before a supply is put on it, and the key of their reading.
MAINS_STRAY, MAINS_KEY = 0.10, "cold.mains"


#: What a check is of, in words.
Of = tuple[tuple[str, str], ...]


WAYS = {
    "lamp": "lamp limiter",
    "variable": "variable transformer",
    "limited": "bench supply with a limit for boards, lamp for supplies",
    "straight": "straight on, loads attached",
    "low": "low voltage: source alone, then with a current limit",
}


#: Steps of a variable transformer, and the share of the mains at each: the first only to look and listen.
RISING = {"limited": 0.15, "third": 0.30, "half": 0.60, "most": 0.90}


#: A limiter lamp's watts as a multiple of what is drawn behind it, by the kind of supply: a constant power pulls a lamp down.
LAMP_TIMES = {"linear": 2.0, "switching": 4.0}


#: What comes out of a supply's rails as a share of what it draws, by its kind: a linear regulator burns about as much as it gives.
EFFICIENCY = {"linear": 0.5, "switching": 0.7}


#: What a mains transformer of 45 VA draws without any load, A at 230 V: 15 to 40 mA, and by the root of its size. It does not heat, and
#: the lamp sees it all the same. Workshop practice, because labels do not say it: the no-load currents of small mains transformers.
MAGNETISING, MAGNETISED = 25e-3, 45.0


def lamp_watts(rails: Iterable[Rail], supply: str = "linear", va: float = 0.0) -> int:
    """The limiter lamp for a supply on its dummy loads, W: the next size that can be bought, the largest where none is enough.

    Args:
        rails: the rails.
        supply: the supply.
        va: of its mains transformer, 0 where there is none or its size is not known.

    Returns:
        W.

    >>> from idlebench.core.text.rails_and_chips import read_rail
    >>> rails = [read_rail('+5 V 3 A'), read_rail('+12 V 0.5 A')]
    >>> lamp_watts(rails), lamp_watts(rails, va=45), lamp_watts(rails, 'switching')
    (25, 25, 25)
    """
    draw = sum(abs(r.nominal) * r.dummy_current for r in rails) / EFFICIENCY.get(supply, EFFICIENCY["switching"])
    idle = 230.0 * MAGNETISING * (va / MAGNETISED) ** 0.5
    # the magnetising current is a quarter turn behind
    seen = (draw**2 + idle**2) ** 0.5
    return next((lamp for lamp in LAMPS if lamp >= LAMP_TIMES.get(supply, 4.0) * seen * 0.999), LAMPS[-1])


def transformer_va(board: BoardFacts) -> float:
    """VA of all windings of a linear supply's transformer by their labels, 0 where none says it."""
    return sum(w.va for w in board.sources) if board.supply == "linear" else 0.0

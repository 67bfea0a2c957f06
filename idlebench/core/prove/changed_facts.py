"""What went in that is no capacitor: its facts, for the checks that follow.

Source: the pinouts of circuit.packages; the rest: workshop practice, because each of these was once put in wrong.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from ..refusal import BadInput
from ..text.quantity import read, show

#: Least resistance from an insulated tab to its heatsink before the legs are soldered, Ω. Workshop practice, because a washer in order
#: reads OL on a multimeter, and a pierced or dirty one some kilohms.
TAB = 1e6


#: How a reading past the end of a meter's range is kept.
OVER = "OL"


@dataclass(frozen=True, kw_only=True)
class Changed:
    """A part that is no capacitor, and was changed.

    row: of its swap. ref, what: the place, a key of devices.TITLES or "chip". item: what is in. tab: of a regulator, what its tab is
    joined to, "" for none. package: a key of PACKAGES, "" where it is not known. tab_read: Ω from its tab to the heatsink before
    the legs were soldered, None where nobody read it. module: whether a switching module stands in its place. charged: whether a
    cell may be charged. may_charge: whether its place might. blocks: whether a diode in its lead keeps it from it. pins: in order.
    """

    row: str
    ref: str
    what: str
    item: str
    tab: str = ""
    module: bool = False
    charged: bool = True
    may_charge: bool = True
    blocks: bool = False
    pins: tuple[str, ...] = ()
    package: str = ""
    tab_read: float | None = None


@dataclass(frozen=True, kw_only=True)
class Mended:
    """A mend with two ends. row: of it. a, b: its ends in words. title: all of it. before: Ω, None where not read. most: Ω that it may
    have, None for the usual; least: Ω where the ends must not meet, None where they are joined."""

    row: str
    a: str
    b: str
    title: str
    before: float | None = None
    most: float | None = None
    least: float | None = None


@dataclass(frozen=True, kw_only=True)
class Modified:
    """A modification as its check asks for it. row: of it. title: in a few words. wire: whether it has wires of its own."""

    row: str
    title: str
    wire: bool = False


def facts_of(what: str, part: object) -> dict[str, object]:
    """What the checks of a changed part rest on, from the catalogue part that is put in; kept with the swap."""
    if what == "regulator":
        return {"tab": part.tab, "module": part.type == "module", "pins": list(part.pins), "package": part.package}
    if what == "battery":
        return {"charged": part.may_be_charged, "blocks": part.diode > 0}
    return {}


def _number(value: object) -> float | None:
    """A kept reading; OL is kept as a word, for JSON has no infinity."""
    if value == OVER:
        return math.inf
    return float(value) if isinstance(value, int | float) and not isinstance(value, bool) else None


def insulated(what: str, tab: str, supply: str) -> bool:
    """Whether a new part's tab is insulated from its heatsink, as far as anybody can say: a regulator's that is not ground, and any
    transistor of a switching supply, whose tab is live.

    Args:
        what: a key of devices.TITLES.
        tab: what the tab is joined to.
        supply: of its board, "linear", "switching" or "".

    Returns:
        Whether it is; where nobody can say, not.
    """
    return tab not in ("", "ground") if what == "regulator" else what == "transistor" and supply == "switching"


def tab_reading(text: str) -> float | str | None:
    """What was read from an insulated tab to its heatsink before the legs were soldered, as it is kept; None where nothing was typed.

    Args:
        text: as it was typed.

    Returns:
        Ω, the word for endless, or None where nothing was read.

    Raises:
        BadInput: not ohms, or under 1 MΩ: the washer is pierced, or dirty.

    >>> tab_reading('OL'), tab_reading('20M'), tab_reading('')
    ('OL', 20000000.0, None)
    """
    if not text.strip():
        return None
    if text.strip().upper() in ("OL", "O.L", "INF", "∞"):
        return OVER
    ohms = read(text, "Ω", field="tab", low=0, high=1e12)
    if ohms < TAB:
        raise BadInput(
            show(ohms, "Ω"),
            f"at least {show(TAB, 'Ω')} from the tab to the heatsink",
            "The washer is pierced or dirty: fit a new washer and read again before the legs are soldered.",
            field="tab",
        )
    return ohms


def changed_from(
    row: str, ref: str, what: str, item: str, facts: Mapping[str, object], may_charge: bool = True
) -> Changed:
    """A changed part from what was kept of it; what is missing is taken as the stricter.

    Args:
        row: the row, where there is one.
        ref: its reference.
        what: what it is.
        item: what goes in.
        facts: what is known of it, by name.
        may_charge: whether the place of a cell might charge it, as its line says now.

    Returns:
        The part that went in.
    """
    pins = facts.get("pins")
    return Changed(
        row=row,
        ref=ref,
        what=what,
        item=item,
        tab=str(facts.get("tab", "")),
        module=bool(facts.get("module")),
        charged=bool(facts.get("charged", what != "battery")),
        may_charge=may_charge,
        blocks=bool(facts.get("blocks", False)),
        pins=tuple(map(str, pins)) if isinstance(pins, list) else (),
        package=str(facts.get("package", "")),
        tab_read=_number(facts.get("tab_read")),
    )

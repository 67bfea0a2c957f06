"""A line of the supply that begins with DC: what it draws of its source, and what its places are told.

Source: Erickson and Maksimović, Fundamentals of Power Electronics (2001), appendix A, for the rms of a chopped current.
"""

from __future__ import annotations

import math
from collections.abc import Mapping

from ..board.parts import Fitted
from ..circuit import converter
from ..circuit.supply import Settled
from ..circuit.supply_lines import Branch
from ..text.quantity import show
from .supply_figures import Figure, PlaceFacts


def source_figures(branch: Branch, old: Settled, new: Settled, low: Settled, was_low: Settled) -> list[Figure]:
    """The volts that are left of a DC source under its load, and the amps drawn of it against its label.

    Args:
        branch: a line with a DC source.
        old: as it was.
        new: with what is chosen.
        low: with what is chosen, on the least that the source gives.
        was_low: as it was, on the least that the source gives.

    Returns:
        The figures of the source.
    """
    source = branch.direct
    assert source is not None
    most = source.current or None
    return [
        Figure(
            name=f"Volts left of the {source.title}" if source.kind != "rail" else f"Volts left of {source.title}",
            unit="V",
            before=was_low.v_min,
            after=low.v_min,
            source="volts without load − I · R" + (", at −10 % mains" if source.strays else ""),
        ),
        Figure(
            name=f"Drawn from {'the ' if source.kind != 'rail' else ''}{source.title}",
            unit="A",
            before=old.source_rms,
            after=new.source_rms,
            limit=most,
            at_least=False,
            say=f"A source of {show(new.source_rms * 1.2, 'A', 2)} or more, or a lighter load.",
            source="what the line feeds" + ("; limit from its label" if most else ""),
        ),
    ]


def direct_places(branch: Branch, parts: Mapping[str, Fitted], peak: float, nominal: Settled) -> dict[str, PlaceFacts]:
    """What the capacitors at a DC source are told: its volts without load, and the ripple that a converter behind them draws.

    Args:
        branch: a line with a DC source.
        parts: the board's parts by reference.
        peak: the most volts of the source, V.
        nominal: the line on its load.

    Returns:
        By reference; a linear regulator draws no ripple.
    """
    fed = branch.converter
    duty = fed.rails[0].duty if fed and fed.rails else 0.0
    whole = nominal.source_rms * math.sqrt((1 - duty) / duty) if duty else 0.0
    frequency = fed.frequency if fed else nominal.supply.rate
    groups = branch.in_groups
    shares = converter.shares([1 / sum(1 / parts[ref].value for ref in group) for group in groups]) if groups else ()
    ripple = (
        f"{show(whole, 'A')} ripple at {show(frequency, 'Hz')}: the converter draws its current in pulses"
        if whole
        else "no charging ripple: its source is DC"
    )
    return {
        ref: PlaceFacts(
            volts=peak,
            ripple=whole * share,
            frequency=frequency,
            said=(f"{show(peak, 'V')} from its source without load", ripple),
            rail=branch.regulator.rail if branch.regulator else "",
        )
        for group, share in zip(groups, shares, strict=True)
        for ref in group
    }

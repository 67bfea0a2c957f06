"""Two parts where no single one fits and that is sound: in parallel on the same rail, or in series for the volts.

Source: worked here from Kirchhoff. Parallel parts share value and ripple; series parts share volts, held even by resistors across them.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from ..circuit.discharge import DANGEROUS
from ..text.quantity import show
from .need import Need
from .rank import Candidate, rank
from .rules import Columns

#: Roles in which parts may stand side by side: rails and stores, where only value and ripple count.
PARALLEL = ("bulk", "converter_output", "startup", "regulator_output", "decoupling", "memory_backup")
#: Roles in which two may stand in series for the volts, and from which volts on that is done.
SERIES = ("bulk", "boost", "tube_supply")
SERIES_FROM = 160.0
#: Current of the balancing resistors as a multiple of the leakage allowed: 0.01·C·V µA each.
BALANCE = 5.0


@dataclass(frozen=True, kw_only=True)
class Pair:
    """Two of a part in one place.

    how: parallel or series. candidate: one of the two, judged for its half. reasons: what to know, in words.
    resistor: Ω across each of a series pair, 0 for none; watts: what each resistor burns.
    """

    how: str
    candidate: Candidate
    reasons: tuple[str, ...]
    resistor: float = 0.0
    watts: float = 0.0


def pairs(need: Need, columns: Columns) -> tuple[Pair, ...]:
    """The best pairs for a place where nothing single goes in; none where a pair is not sound."""
    if need.role.safety or not need.role.relaxable or need.bipolar:
        return ()
    return tuple(pair for pair in (_parallel(need, columns), _series(need, columns)) if pair is not None)


def _parallel(need: Need, columns: Columns) -> Pair | None:
    if need.role.name not in PARALLEL:
        return None
    wide = need.diameter / 2 if need.diameter is not None else None
    half = replace(
        need,
        old=need.old.with_(value=need.old.value / 2),
        value_low=need.value_low / 2,
        value_high=need.value_high / 2,
        ripple=need.ripple / 2,
        esr_low=None if need.esr_low is None else 2 * need.esr_low,
        esr_high=None if need.esr_high is None else 2 * need.esr_high,
        diameter=wide,
        pitch=None,
    )
    best = rank(half, columns, fits=1, refused=0).best
    if best is None:
        return None
    part = best.part
    return Pair(
        how="parallel",
        candidate=best,
        reasons=(
            f"Two of {show(part.value, 'F')} in parallel give {show(2 * part.value, 'F')} and share the ripple",
            f"Each {part.diameter:g} mm wide, both in the room of one; the second on short leads to the same pads",
            "Use two of the same batch, so that they share evenly",
        ),
    )


def _series(need: Need, columns: Columns) -> Pair | None:
    if need.role.name not in SERIES or need.volts < SERIES_FROM:
        return None
    half = replace(
        need,
        old=need.old.with_(value=need.old.value * 2, volts=need.volts / 2, rail_volts=None),
        value_low=need.value_low * 2,
        value_high=need.value_high * 2,
        volts=need.volts / 2,
        place_volts=need.place_volts / 2,
        diameter=need.diameter / 2 if need.diameter is not None else None,
        pitch=None,
    )
    best = rank(half, columns, fits=1, refused=0).best
    if best is None:
        return None
    part = best.part
    leak = BALANCE * 0.01e-6 * part.value * 1e6 * part.volts
    across = need.volts / 2
    resistor = across / leak
    watts = across**2 / resistor
    return Pair(
        how="series",
        candidate=best,
        reasons=(
            f"Two of {show(part.value, 'F')} {part.volts:g} V in series give {show(part.value / 2, 'F')} at {2 * part.volts:g} V",
            f"A resistor of {show(resistor, 'Ω')} across each keeps the volts equal ({show(watts, 'W')} each)",
            f"The middle joint is live at {show(across, 'V')}: insulate it"
            + (", it can kill" if across > DANGEROUS else ""),
        ),
        resistor=resistor,
        watts=watts,
    )

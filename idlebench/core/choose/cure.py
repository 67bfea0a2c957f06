"""What parts would bring a rail's ripple within its limit: the stores of a rail looked at together, for each alone may not do.

Source: worked here from the ripple of the converter's output (core.circuit.converter) and Kirchhoff: stores in parallel.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import product

from ..board.parts import Capacitor, Fitted
from ..circuit.rail_lines import RailOut
from ..circuit.supply_lines import ConverterIn
from .branch_circuit import most_esr, new_store, old_store, rail_limit, rail_ripple, together

#: Most ways of parts that differ that are tried where no single kind does it: however many stores a rail has, it is done at once.
MIXED = 1500


@dataclass(frozen=True, kw_only=True)
class Cure:
    """What a rail with too much ripple needs.

    places: the stores of the rail whose parts can still be chosen. most: Ω of all its stores together that keep it within its
    limit; not above zero where no ESR does. takes: a part for each place, empty where nothing on the shelf does it; then `nearest`
    is what comes nearest. esr, ripple: Ω together and V with those. standing: stores that are soldered in already and stay.
    """

    rail: str
    places: tuple[str, ...]
    most: float
    limit: float
    takes: Mapping[str, Capacitor]
    nearest: Mapping[str, Capacitor]
    esr: float
    ripple: float
    standing: tuple[str, ...]


def cure(
    fed: ConverterIn,
    rail: RailOut,
    parts: Mapping[str, Fitted],
    standing: Mapping[str, Capacitor],
    options: Mapping[str, Sequence[Capacitor]],
) -> Cure | None:
    """The parts that bring a rail's ripple within its limit, the best ranked first; None where no place of it is open.

    Args:
        fed: what feeds it.
        rail: the rail.
        parts: the board's old parts by reference.
        standing: what is in some of the rail's places and stays.
        options: for each place that is open what goes in, the best first.

    Returns:
        The parts by reference and the ripple left; None where no place of it is open.
    """
    places = tuple(ref for ref in rail.stores if options.get(ref))
    if not places:
        return None
    rest = [
        new_store(standing[ref]) if ref in standing else old_store(parts[ref])
        for ref in rail.stores
        if ref not in places
    ]
    limit = rail_limit(rail)
    behind = [new_store(standing[ref]) if ref in standing else old_store(parts[ref]) for ref in rail.after]
    after = together(behind) if behind else None

    def looked_at(chosen: Sequence[Capacitor]) -> tuple[float, float, float]:
        whole = together([*rest, *map(new_store, chosen)])
        return rail_ripple(fed, rail, whole, after), whole.esr_high, whole.value

    best = nearest = None
    for chosen in _ways(places, options):
        ripple, esr, value = looked_at(chosen)
        if nearest is None or ripple < nearest[0]:
            nearest = ripple, esr, value, chosen
        if ripple <= limit:
            best = ripple, esr, value, chosen
            break
    ripple, esr, value, chosen = best or nearest
    found = dict(zip(places, chosen, strict=True))
    stays = tuple(ref for ref in rail.stores if ref in standing and ref not in places)
    return Cure(
        rail=rail.name,
        places=places,
        most=most_esr(fed, rail, value, limit, after),
        limit=limit,
        takes=found if best else {},
        nearest=found,
        esr=esr,
        ripple=ripple,
        standing=stays,
    )


def _ways(places: Sequence[str], options: Mapping[str, Sequence[Capacitor]]) -> Sequence[Sequence[Capacitor]]:
    """Ways to fill places: the same part in each first, as the best-ranked go in, then parts that differ."""
    at = {ref: {part.part: i for i, part in enumerate(options[ref])} for ref in places}
    alike = [part for part in options[places[0]] if all(part.part in at[ref] for ref in places)]
    same = sorted(alike, key=lambda part: sum(at[ref][part.part] for ref in places))
    most = max(1, int(MIXED ** (1 / len(places))))
    few = [options[ref][:most] for ref in places]
    mixed = sorted(product(*few), key=lambda way: sum(at[ref][one.part] for ref, one in zip(places, way, strict=True)))
    return [[part] * len(places) for part in same] + [list(way) for way in mixed]

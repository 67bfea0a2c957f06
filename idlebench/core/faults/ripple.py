"""Which kept part to suspect first when a rail ripples."""

from __future__ import annotations

from collections.abc import Iterable

from ..board.parts import Fitted
from ..judge import ageing
from ..text.rails_and_chips import rail_volts


def ripple_suspects(parts: Iterable[Fitted], rail: str, kept: frozenset[str]) -> tuple[str, ...]:
    """Kept wet parts on a rail, the first to suspect when it ripples: worst new-part ESR share first."""

    def share(part: Fitted) -> float:
        if part.esr is None or not part.volts:
            return 0.0
        return part.esr / ageing.new_esr(part.value, part.volts, part.esr_frequency or 120.0)

    wanted = rail_volts(rail)
    on_rail = [
        p for p in parts if p.ref in kept and p.kind == "wet" and wanted is not None and rail_volts(p.rail) == wanted
    ]
    return tuple(p.ref for p in sorted(on_rail, key=lambda p: -share(p)))

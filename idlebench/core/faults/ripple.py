"""Which kept part to suspect first when a rail ripples."""

from __future__ import annotations

import re
from collections.abc import Iterable

from ..board.parts import Fitted
from ..judge import ageing


def ripple_suspects(parts: Iterable[Fitted], rail: str, kept: frozenset[str]) -> tuple[str, ...]:
    """Kept wet parts on a rail, the first to suspect when it ripples: worst new-part ESR share first."""

    def share(part: Fitted) -> float:
        if part.esr is None or not part.volts:
            return 0.0
        return part.esr / ageing.new_esr(part.value, part.volts, part.esr_frequency or 120.0)

    wanted = re.sub(r"[^0-9+−.]", "", rail.replace("-", "−"))
    on_rail = [
        p
        for p in parts
        if p.ref in kept and p.kind == "wet" and re.sub(r"[^0-9+−.]", "", p.rail.replace("-", "−")) == wanted and wanted
    ]
    return tuple(p.ref for p in sorted(on_rail, key=lambda p: -share(p)))

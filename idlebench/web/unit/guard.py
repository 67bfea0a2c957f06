"""What may not be moved between units: nothing while one of them has power or is handed over."""

from __future__ import annotations

from idlebench.core.refusal import GateShut, Shut

from ..records.models import Unit


def refuse_busy(title: str, *units: Unit) -> None:
    """Refuse to move something while a unit has power or is handed over.

    Raises:
        GateShut: with a reason for each unit.
    """
    reasons = []
    for unit in units:
        if unit.sessions.filter(ended=None).exists():
            reasons.append(Shut("live", f"Unit {unit.name} has power.", "Make idle first."))
        if unit.handed_over:
            reasons.append(Shut("closed", f"Unit {unit.name} is handed over."))
    if reasons:
        raise GateShut(title, tuple(reasons))

"""Labels for units and boards, so that each goes back to its own case."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from django.urls import reverse

from idlebench.core.wording import many

from ..records.models import Job
from ..ui.codes import code_for
from ..unit.state import UnitState


@dataclass(frozen=True, kw_only=True)
class Label:
    """One label: what stands on it, the address its code opens, and the code as SVG."""

    title: str
    unit: str
    words: tuple[str, ...]
    address: str
    code: str


def labels(job: Job, states: Iterable[UnitState], address: str) -> list[Label]:
    """A label for each unit, then for its boards.

    Args:
        address: how this program is reached, such as http://192.168.1.20:8000.
    """
    found = []
    for state in states:
        unit = f"unit {state.row.name}"
        whose = tuple(filter(None, [f"job {job.number} · {job.machine}", job.owner]))
        to = address + reverse("unit", args=[state.row.pk])
        serial = state.row.serial or "no serial number"
        found.append(
            Label(title=f"Unit {state.row.name}", unit="", words=(*whose, serial), address=to, code=code_for(to))
        )
        for board in state.boards:
            to = address + reverse("open_board", args=[board.row.pk])
            size = f"{board.row.width:g} × {board.row.height:g} mm, {many(board.counted, 'part')}"
            found.append(
                Label(
                    title=board.row.name,
                    unit=unit,
                    words=(*whose[:1], board.row.title, size),
                    address=to,
                    code=code_for(to),
                )
            )
    return found

"""What is left of a procedure as tasks of the calendar."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from ..plan.schedule import Task
from .procedures import Procedure


def tasks_of(
    procedure: Procedure, unit: str, called: str, settled: Iterable[int], waits: Mapping[int, int]
) -> list[tuple[Task, str]]:
    """What is left of a procedure as tasks, each with its title.

    Args:
        procedure: the procedure.
        unit: its unit.
        called: how its tasks are named.
        settled: numbers of steps that are done or skipped.
        waits: minutes that the waits of settled steps still run.

    Returns:
        Tasks with their titles, in order.
    """
    done = set(settled)
    found = []
    for number, step in enumerate(procedure.steps, 1):
        if number in done:
            continue
        after = tuple(f"{unit} {called}.{n}" for n in step.after if n not in done)
        begins = max((waits.get(n, 0) for n in step.after), default=0)
        found.append(
            (
                Task(
                    name=f"{unit} {called}.{number}",
                    unit=unit,
                    hands=step.minutes,
                    wait=step.wait,
                    after=after,
                    occupies=(step.occupies,) if step.occupies else (),
                    not_before=begins,
                ),
                f"{procedure.title}: {step.text}"[:120],
            )
        )
    return found

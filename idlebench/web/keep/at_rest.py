"""Nothing leaves the bench, and nothing takes its place, while something on it has power."""

from __future__ import annotations

from idlebench.core.refusal import Block, Blocked

from ..records.models import Job, PowerSession, ReformRun


def must_be_at_rest(title: str, job: Job | None = None) -> None:
    """Ask that no unit of a job, or of the whole bench, has power or is being reformed. Plain columns: older tables have them too.

    Raises:
        Blocked: one has; elsewhere nobody would know of it.
    """
    sessions, runs = PowerSession.objects.filter(ended=None), ReformRun.objects.filter(discharged=None)
    if job is not None:
        sessions, runs = sessions.filter(unit__job=job), runs.filter(part__board__unit__job=job)
    told = [f"Unit {name} has power." for name in sessions.values_list("unit__name", flat=True)]
    told += [
        f"{ref} on {board} is being reformed." for ref, board in runs.values_list("part__ref", "part__board__name")
    ]
    if told:
        raise Blocked(title, tuple(Block("live", text, "Make it idle first.") for text in told))

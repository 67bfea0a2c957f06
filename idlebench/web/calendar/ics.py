"""The calendar as iCalendar, for a calendar program (RFC 5545)."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime, timedelta

from icalendar import Calendar, Event

from ..records.models import CalendarPlan, Unit
from .services import at


def as_ics(plan: CalendarPlan | None, looks: Iterable[Unit] = (), now: datetime | None = None) -> bytes:
    """An event for each stretch of a task, which ends when hands stop; a day for what comes on a day.

    The same stretch keeps its identity from plan to plan, so that it moves and is not doubled.

    Args:
        plan: None where nothing is planned. looks: units with a day on which they are looked at again. now: when this is written.
    """
    calendar = Calendar()
    calendar.add("prodid", "-//Idle Bench//Calendar//EN")
    calendar.add("version", "2.0")
    for task in plan.kept.tasks if plan else []:
        name = task.task.replace(" ", "-").replace("/", "-")
        for n, (begin, end) in enumerate(task.goes, 1):
            event = Event()
            # the first keeps the name that it had when a task was one event
            event.add("uid", f"{name}{f'-{n}' if n > 1 else ''}@idlebench")
            of = f" ({n} of {len(task.goes)})" if len(task.goes) > 1 else ""
            event.add("summary", f"{task.title}: {task.unit}{of}")
            event.add("dtstamp", plan.at)
            starts = at(plan.begins, begin)
            event.add("dtstart", starts if task.hands else starts.date())
            event.add("dtend", at(plan.begins, end) if task.hands else starts.date() + timedelta(days=1))
            if task.wait and n == len(task.goes):
                over = at(plan.begins, task.end + task.wait)
                until = f"{over:%a %d %b}" if task.by_day else f"{over:%a %d %b, %H:%M}"
                event.add("description", f"Then waits until {until}.")
            calendar.add_component(event)
    for unit in looks:
        event = Event()
        event.add("uid", f"next-look-{unit.pk}@idlebench")
        event.add("summary", f"Look at {unit.job.machine}, unit {unit.name}, again")
        event.add("dtstamp", now or unit.handed_over)
        event.add("dtstart", unit.next_look)
        event.add("dtend", unit.next_look + timedelta(days=1))
        event.add("description", f"Because of {unit.next_look_of}. At {unit.hours_a_day:g} h a day.")
        calendar.add_component(event)
    return calendar.to_ical()

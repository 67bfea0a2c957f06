"""The calendar as iCalendar, for a calendar program (RFC 5545)."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime, timedelta

from icalendar import Calendar, Event

from ..records.models import CalendarPlan, Unit
from .services import at


def as_ics(plan: CalendarPlan | None, looks: Iterable[Unit] = (), now: datetime | None = None) -> bytes:
    """An event for each task; the same task keeps its identity from plan to plan, so that it moves and is not doubled.

    Args:
        plan: None where nothing is planned. looks: units with a day on which they are looked at again. now: when this is written.
    """
    calendar = Calendar()
    calendar.add("prodid", "-//Idle Bench//Calendar//EN")
    calendar.add("version", "2.0")
    for task in plan.kept.tasks if plan else []:
        event = Event()
        event.add("uid", f"{task.task.replace(' ', '-').replace('/', '-')}@idlebench")
        event.add("summary", f"{task.title}: {task.unit}")
        event.add("dtstamp", plan.at)
        event.add("dtstart", at(plan.begins, task.start))
        event.add("dtend", at(plan.begins, max(task.end, task.start + 1)))
        if task.wait:
            event.add("description", f"Then {task.wait / 60:.0f} h of waiting.")
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

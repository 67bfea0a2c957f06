"""The calendar as iCalendar, for a calendar program (RFC 5545)."""

from __future__ import annotations

from icalendar import Calendar, Event

from ..records.models import CalendarPlan
from .services import at


def as_ics(plan: CalendarPlan) -> bytes:
    """An event for each task; the same task keeps its identity from plan to plan, so that it moves and is not doubled."""
    calendar = Calendar()
    calendar.add("prodid", "-//Idle Bench//Calendar//EN")
    calendar.add("version", "2.0")
    for task in plan.found["tasks"]:
        event = Event()
        event.add("uid", f"{task['task'].replace(' ', '-').replace('/', '-')}@idlebench")
        event.add("summary", f"{task['title']}: {task['unit']}")
        event.add("dtstamp", plan.at)
        event.add("dtstart", at(plan.begins, task["start"]))
        event.add("dtend", at(plan.begins, max(task["end"], task["start"] + 1)))
        if task["wait"]:
            event.add("description", f"Then {task['wait'] / 60:.0f} h of waiting.")
        calendar.add_component(event)
    return calendar.to_ical()

"""A day's timetable as iCalendar (RFC 5545)."""

from __future__ import annotations

from datetime import timedelta

from django.utils import timezone
from icalendar import Alarm, Calendar, Event

from coombe_core.wording.timetable import step_note
from days.models import TestDay
from days.services import worked_out

ALARM_BEFORE = timedelta(minutes=10)
LENGTH = timedelta(minutes=5)


def as_calendar(day: TestDay) -> bytes:
    """Every step as an event with a reminder ten minutes before."""
    calendar = Calendar()
    calendar.add("prodid", "-//Coombe//Test days//EN")
    calendar.add("version", "2.0")
    for number, step in enumerate(worked_out(day).steps):
        event = Event()
        event.add("uid", f"day-{day.pk}-{number}@coombe")
        event.add("dtstamp", timezone.now())
        event.add("dtstart", step.at)
        event.add("dtend", step.at + LENGTH)
        event.add("summary", f"{step.kind.capitalize()}: {day.plan.question}")
        event.add("location", day.plan.course.name)
        if note := step_note(step):
            event.add("description", note)
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", step.kind)
        alarm.add("trigger", -ALARM_BEFORE)
        event.add_component(alarm)
        calendar.add_component(event)
    return bytes(calendar.to_ical())

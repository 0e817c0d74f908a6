"""A day's timetable as iCalendar (RFC 5545)."""

from __future__ import annotations

from datetime import datetime, timedelta

from django.utils import timezone
from icalendar import Alarm, Calendar, Event

from coombe_core.wording.timetable import step_note
from days.models import TestDay
from days.services import worked_out

ALARM_BEFORE = timedelta(minutes=10)
LENGTH = timedelta(minutes=5)


CALM = timedelta(hours=1)  # how often a calendar program should ask again
SHOWN_FOR = timedelta(days=90)  # how long a day stays in the calendar of all


def as_calendar(day: TestDay) -> bytes:
    """Every step as an event with a reminder ten minutes before."""
    calendar = _empty()
    for number, step in enumerate(worked_out(day).steps):
        event = _event(f"day-{day.pk}-{number}@coombe", day, step.at, step.at + LENGTH)
        event.add("summary", f"{step.kind.capitalize()}: {day.plan.question}")
        if note := step_note(step):
            event.add("description", note)
        event.add_component(_alarm(step.kind))
        calendar.add_component(event)
    return bytes(calendar.to_ical())


def calendar_of_all() -> bytes:
    """Every day that was not long ago as one event from its first step to its last, the timetable in its words."""
    calendar = _empty()
    calendar.add("x-wr-calname", "Test days")
    calendar.add("refresh-interval", CALM, parameters={"VALUE": "DURATION"})
    days = TestDay.objects.filter(first_run_at__gt=timezone.now() - SHOWN_FOR)
    for day in days.select_related("plan__car", "plan__course"):
        steps = worked_out(day).steps
        instants = [day.first_run_at, *(step.at for step in steps)]
        event = _event(f"day-{day.pk}@coombe", day, min(instants), max(*instants, day.first_run_at + LENGTH))
        event.add("summary", f"{day.plan.car}: {day.plan.question}")
        event.add("sequence", day.revision)
        event.add("description", "\n".join(f"{step.at:%H:%M} {step.kind}" for step in steps))
        event.add_component(_alarm(steps[0].kind if steps else "first run"))
        calendar.add_component(event)
    return bytes(calendar.to_ical())


def _empty() -> Calendar:
    calendar = Calendar()
    calendar.add("prodid", "-//Coombe//Test days//EN")
    calendar.add("version", "2.0")
    return calendar


def _event(uid: str, day: TestDay, start: datetime, end: datetime) -> Event:
    event = Event()
    event.add("uid", uid)
    event.add("dtstamp", timezone.now())
    event.add("dtstart", start)
    event.add("dtend", end)
    event.add("location", day.plan.course.name)
    return event


def _alarm(kind: str) -> Alarm:
    alarm = Alarm()
    alarm.add("action", "DISPLAY")
    alarm.add("description", kind)
    alarm.add("trigger", -ALARM_BEFORE)
    return alarm

"""The clock at a course."""

from __future__ import annotations

from datetime import UTC, date, datetime, time, tzinfo
from zoneinfo import ZoneInfo


def local(instant: datetime, time_zone: str | None) -> datetime:
    """An instant as the clock of a course's time zone shows it; in UTC where a run has no course."""
    return instant.astimezone(_zone(time_zone))


def midnight(day: date, time_zone: str | None) -> datetime:
    """When a day begins by that clock."""
    return datetime.combine(day, time(), _zone(time_zone))


def _zone(name: str | None) -> tzinfo:
    return ZoneInfo(name) if name else UTC

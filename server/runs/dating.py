"""When logs were driven: given for those without a date, and corrected where a receiver's clock was not UTC."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import UTC, date, datetime
from zoneinfo import ZoneInfo

from django.db import transaction

from accounts.models import User
from coombe_core.analysis import Analysis
from coombe_core.formats import ReadError
from history.services import act
from runs.models import Flag, Log, Run

UNDATED = "date_missing"
AT_ONCE = 500


class UndatedError(ReadError):
    """A log without a date, and nobody has said on which day it was driven."""


@dataclass(frozen=True)
class Dating:
    """The day on which a log was driven, and the time zone of its clock (IANA, such as America/Denver)."""

    day: date
    zone: str = "UTC"

    def place(self, start: datetime) -> datetime:
        """The first fix of a log in UTC: the time that its clock shows, on that day, in that zone."""
        return datetime.combine(self.day, start.time(), ZoneInfo(self.zone)).astimezone(UTC)


def dated(analysis: Analysis, dating: Dating | None, later: bool) -> Analysis:
    """An analysis with its date: the log's own, else the one that is given; `later` takes it without one.

    Raises UndatedError where the log has none, and none is given.
    """
    trace = analysis.reading.trace
    if trace.date_known or (dating is None and later):
        return analysis
    if dating is None:
        raise UndatedError("the log has no date; say on which day it was driven")
    placed = replace(trace, start_utc=dating.place(trace.start_utc), date_known=True)
    runs = [replace(run, flags=[flag for flag in run.flags if flag.code != UNDATED]) for run in analysis.runs]
    return replace(analysis, reading=replace(analysis.reading, trace=placed), runs=runs)


def date_log(log: Log, dating: Dating, person: User) -> Log:
    """Say when a log was driven: its runs move there, each with the change kept. The clock's own time is kept too."""
    with transaction.atomic():
        locked = Log.objects.select_for_update().get(pk=log.pk)
        moved = dating.place(locked.start_utc) - locked.start_utc
        runs = list(locked.runs.select_for_update())
        title = f"Corrected the date of log {locked}" if locked.date_known else f"Dated log {locked}"
        with act(person, title, locked, *runs):
            locked.start_utc, locked.date_known = locked.start_utc + moved, True
            locked.clock_shift_s += moved.total_seconds()
            locked.save(update_fields=["start_utc", "date_known", "clock_shift_s"])
            for run in runs:
                run.start_utc, run.revision = run.start_utc + moved, run.revision + 1
            Run.objects.bulk_update(runs, ["start_utc", "revision"], batch_size=AT_ONCE)
        Flag.objects.filter(run__log=locked, code=UNDATED).delete()
    return locked

"""Importing logs and changing what is written about runs."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime
from typing import Any

from django.db import IntegrityError, transaction

from accounts.models import User
from cars.models import SetUp
from config.errors import Conflict
from config.revisions import locked
from coombe_core import __version__
from coombe_core.analysis import Analysis, Request, analyse_log, time_runs
from coombe_core.formats import ReadError
from coombe_core.formats.parquet import read_own
from coombe_core.formats.reading import CanError
from coombe_core.timing.measures import parse_measure
from coombe_core.timing.results import Measured as CoreMeasured
from coombe_core.timing.results import Untimed
from coombe_core.wording.untimed import untimed_reason
from runs import car_bus, layouts, resting, store
from runs.car_bus import BusUpload
from runs.models import Edit, Flag, Log, Rejection, Run, UntimedRun, Validity
from runs.names import plain_name
from runs.storing import add_run, request_for

UNDATED = "date_missing"


@dataclass(frozen=True)
class Imported:
    """What an import came to; `already` where the same bytes had been imported before."""

    log: Log
    already: bool


def import_log(
    name: str,
    data: bytes,
    set_up: SetUp,
    person: User,
    conditions: Mapping[str, Any],
    layout: Mapping[str, str] | None = None,
    bus: BusUpload | None = None,
    day: date | None = None,
) -> Imported:
    """Read a log, time its runs and store all of it or nothing.

    `layout` says what the headings of a table mean, and is remembered once the log was read with it; `bus` is the
    CAN log of the same drive; `day` is when a log without a date was driven. The bytes are on disk before the rows
    that name them commit. Raises ReadError where the log can't be read, BusError where the bus log can't or shows
    another drive, UndatedError where the log has no date and none is given.
    """
    known_bus = bus.read() if bus else None
    request = replace(request_for(set_up, conditions), layout=layout or layouts.remembered(data), can_log=known_bus)
    analysis = analyse_log(data, request)
    if layout:
        layouts.remember(data, layout, person)
    if (known := _known(analysis.sha256)) and bus:
        raise CanError("the log is imported already; delete it first to import it with its CAN log")
    if not known:
        analysis = dated(analysis, day)
    store.keep(data, analysis.sha256)  # of a known log too: that mends bytes which were lost or damaged
    if known:
        return Imported(known, already=True)
    bus_sha256 = bus.keep() if bus else ""
    try:
        with transaction.atomic():
            log = _add_log(name, len(data), analysis, person)
            if bus and analysis.can_data:
                car_bus.record(log, replace(bus, name=plain_name(bus.name)), bus_sha256, analysis.can_data)
            for timed in analysis.runs:
                add_run(log, timed, analysis.reading.trace, analysis.can_data, set_up, conditions)
            note_untimed(log, analysis.untimed)
    except IntegrityError:
        if known := _known(analysis.sha256):  # the same bytes came in twice at once, and the other was first
            return Imported(known, already=True)
        raise
    return Imported(log, already=False)


class UndatedError(ReadError):
    """A log without a date, and nobody has said on which day it was driven."""


def dated(analysis: Analysis, day: date | None) -> Analysis:
    """An analysis whose trace has its date: the log's own, else the day that is given. Raises UndatedError."""
    trace = analysis.reading.trace
    if trace.date_known:
        return analysis
    if day is None:
        raise UndatedError("the log has no date; say on which day it was driven")
    start_utc = datetime.combine(day, trace.start_utc.timetz())
    placed = replace(trace, start_utc=start_utc, date_known=True)
    runs = [replace(run, flags=[flag for flag in run.flags if flag.code != UNDATED]) for run in analysis.runs]
    return replace(analysis, reading=replace(analysis.reading, trace=placed), runs=runs)


def date_log(log: Log, day: date, person: User) -> Log:
    """Say on which day a log without a date was driven: its runs move there, each with the change kept."""
    with transaction.atomic():
        locked = Log.objects.select_for_update().get(pk=log.pk)
        if locked.date_known:
            raise Conflict("This log has a date. Nothing was changed.")
        later = datetime.combine(day, locked.start_utc.timetz()) - locked.start_utc
        locked.start_utc, locked.date_known = locked.start_utc + later, True
        locked.save(update_fields=["start_utc", "date_known"])
        for run in locked.runs.all():
            change_run(run, {"start_utc": run.start_utc + later}, run.revision, person)
        Flag.objects.filter(run__log=locked, code=UNDATED).delete()
        resting.look(Run.objects.filter(log=locked))
    return locked


def note_untimed(log: Log, untimed: Sequence[Untimed]) -> None:
    """Keep which runs were found and could not be timed, in place of what was kept before."""
    log.untimed.all().delete()
    UntimedRun.objects.bulk_create(
        UntimedRun(log=log, kind=each.kind, start_s=each.start_s, reason=untimed_reason(each)) for each in untimed
    )


def _known(sha256: str) -> Log | None:
    return Log.objects.filter(sha256=sha256).first()


def _add_log(name: str, size: int, analysis: Analysis, person: User) -> Log:
    reading = analysis.reading
    log = Log.objects.create(
        sha256=analysis.sha256,
        name=plain_name(name),
        size_bytes=size,
        format=reading.format,
        fixes=len(reading.trace),
        rejected=reading.rejections.total,
        rate_hz=reading.trace.rate_hz,
        start_utc=reading.trace.start_utc,
        date_known=reading.trace.date_known,
        duration_s=reading.trace.duration_s,
        core_version=__version__,
        imported_by=person,
    )
    told = reading.rejections[: Rejection.MOST_KEPT]
    Rejection.objects.bulk_create(Rejection(log=log, line=row.line, reason=row.reason[:200]) for row in told)
    return log


def change_run(run: Run, changes: Mapping[str, Any], revision: int, person: User) -> Run:
    """Change what is written about a run, keeping who, when and the old value of every field.

    Raises Conflict where someone else changed the run since `revision` was read.
    """
    names = ("revision", *changes)
    with transaction.atomic():
        current = locked(run, revision, lambda row: {name: row.serializable_value(name) for name in names})
        edits = [
            Edit(run=current, field=name, old_value=_shown(old), new_value=_shown(value), edited_by=person)
            for name, value in changes.items()
            if (old := getattr(current, name)) != value
        ]
        for name, value in changes.items():
            setattr(current, name, value)
        if edits:
            current.revision += 1
            current.save()
            for edit in edits:
                edit.revision = current.revision
            Edit.objects.bulk_create(edits)
            resting.look(Run.objects.filter(pk=current.pk))
    return current


def time_named(run: Run, name: str) -> list[CoreMeasured]:
    """Any interval that a person names, timed from the stored fixes; empty where the run did not reach it.

    Raises ValueError with a sentence where there is no such measure.
    """
    measure = parse_measure(name)
    trace = read_own(bytes(run.trace.fixes)).trace
    log_s = (run.start_utc - trace.start_utc).total_seconds()
    timed = [each for each in time_runs(trace, Request([measure])) if each.kind == run.kind]
    nearest = min(timed, key=lambda each: abs(each.start_s - log_s), default=None)
    return [row for row in nearest.measures if row.name == measure.name] if nearest else []


def void_run(run: Run, reason: str, note: str, revision: int, person: User) -> Run:
    """Void a run: it is kept, and out of every statistic."""
    changes = {"validity": Validity.VOID, "void_reason": reason, "void_note": note, "decided": True}
    return change_run(run, changes, revision, person)


def keep_run(run: Run, revision: int, person: User) -> Run:
    """Count a run, also against a flag that proposes to void it."""
    changes = {"validity": Validity.VALID, "void_reason": "", "void_note": "", "decided": True}
    return change_run(run, changes, revision, person)


def _shown(value: object) -> str:
    return "" if value is None else str(value)

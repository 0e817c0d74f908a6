"""Importing logs and changing what is written about runs."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from django.db import IntegrityError, transaction

from accounts.models import User
from cars.models import SetUp
from coombe_core import __version__
from coombe_core.air import Air
from coombe_core.analysis import Analysis, Request, analyse_log, time_runs
from coombe_core.columnar import pack
from coombe_core.correction import Correction
from coombe_core.course import Profile, SurveyedCourse, is_other_way, mean_heading_deg
from coombe_core.reading.parquet import read_own
from coombe_core.reading.result import BusError
from coombe_core.road_load import RoadLoad
from coombe_core.timing.estimate import Value
from coombe_core.timing.measure import parse_measure
from coombe_core.timing.ramp_pool import LaunchRamps
from coombe_core.timing.result import Measured as CoreMeasured
from coombe_core.timing.result import TimedRun
from coombe_core.trace import Trace
from coombe_core.writing import to_parquet
from courses.models import Course, Direction
from runs import car_bus, layouts, store
from runs.car_bus import BusUpload
from runs.errors import Conflict
from runs.models import Edit, Flag, Log, Measured, Rejection, Run, RunTrace, Split, Validity, number, u95

BEFORE_S = 5.0
AFTER_S = 2.0
UNKNOWN_NAME = "log"


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
) -> Imported:
    """Read a log, time its runs and store all of it or nothing.

    `layout` says what the headings of a table mean, and is remembered once the log was read with it; `bus` is the
    car-bus log of the same drive. The bytes are on disk before the rows that name them commit. Raises ReadError where
    the log can't be read, BusError where the bus log can't or shows another drive.
    """
    known_bus = bus.read() if bus else None
    request = replace(_request(set_up, conditions), layout=layout or layouts.remembered(data), bus=known_bus)
    analysis = analyse_log(data, request)
    if layout:
        layouts.remember(data, layout, person)
    if known := _known(analysis.sha256):
        if bus:
            raise BusError("the log is imported already; delete it first to import it with its car bus")
        return Imported(known, already=True)
    bus_sha256 = bus.keep() if bus else ""
    store.keep(data, analysis.sha256)
    try:
        with transaction.atomic():
            log = _add_log(name, len(data), analysis, person)
            if bus and analysis.bus:
                car_bus.record(log, replace(bus, name=_plain(bus.name)), bus_sha256, analysis.bus)
            for timed in analysis.runs:
                _add_run(log, timed, analysis, set_up, conditions)
    except IntegrityError:
        if known := _known(analysis.sha256):  # the same bytes came in twice at once, and the other was first
            return Imported(known, already=True)
        raise
    return Imported(log, already=False)


def _request(set_up: SetUp, conditions: Mapping[str, Any]) -> Request:
    """What is known of the runs beside the log: the surveyed course, the car, and the wind."""
    car = set_up.car
    load = RoadLoad.of(car.test_mass_kg, car.cda_m2, car.rolling_coefficient) if car.test_mass_kg else None
    air = Air(wind_mps=conditions.get("wind_mps") or 0.0, wind_from_deg=conditions.get("wind_from_deg") or 0.0)
    return Request(
        surveyed=_surveyed(conditions.get("course")),
        correction=Correction(slope=True, air=air, road_load=load),
        stated_power_w=car.power_kw * 1000.0 if car.power_kw else None,
    )


def _surveyed(course: Course | None) -> SurveyedCourse | None:
    if course is None or course.slope_percent is None:
        return None
    stations = list(course.stations.values_list("way_m", "height_m"))
    profile = Profile.of(stations) if len(stations) > 1 else None
    return SurveyedCourse(Value(course.slope_percent, course.slope_u95_percent or 0.0), course.heading_deg, profile)


def _known(sha256: str) -> Log | None:
    return Log.objects.filter(sha256=sha256).first()


def _add_log(name: str, size: int, analysis: Analysis, person: User) -> Log:
    reading = analysis.reading
    log = Log.objects.create(
        sha256=analysis.sha256,
        name=_plain(name),
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


def _plain(name: str) -> str:
    """A file name without folders and control characters, short enough to keep."""
    last = name.replace("\\", "/").rsplit("/", 1)[-1]
    return "".join(c for c in last if c.isprintable())[:255] or UNKNOWN_NAME


def _add_run(log: Log, timed: TimedRun, analysis: Analysis, set_up: SetUp, conditions: Mapping[str, Any]) -> None:
    trace, bus = analysis.reading.trace, analysis.bus
    if bus:
        conditions = car_bus.filled_in(bus, timed, conditions)
    driven = trace.between(timed.start_s, timed.end_s)
    run = Run.objects.create(
        log=log,
        set_up=set_up,
        kind=timed.kind,
        start_utc=trace.utc_at(timed.start_s),
        start_s=timed.start_s,
        complete=timed.complete,
        slope_percent=number(timed.slope_percent),
        slope_u95_percent=u95(timed.slope_percent),
        peak_acceleration_g=timed.peak_acceleration_g.value,
        peak_acceleration_u95_g=timed.peak_acceleration_g.u95,
        mean_acceleration_g=number(timed.mean_acceleration_g),
        mean_acceleration_u95_g=u95(timed.mean_acceleration_g),
        rollout_s=number(timed.rollout_s),
        rollout_u95_s=u95(timed.rollout_s),
        heading_deg=mean_heading_deg(driven),
        noise_mps=timed.noise_mps,
        launch_ramps=_as_json(timed.launch_ramps),
        **_as_driven(conditions, driven),
    )
    _add_results(run, timed)
    fixes = to_parquet(trace.between(timed.start_s - BEFORE_S, timed.end_s + AFTER_S))
    said = car_bus.sampled(bus, timed) if bus else None
    RunTrace.objects.create(run=run, fixes=fixes, curve=pack(vars(timed.curve)), bus=said)


def _add_results(run: Run, timed: TimedRun) -> None:
    """Measures, splits and flags of a run."""
    Measured.objects.bulk_create(Measured.of(run, row) for row in timed.measures)
    Split.objects.bulk_create(Split.of(run, split) for split in timed.splits)
    Flag.objects.bulk_create(
        Flag(
            run=run,
            code=flag.code,
            severity=flag.severity,
            message=flag.message,
            excludes=flag.excludes,
            since_s=None if flag.at_s is None else flag.at_s - timed.start_s,
        )
        for flag in timed.flags
    )


def _as_json(ramps: LaunchRamps | None) -> dict[str, list[float]] | None:
    if ramps is None:
        return None
    return {"weights": ramps.weights.round(9).tolist(), "later_s": ramps.later_s.round(6).tolist()}


def _as_driven(conditions: Mapping[str, Any], driven: Trace) -> Mapping[str, Any]:
    """The conditions with the direction that a run took along its course; one that went back has the other course."""
    course: Course | None = conditions.get("course")
    if course is None:
        return conditions
    if not is_other_way(course.heading_deg, driven):
        return {**conditions, "direction": course.direction}
    other = Direction.BACK if course.direction == Direction.OUT else Direction.OUT
    back = Course.objects.filter(name=course.name, direction=other).first()
    return {**conditions, "course": back, "direction": other}


def change_run(run: Run, changes: Mapping[str, Any], revision: int, person: User) -> Run:
    """Change what is written about a run, keeping who, when and the old value of every field.

    Raises Conflict where someone else changed the run since `revision` was read.
    """
    with transaction.atomic():
        current = Run.objects.select_for_update().get(pk=run.pk)
        if current.revision != revision:
            raise Conflict("Someone else changed this run meanwhile. Yours is still here: reload, compare, save again.")
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
            Edit.objects.bulk_create(edits)
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

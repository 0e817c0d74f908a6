"""Storing runs that were found and timed, whether in a file or live: one place for what becomes of them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.utils import timezone

from cars.models import Setup
from cars.road_load import road_load
from coombe_core import __version__
from coombe_core.analysis import AFTER_S, BEFORE_S, AnalyzedRun, Request
from coombe_core.detection.can_data import AlignedCan
from coombe_core.fitting.ramp_pool import LaunchRamps
from coombe_core.formats import write_log
from coombe_core.formats.parquet import write_columns
from coombe_core.physics.air import Air
from coombe_core.physics.course import Profile, SurveyedCourse, is_opposite_direction, mean_heading_deg
from coombe_core.timing.corrections import Correction
from coombe_core.trace import Trace
from coombe_core.uncertainty import Value
from coombe_core.wording.flags import message_of
from courses.models import Course, Direction
from runs import can_logs, resting
from runs.judging import noted_flags
from runs.models import Flag, Log, Measured, Run, RunTrace, Split, number, smoothing_of, u95

SAME_RUN_S = 1.0  # two runs of a kind in one log that begin nearer than this are one


def request_for(setup: Setup, conditions: Mapping[str, Any]) -> Request:
    """What is known of the runs beside the log: the surveyed course, the car, the air and the receiver."""
    car = setup.car
    air = Air(wind_mps=conditions.get("wind_mps") or 0.0, wind_from_deg=conditions.get("wind_from_deg") or 0.0)
    return Request(
        surveyed=_surveyed(conditions.get("course")),
        correction=Correction(slope=True, air=air, road_load=road_load(setup)),
        stated_power_w=car.power_kw * 1000.0 if car.power_kw else None,
        smoothing_s=smoothing_of(conditions.get("receiver") or ""),
    )


def request_of(run: Run) -> Request:
    """The same of a run that is stored."""
    conditions = {name: getattr(run, name) for name in ("course", "wind_mps", "wind_from_deg", "receiver")}
    return request_for(run.setup, conditions)


def _surveyed(course: Course | None) -> SurveyedCourse | None:
    if course is None or course.slope_percent is None:
        return None
    stations = list(course.stations.values_list("distance_m", "elevation_m"))
    profile = Profile.of(stations) if len(stations) > 1 else None
    return SurveyedCourse(Value(course.slope_percent, course.slope_u95_percent or 0.0), course.heading_deg, profile)


def add_run(
    log: Log, timed: AnalyzedRun, trace: Trace, can_data: AlignedCan | None, setup: Setup, conditions: Mapping[str, Any]
) -> Run:
    """Store one timed run of a log with all that belongs to it; `trace` holds at least the fixes near it."""
    if can_data:
        conditions = can_logs.filled_in(can_data, timed, conditions)
    driven = trace.between(timed.start_s, timed.end_s)
    run = Run.objects.create(
        log=log,
        setup=setup,
        kind=timed.kind,
        start_utc=trace.utc_at(timed.start_s),
        start_s=timed.start_s,
        heading_deg=mean_heading_deg(driven),
        **_results(timed),
        **_as_driven(conditions, driven),
    )
    _add_rows(run, timed)
    fixes = write_log(trace.between(timed.start_s - BEFORE_S, timed.end_s + AFTER_S), "parquet")
    can_data_blob = can_logs.sampled(can_data, timed) if can_data else None
    RunTrace.objects.create(run=run, fixes=fixes, curve=write_columns(vars(timed.curve)), can_data=can_data_blob)
    resting.settle(run)
    return run


def replace_results(run: Run, timed: AnalyzedRun) -> None:
    """Put what was timed anew in the place of a run's results; what people recorded and decided stays."""
    for name, value in _results(timed).items():
        setattr(run, name, value)
    run.save(update_fields=[*_results(timed)])
    for rows in (run.measured, run.split_rows, run.flags):
        rows.all().delete()
    _add_rows(run, timed)
    RunTrace.objects.filter(run=run).update(curve=write_columns(vars(timed.curve)))


def _results(timed: AnalyzedRun) -> dict[str, Any]:
    """A run's columns that come out of the core."""
    return {
        "complete": timed.complete,
        "slope_percent": number(timed.slope_percent),
        "slope_u95_percent": u95(timed.slope_percent),
        "peak_acceleration_g": timed.peak_acceleration_g.value,
        "peak_acceleration_u95_g": timed.peak_acceleration_g.u95,
        "mean_acceleration_g": number(timed.mean_acceleration_g),
        "mean_acceleration_u95_g": u95(timed.mean_acceleration_g),
        "rollout_s": number(timed.rollout_s),
        "rollout_u95_s": u95(timed.rollout_s),
        "noise_mps": timed.noise_mps,
        "launch_ramps": _as_json(timed.launch_ramps),
        "timed_at": timezone.now(),
        "timed_with": __version__,
    }


def _add_rows(run: Run, timed: AnalyzedRun) -> None:
    """Measures, splits and flags of a run, those of its fixes and those of what was recorded."""
    Measured.objects.bulk_create(Measured.of(run, row) for row in timed.measures)
    Split.objects.bulk_create(Split.of(run, split) for split in timed.splits)
    found = [(flag, None if flag.at_s is None else flag.at_s - timed.start_s) for flag in timed.flags]
    noted = [(flag, None) for flag in noted_flags(run)]
    Flag.objects.bulk_create(
        Flag(
            run=run,
            code=flag.code,
            severity=flag.severity,
            message=message_of(flag),
            excludes=flag.excludes,
            since_s=since_s,
        )
        for flag, since_s in (*found, *noted)
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
    if not is_opposite_direction(course.heading_deg, driven):
        return {**conditions, "direction": course.direction}
    other = Direction.BACK if course.direction == Direction.OUT else Direction.OUT
    back = Course.objects.filter(name=course.name, direction=other).first()
    return {**conditions, "course": back, "direction": other}

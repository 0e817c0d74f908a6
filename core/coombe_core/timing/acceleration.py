"""Timing a pull: a standing start with both clocks, or a roll-on between speeds."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import numpy as np

from coombe_core.curve import Curve
from coombe_core.detection.runs import FoundRun
from coombe_core.fitting.dips import dips
from coombe_core.fitting.fixes import Fixes
from coombe_core.fitting.motion import ROLLING
from coombe_core.fitting.power_onset import power_onset
from coombe_core.fitting.speed_fit import Reached, SpeedFit, fit_speed
from coombe_core.fitting.torque_ramp import LAUNCH_RAMPS
from coombe_core.interpolation import median
from coombe_core.timing.clocks import ROLLOUT_M, Clock
from coombe_core.timing.measures import TRAP_M, Measure, parse_measure
from coombe_core.timing.results import Measured, SpeedPassed, TimedRun
from coombe_core.timing.slope import slope_percent
from coombe_core.timing.splits import SPLIT_SPEEDS_MPS, splits_of
from coombe_core.trace import Trace
from coombe_core.uncertainty import Estimate, Value
from coombe_core.units import SPEED_UNITS_MPS, STANDARD_GRAVITY_MPS2

REST_S = 2.0
STEADY_S = 1.0
AFTER_S = 0.45  # past the lift, and short of the brakes
CURVE_STEP_S = 0.05
ABOUT_S = 0.3
CLEAR_OF_THE_ENDS = 0.5  # mph or km/h
AT_FULL_S = 0.8  # so long after it began a pull is at full power


def time_standing(
    trace: Trace, found: FoundRun, measures: Sequence[Measure], surveyed: Value | None = None
) -> TimedRun:
    """Time a standing start on both of its clocks.

    Parameters
    ----------
    trace : Trace
        The fixes of the log, or enough of them around the run.
    found : FoundRun
        Where the run is, as detection found it.
    measures : sequence of Measure
        What to time; measures that the run did not reach are left out.
    surveyed : Value, optional
        The course's slope in percent, positive uphill; it wins over the log's altitude.

    Returns
    -------
    TimedRun

    Raises
    ------
    TooFewFixesError
        Where the run has too few fixes in motion to fit.
    """
    window = trace.between(found.start_s - min(REST_S, found.rest_before_s), found.end_s + AFTER_S)
    fixes = fixes_of(window)
    steps_s = [*_faltering_s(fixes, found), found.end_s + fixes.step_s / 2]
    fit = fit_speed(fixes, steps_s, LAUNCH_RAMPS, *levels_of(measures))
    launch, rollout = fit.launch(), fit.reaches_distance(ROLLOUT_M)
    zeros: dict[Clock, Estimate | None] = {
        "first_movement": launch,
        "rollout": rollout.instant if rollout else None,
    }
    rows = [row for measure in measures for row in _measured(fit, measure, zeros)]
    return _pull(
        fit,
        window,
        found,
        launch,
        surveyed,
        rollout_s=(rollout.instant - launch).value if rollout else None,
        measures=rows,
        splits=splits_of(fit, launch, zeros["rollout"], found.peak_mps),
        launch_ramps=fit.launch_ramps,
        rise_s=fit.rise_s,
    )


def time_rolling(trace: Trace, found: FoundRun, measures: Sequence[Measure], surveyed: Value | None = None) -> TimedRun:
    """Time a roll-on: the intervals between speeds that it passed at full power; arguments as of `time_standing`.

    It starts where full power begins to come in, as fitted.
    """
    window = trace.between(found.start_s - STEADY_S, found.end_s + AFTER_S)
    fixes = fixes_of(window)
    full_s = power_onset(fixes, found.start_s)
    begun_mps = float(np.interp(full_s, fixes.time_s, fixes.speed_mps))
    passed = passed_intervals(begun_mps, found.peak_mps)
    timed = list({each.name: each for each in (*measures, *passed)}.values())
    fit = fit_speed(fixes, [full_s, *_faltering_s(fixes, found), found.end_s], None, *levels_of(timed), drive=ROLLING)
    rows = [row for measure in timed for row in _measured(fit, measure, {})]
    return _pull(
        fit,
        window,
        found,
        fit.constant(fit.steps[0].instant_s),
        surveyed,
        rollout_s=None,
        measures=rows,
        splits=[],
        first_passed=_first_passed(fit, measures),
        rise_s=fit.steps[0].fade_s,
    )


def passed_intervals(from_mps: float, to_mps: float) -> list[Measure]:
    """The widest intervals that a roll-on passed, between whole fives of mph and tens of km/h.

    >>> [measure.name for measure in passed_intervals(13.0, 29.3)]
    ['30-65 mph', '50-100 km/h']
    """
    found = []
    for unit, step in (("mph", 5.0), ("km/h", 10.0)):
        unit_mps = SPEED_UNITS_MPS[unit]
        low = math.ceil((from_mps / unit_mps + CLEAR_OF_THE_ENDS) / step) * step
        high = math.floor((to_mps / unit_mps - CLEAR_OF_THE_ENDS) / step) * step
        if high > low > 0:
            found.append(parse_measure(f"{low:.0f}-{high:.0f} {unit}"))
    return found


def _first_passed(fit: SpeedFit, measures: Sequence[Measure]) -> SpeedPassed | None:
    """The slowest speed from which a measure runs that was passed about full power or later."""
    full_s = fit.steps[0].instant_s
    speeds = sorted({measure.from_mps for measure in measures if measure.basis == "speed" and measure.from_mps})
    passed = ((speed_mps, reached) for speed_mps in speeds if (reached := fit.reaches_speed(speed_mps)))
    since = (SpeedPassed(speed_mps, reached.instant.number - full_s) for speed_mps, reached in passed)
    return next((each for each in since if each.since_s >= -ABOUT_S), None)


def _faltering_s(fixes: Fixes, found: FoundRun) -> list[float]:
    """Where a pull begins and ceases to falter, in turn."""
    return [at_s for dip in dips(fixes, found.start_s + AT_FULL_S, found.end_s) for at_s in dip]


def _pull(
    fit: SpeedFit, window: Trace, found: FoundRun, start: Estimate, surveyed: Value | None, **timed: object
) -> TimedRun:
    """What standing starts and roll-ons share."""
    start_s = start.number
    pull = window.between(start_s, found.end_s)
    slope = surveyed or slope_percent(fit.curve(pull.elapsed_s)[2], pull, window)
    at_s = np.arange(start_s, found.end_s, CURVE_STEP_S)
    acceleration, speed, distance = fit.curve(at_s)
    begun_m = 0.0 if found.kind == "standing" else distance[0]
    curve = Curve(at_s - start_s, speed, distance - begun_m, acceleration)
    hardest_s = start_s + float(curve.since_s[np.argmax(curve.acceleration_mps2)])
    end = fit.constant(found.end_s)
    gained = fit.at(end).speed
    if found.kind == "rolling":
        gained = gained - fit.at(start).speed
    mean = gained.product((end - start).inverse()).value  # both ends are uncertain, and so is the start's instant
    return TimedRun(
        kind=found.kind,
        start_s=start_s,
        end_s=found.end_s,
        complete=found.complete,
        slope_percent=slope,
        peak_acceleration_g=fit.acceleration_at(hardest_s).value.scaled(1 / STANDARD_GRAVITY_MPS2),
        mean_acceleration_g=mean.scaled(1 / STANDARD_GRAVITY_MPS2),
        curve=curve,
        noise_mps=fit.noise_mps,
        **timed,  # type: ignore[arg-type]
    )


def levels_of(measures: Sequence[Measure]) -> tuple[list[float], list[float]]:
    """List every speed (m/s) and every distance (m) that the measures and the split table ask of a pull."""
    speeds = [speed for m in measures if m.basis == "speed" for speed in (m.from_mps, m.to_mps) if speed]
    lines = [m.to_m for m in measures if m.to_m]
    return [*SPLIT_SPEEDS_MPS, *speeds], [ROLLOUT_M, *lines, *(line - TRAP_M for line in lines if line > TRAP_M)]


def fixes_of(window: Trace) -> Fixes:
    """Take a window's fixes for a fit, weighted by the accuracy that the receiver itself states."""
    step_s = median(np.diff(window.elapsed_s)) if len(window) > 1 else 1.0
    accuracy = window.speed_accuracy_mps
    stated = np.isfinite(accuracy) & (accuracy > 0)
    weight = np.ones(len(window))
    if stated.any():
        weight[stated] = np.clip(median(accuracy[stated]) / accuracy[stated], 0.1, 3.0)
    return Fixes(window.elapsed_s, window.speed_mps, weight, step_s, window.smoothing_s)


def _measured(fit: SpeedFit, measure: Measure, zeros: dict[Clock, Estimate | None]) -> Iterable[Measured]:
    """The measure on each of its clocks; nothing where the run did not reach it."""
    if measure.basis == "stop":
        return
    reached = fit.reaches_distance(measure.to_m) if measure.to_m else fit.reaches_speed(measure.to_mps)
    if reached is None:
        return
    begun = fit.reaches_speed(measure.from_mps) if measure.from_mps else None
    for clock in measure.clocks:
        zero = zeros.get(clock) if clock != "speed" else begun.instant if begun else None
        if zero is None:
            continue
        time_s = (reached.instant - zero).value
        if measure.basis == "distance":
            trap = _trap_speed(fit, reached, measure.to_m)
            yield Measured(measure.name, clock, time_s, line_speed_mps=reached.speed.value, trap_speed_mps=trap)
        else:
            way = reached.distance - begun.distance if begun else reached.distance
            yield Measured(measure.name, clock, time_s, way.value)


def _trap_speed(fit: SpeedFit, reached: Reached, line_m: float) -> Value | None:
    """Mean speed over the last 66 ft before the line."""
    trap_from = fit.reaches_distance(line_m - TRAP_M) if line_m > TRAP_M else None
    return (reached.instant - trap_from.instant).inverse().times(TRAP_M).value if trap_from else None

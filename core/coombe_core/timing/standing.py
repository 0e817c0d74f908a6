"""Timing a standing start: both clocks, speed and distance measures, line and trap speed."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from coombe_core.runs.finding import FoundRun
from coombe_core.timing.estimate import Estimate, Value
from coombe_core.timing.flags import flags_of
from coombe_core.timing.measure import ROLLOUT_M, TRAP_M, Clock, Measure
from coombe_core.timing.result import Curve, Measured, TimedRun
from coombe_core.timing.slope import slope_percent
from coombe_core.timing.speed_fit import SpeedFit
from coombe_core.timing.splits import splits_of
from coombe_core.trace import Trace
from coombe_core.units import STANDARD_GRAVITY_MPS2

REST_S = 2.0
AFTER_S = 0.45  # past the lift, and short of the brakes
CURVE_STEP_S = 0.05


def time_standing(
    trace: Trace, found: FoundRun, measures: Iterable[Measure], surveyed: Value | None = None
) -> TimedRun:
    """Time a standing start of the trace. `surveyed` is the course's slope in percent and wins over altitude.

    Raises TooFewFixesError where the pull has too few fixes to fit.
    """
    window = trace.between(found.start_s - min(REST_S, found.rest_before_s), found.end_s + AFTER_S)
    fit = SpeedFit(window.elapsed_s, window.speed_mps, found.end_s)
    launch = fit.launch()
    start_s = launch.summed_up().value
    pull = window.between(start_s, found.end_s)
    slope = surveyed or slope_percent(fit.curve(pull.elapsed_s)[2], pull, trace.between(start_s - 5.0, found.end_s))
    at_s = np.arange(start_s, found.end_s, CURVE_STEP_S)
    acceleration, speed, distance = fit.curve(at_s)
    curve = Curve(at_s - start_s, speed, distance, acceleration)
    rollout = fit.reaches_distance(ROLLOUT_M)
    zeros: dict[Clock, Estimate | None] = {"first_movement": launch, "rollout": rollout}
    rows = [row for measure in measures for row in _measured(fit, measure, zeros)]
    return TimedRun(
        kind="standing",
        start_s=start_s,
        end_s=found.end_s,
        complete=found.complete,
        flags=flags_of(trace, found, slope),
        slope_percent=slope,
        peak_acceleration_g=_peak_g(fit, curve, start_s),
        rollout_s=(rollout - launch).summed_up() if rollout else None,
        measures=rows,
        splits=splits_of(fit, launch, rollout, found.peak_mps),
        curve=curve,
        noise_mps=fit.noise_mps,
    )


def _peak_g(fit: SpeedFit, curve: Curve, start_s: float) -> Value:
    peak_s = start_s + float(curve.since_s[np.argmax(curve.acceleration_mps2)])
    return fit.acceleration_at(peak_s).summed_up().scaled(1 / STANDARD_GRAVITY_MPS2)


def _measured(fit: SpeedFit, measure: Measure, zeros: dict[Clock, Estimate | None]) -> Iterable[Measured]:
    """The measure on each of its clocks; nothing where the run did not reach it."""
    if measure.basis == "stop":
        return
    reached = fit.reaches_distance(measure.to_m) if measure.to_m else fit.reaches_speed(measure.to_mps)
    if reached is None:
        return
    for clock in measure.clocks:
        zero = fit.reaches_speed(measure.from_mps) if clock == "speed" else zeros[clock]
        if zero is None:
            continue
        time_s = (reached - zero).summed_up()
        if measure.basis == "distance":
            line, trap = _line_speeds(fit, reached, measure.to_m)
            yield Measured(measure.name, clock, time_s, line_speed_mps=line, trap_speed_mps=trap)
        else:
            distance = (fit.motion_at(reached)[1] - fit.motion_at(zero)[1]).summed_up()
            yield Measured(measure.name, clock, time_s, distance)


def _line_speeds(fit: SpeedFit, reached: Estimate, line_m: float) -> tuple[Value, Value | None]:
    """Speed at the line, and mean speed over the last 66 ft before it."""
    line = fit.motion_at(reached)[0].summed_up()
    trap_from = fit.reaches_distance(line_m - TRAP_M) if line_m > TRAP_M else None
    trap = (reached - trap_from).inverse().times(TRAP_M).summed_up() if trap_from else None
    return line, trap

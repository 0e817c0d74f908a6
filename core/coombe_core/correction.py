"""Times corrected to a level course: the same run re-integrated with its acceleration changed by the slope.

a_level(v) = a(v) + g sin(theta) / k, k the rotating-mass factor. The raw time always stands beside it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from coombe_core.timing.estimate import Value
from coombe_core.timing.measure import ROLLOUT_M, Clock, Measure, parse_measure
from coombe_core.timing.result import Curve, Measured, TimedRun
from coombe_core.units import STANDARD_GRAVITY_MPS2

Floats = NDArray[np.float64]
LAUNCH_MPS = 0.3  # below this the ramp decides and slope does next to nothing
LEAST_MPS2 = 0.05


@dataclass(frozen=True)
class Correction:
    """What to correct for; `to` None leaves every corrected time out."""

    to: Literal["level"] | None = None
    rotating_mass_factor: float = 1.04


def corrected(run: TimedRun, correction: Correction) -> TimedRun:
    """The run with a corrected time beside every raw one; unchanged where nothing is asked or the slope is unknown."""
    if correction.to is None or run.slope_percent is None or run.kind == "stop":
        return run
    rows = [replace(row, corrected_time_s=_corrected_time(run, row, correction)) for row in run.measures]
    return replace(run, measures=rows)


def _corrected_time(run: TimedRun, row: Measured, correction: Correction) -> Value | None:
    """The row's time on a level course, its interval widened by the slope's; None where it is out of reach."""
    measure, slope, raw_s = parse_measure(row.name), run.slope_percent, row.time_s
    if slope is None or raw_s is None:
        return None

    def shift(slope_percent: float) -> float | None:
        angle = np.arctan(slope_percent / 100.0)
        extra = STANDARD_GRAVITY_MPS2 * np.sin(angle) / correction.rotating_mass_factor
        level, raw = (_time(run.curve, measure, row.clock, part) for part in (float(extra), 0.0))
        return None if level is None or raw is None else level - raw

    change, wider = shift(slope.value), shift(slope.value + slope.u95)
    if change is None or wider is None:
        return None
    return Value(raw_s.value + change, float(np.hypot(raw_s.u95, wider - change)))


def _time(curve: Curve, measure: Measure, clock: Clock, extra_mps2: float) -> float | None:
    """Time of the measure with `extra_mps2` added to the acceleration; None where it is out of reach."""
    speed = np.maximum.accumulate(curve.speed_mps)
    rising = np.flatnonzero((np.diff(speed) > 0) & (speed[1:] > LAUNCH_MPS)) + 1
    if rising.size < 3:
        return None
    step_s = np.diff(curve.since_s)[rising - 1]
    gain = np.diff(speed)[rising - 1]
    pace = gain / step_s
    level_s = gain / np.maximum(pace + extra_mps2, LEAST_MPS2)
    mean_mps = speed[rising] - gain / 2
    first = rising[0] - 1
    time_s = curve.since_s[first] + np.concatenate([[0.0], np.cumsum(level_s)])
    way_m = curve.distance_m[first] + np.concatenate([[0.0], np.cumsum(level_s * mean_mps)])
    speeds = np.concatenate([[speed[first]], speed[rising]])
    end_s = _reach(measure.to_m, way_m, time_s, speeds) if measure.to_m else _cross(measure.to_mps, speeds, time_s)
    zero_s = _zero(measure, clock, way_m, speeds, time_s)
    return None if end_s is None or zero_s is None else end_s - zero_s


def _zero(measure: Measure, clock: Clock, way_m: Floats, speeds: Floats, time_s: Floats) -> float | None:
    if clock == "speed":
        return _cross(measure.from_mps, speeds, time_s)
    return 0.0 if clock == "first_movement" else _cross(ROLLOUT_M, way_m, time_s)


def _cross(level: float, levels: Floats, time_s: Floats) -> float | None:
    return float(np.interp(level, levels, time_s)) if levels[0] <= level <= levels[-1] * (1 + 1e-9) else None


def _reach(line_m: float, way_m: Floats, time_s: Floats, speeds: Floats) -> float | None:
    """When the line is reached; the last stretch is carried on at the last speed for at most a tenth of the way."""
    if way_m[-1] >= line_m:
        return float(np.interp(line_m, way_m, time_s))
    return float(time_s[-1] + (line_m - way_m[-1]) / speeds[-1]) if way_m[-1] > 0.9 * line_m else None

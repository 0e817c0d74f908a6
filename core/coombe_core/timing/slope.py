"""Slope of the strip from the trace's own altitude."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from coombe_core.trace import Trace
from coombe_core.uncertainty import COVERAGE_95, Value

Floats = NDArray[np.float64]
LEAST_M = 20.0
LEAST_FIXES = 5
STILL_MPS = 0.3  # stricter than at rest: what the altitude does here is its drift
DRIFT_LAG_S = 1.0
DRIFT_M2_PER_S = 0.01  # where the log holds no rest to see it in: 0.1 m in a second, common for receivers
SLOPE_OF_WALK = 1.2


def slope_percent(distance_m: Floats, fixes: Trace, around: Trace) -> Value | None:
    """Work out the slope by vertical Doppler speed or by altitude, whichever is surer.

    Parameters
    ----------
    distance_m : array of float, shape (n,)
        Fitted distance at the fixes.
    fixes : Trace
        Those of the run (n).
    around : Trace
        Those near it, at rest too.

    Returns
    -------
    Value or None
        Percent, positive uphill; None for under 20 m, or where neither is logged five times.
    """
    if not distance_m.size or distance_m[-1] - distance_m[0] < LEAST_M:
        return None
    found = [each for each in (slope_by_climb(fixes), slope_by_altitude(distance_m, fixes, around)) if each]
    return min(found, key=lambda each: each.u95) if found else None


def slope_by_climb(fixes: Trace) -> Value | None:
    """Work out the slope as what was climbed over what was driven, both by Doppler speed.

    The interval is that of a mean of n values whose scatter has the lag-1 correlation r: s sqrt((1 + r) / (1 - r) / n).

    Parameters
    ----------
    fixes : Trace
        Those of the run.

    Returns
    -------
    Value or None
        Percent, positive uphill.
    """
    known = np.isfinite(fixes.climb_mps)
    climb, speed = fixes.climb_mps[known], fixes.speed_mps[known]
    if climb.size < LEAST_FIXES or not speed.any():
        return None
    slope = float(climb.mean() / speed.mean())
    scatter = climb - slope * speed
    power = float(scatter @ scatter)
    link = float(np.clip(scatter[1:] @ scatter[:-1] / power, 0.0, 0.95)) if power else 0.0
    variance = power / (climb.size - 1) / climb.size * (1 + link) / (1 - link)
    return Value(100.0 * slope, 100.0 * COVERAGE_95 * float(np.sqrt(variance)) / float(speed.mean()))


def slope_by_altitude(distance_m: Floats, fixes: Trace, around: Trace) -> Value | None:
    """Work out the slope by least squares of the altitude against distance; arguments as of `slope_percent`.

    The interval allows for scatter about the line and for slow drift of altitude during the run, which the line itself
    hides: drift is taken as a random walk whose rate shows while the car is at rest, and the least-squares slope of a
    walk over a time T and a distance D has the variance 6/5 rate T / D^2.
    """
    known = np.isfinite(fixes.altitude_m)
    s, height = distance_m[known], fixes.altitude_m[known]
    if s.size < LEAST_FIXES or s[-1] - s[0] < LEAST_M:
        return None
    centered = s - s.mean()
    spread = float(centered @ centered)
    slope = float(centered @ height) / spread
    residuals = height - height.mean() - slope * centered
    scatter = float(residuals @ residuals) / (s.size - 2) / spread
    drift = SLOPE_OF_WALK * drift_m2_per_s(around) * fixes.duration_s / float(s[-1] - s[0]) ** 2
    return Value(100.0 * slope, 100.0 * COVERAGE_95 * float(np.sqrt(scatter + drift)))


def drift_m2_per_s(around: Trace) -> float:
    """Estimate how fast the variance of altitude grows while the car is at rest, in m^2 per second."""
    rest = np.where(around.speed_mps < STILL_MPS, around.altitude_m, np.nan)
    lag = max(round(DRIFT_LAG_S * around.rate_hz), 1)
    steps = rest[lag:] - rest[:-lag]
    steps = steps[np.isfinite(steps)]
    return float(np.mean(steps**2)) / (lag / around.rate_hz) if steps.size else DRIFT_M2_PER_S

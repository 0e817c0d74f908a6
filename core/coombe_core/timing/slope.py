"""Slope of the strip from the trace's own altitude."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from coombe_core.timing.estimate import COVERAGE_95, Value
from coombe_core.trace import Trace

Floats = NDArray[np.float64]
LEAST_M = 20.0
AT_REST_MPS = 0.3
DRIFT_LAG_S = 1.0
DRIFT_M2_PER_S = 0.01  # where the log holds no rest to see it in: 0.1 m in a second, common for receivers
SLOPE_OF_WALK = 1.2


def slope_percent(distance_m: Floats, fixes: Trace, around: Trace) -> Value | None:
    """Slope in percent, positive uphill: least squares of the fixes' altitude against distance.

    The interval allows for scatter about the line and for slow drift of altitude during the run, which the line
    itself hides: drift is taken as a random walk whose rate shows while the car is at rest (in `around`), and the
    least-squares slope of a walk over a time T and a way D has the variance 6/5 rate T / D^2. None under 20 m or 5
    altitudes.
    """
    known = np.isfinite(fixes.altitude_m)
    s, height = distance_m[known], fixes.altitude_m[known]
    if s.size < 5 or s[-1] - s[0] < LEAST_M:
        return None
    centered = s - s.mean()
    spread = float(centered @ centered)
    slope = float(centered @ height) / spread
    residuals = height - height.mean() - slope * centered
    scatter = float(residuals @ residuals) / (s.size - 2) / spread
    drift = SLOPE_OF_WALK * drift_m2_per_s(around) * fixes.duration_s / float(s[-1] - s[0]) ** 2
    return Value(100.0 * slope, 100.0 * COVERAGE_95 * float(np.sqrt(scatter + drift)))


def drift_m2_per_s(around: Trace) -> float:
    """How fast the variance of altitude grows while the car is at rest, in square metres a second."""
    rest = np.where(around.speed_mps < AT_REST_MPS, around.altitude_m, np.nan)
    lag = max(round(DRIFT_LAG_S * around.rate_hz), 1)
    steps = rest[lag:] - rest[:-lag]
    steps = steps[np.isfinite(steps)]
    return float(np.mean(steps**2)) / (lag / around.rate_hz) if steps.size else DRIFT_M2_PER_S

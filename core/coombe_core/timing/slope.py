"""Slope of the strip from the trace's own altitude."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from coombe_core.timing.estimate import COVERAGE_95, Value

Floats = NDArray[np.float64]
LEAST_M = 20.0
MOST_CORRELATED = 0.98


def slope_percent(distance_m: Floats, altitude_m: Floats) -> Value | None:
    """Slope in percent, positive uphill, of altitude against distance by least squares.

    The interval allows for first-order correlated altitude errors by an effective number of fixes,
    n (1 - r) / (1 + r), r the residuals' lag-1 correlation (Bartlett 1935). None under 20 m or 5 altitudes.
    """
    known = np.isfinite(altitude_m)
    s, height = distance_m[known], altitude_m[known]
    if s.size < 5 or s[-1] - s[0] < LEAST_M:
        return None
    centered = s - s.mean()
    spread = float(centered @ centered)
    slope = float(centered @ height) / spread
    residuals = height - height.mean() - slope * centered
    power = float(residuals @ residuals)
    link = float(residuals[1:] @ residuals[:-1]) / power if power > 0 else 0.0
    link = min(max(link, 0.0), MOST_CORRELATED)
    variance = power / (s.size - 2) / spread * (1 + link) / (1 - link)
    return Value(100.0 * slope, 100.0 * COVERAGE_95 * float(np.sqrt(variance)))

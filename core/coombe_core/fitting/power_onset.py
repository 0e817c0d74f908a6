"""About when full power comes in: where a line of steady speed bends into a pull, by least squares."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from coombe_core.fitting.fixes import Fixes

Floats = NDArray[np.float64]
BEFORE_S, AFTER_S = 1.0, 2.0  # so much of the motion about the rough instant is looked at
EARLIER_S, LATER_S, STEP_S = 0.4, 1.2, 0.02  # where it is sought
LEAST_FIXES, RIDGE = 6, 1e-6


def power_onset(fixes: Fixes, rough_s: float) -> float:
    """Find where a pull begins.

    Parameters
    ----------
    fixes : Fixes
    rough_s : float
        About when it does.

    Returns
    -------
    float
        In seconds; `rough_s` where few fixes are near.
    """
    near = fixes.part((fixes.time_s > rough_s - BEFORE_S) & (fixes.time_s < rough_s + AFTER_S))
    if near.time_s.size < LEAST_FIXES:
        return rough_s
    at_s = rough_s + np.arange(-EARLIER_S, LATER_S, STEP_S)
    since_s = near.time_s - at_s[:, None]
    pulled_s = np.maximum(since_s, 0.0)
    x = np.stack([np.ones_like(since_s), since_s, pulled_s, pulled_s**2], axis=2)
    moment = x.transpose(0, 2, 1) @ near.speed_mps
    solution = np.linalg.solve(x.transpose(0, 2, 1) @ x + RIDGE * np.eye(x.shape[2]), moment[:, :, None])[:, :, 0]
    return float(at_s[int(np.argmax((solution * moment).sum(axis=1)))])

"""Single fixes that no car can follow: off the line between those beside them by more than any tire grips.

A fix is judged by the one before it and the one after it, the same in a file and in a stream.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from coombe_core.trace import Trace
from coombe_core.units import STANDARD_GRAVITY_MPS2

Floats = NDArray[np.float64]
BEYOND_ANY_TIRE_MPS2 = 3.0 * STANDARD_GRAVITY_MPS2
LEAST_JUMP_MPS = 1.0  # less can be noise, at a high rate
# From pulling as hard as tires grip to braking so, a fix is as far off that line as this acceleration goes in a step.
OFF_MPS2, LEAST_OFF_MPS = 1.5 * STANDARD_GRAVITY_MPS2, 1.2
# Those beside it are no further apart than a car changes speed, and it is further from each, unlike the one beside it.
TREND_MPS2 = 1.25 * STANDARD_GRAVITY_MPS2


def glitches(times_s: Floats, speeds_mps: Floats) -> NDArray[np.bool_]:
    """Say which fixes (n) are such; the first and the last are none."""
    found = np.zeros(times_s.size, dtype=np.bool_)
    if times_s.size > 2:
        jumps, steps_s = np.diff(speeds_mps), np.diff(times_s)
        there, back, over_s = jumps[:-1], jumps[1:], times_s[2:] - times_s[:-2]
        off = np.abs(there * steps_s[1:] - back * steps_s[:-1]) / over_s
        smaller, trend_mps = np.minimum(np.abs(there), np.abs(back)), TREND_MPS2 * over_s
        alone = (there * back < 0.0) & (smaller > np.maximum(trend_mps, LEAST_OFF_MPS) / 2)
        alone &= np.abs(there + back) < np.maximum(trend_mps, smaller / 2)  # back at once, or nearly so
        found[1:-1] = alone & (off > np.maximum(OFF_MPS2 * over_s / 2, LEAST_OFF_MPS))
    return found


def is_glitch(before: tuple[float, float], fix: tuple[float, float], after: tuple[float, float]) -> bool:
    """Say whether a fix is such; each is a time in seconds and a speed in m/s."""
    return bool(glitches(*np.array([before, fix, after]).T)[1])


def is_jump(before: tuple[float, float], fix: tuple[float, float]) -> bool:
    """Say whether a fix, by the one before it alone, may be such."""
    jump = abs(fix[1] - before[1])
    return jump > LEAST_JUMP_MPS and jump > BEYOND_ANY_TIRE_MPS2 * (fix[0] - before[0])


def without_glitches(trace: Trace) -> tuple[Trace, int]:
    """Leave such fixes out of a trace, and say how many they were."""
    found = glitches(trace.elapsed_s, trace.speed_mps)
    return (trace.only(~found), int(found.sum())) if found.any() else (trace, 0)

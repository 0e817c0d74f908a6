"""Roll-ons: how long a car takes from the instant of full power, or from a speed; who is ahead; when power comes."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from coombe_core.curve import Curve
from coombe_core.interpolation import crossing
from coombe_core.studies.problem import StudyError
from coombe_core.uncertainty import Value, coverage_95

Floats = NDArray[np.float64]
LEAST_PULLS = 2
STEP_S = 0.05
PRESSED_PERCENT = 50.0
LONGEST_DELAY_S = 3.0


def from_full_power(curves: Sequence[Curve], to_mps: float, from_mps: float | None = None) -> Value:
    """Average the time to a speed over the pulls of a car.

    Parameters
    ----------
    curves : sequence of Curve
        Their clock's zero is the instant of full power.
    to_mps : float
    from_mps : float, optional
        Where the time begins instead.

    Returns
    -------
    Value
        In seconds, with Student's interval of the mean.

    Raises
    ------
    StudyError
        Where fewer than two pulls passed both.
    """
    ends = [crossing(to_mps, curve.speed_mps, curve.since_s) for curve in curves]
    begun = [crossing(from_mps, curve.speed_mps, curve.since_s) if from_mps else 0.0 for curve in curves]
    times = np.array([e - b for e, b in zip(ends, begun, strict=True) if e is not None and b is not None])
    if times.size < LEAST_PULLS:
        raise StudyError("too few", {"runs": times.size, "least": LEAST_PULLS})
    quantile = coverage_95(times.size - 1)
    return Value(float(times.mean()), quantile * float(times.std(ddof=1)) / math.sqrt(times.size))


def gap_m(first: Sequence[Curve], second: Sequence[Curve], until_mps: float) -> tuple[Floats, Floats]:
    """How far the first car is ahead of the second, side by side at full power at the same instant.

    Each car's distance since full power is the mean of its pulls; a pull that begins slower than another is not put
    right for that.

    Parameters
    ----------
    first, second : sequence of Curve
        Their clock's zero is the instant of full power.
    until_mps : float
        The gap ends where the first pull reaches this speed.

    Returns
    -------
    (array of float, shape (n,), array of float, shape (n,))
        Seconds since full power, and meters by which the first car is ahead.
    """
    ends = [crossing(until_mps, curve.speed_mps, curve.since_s) for curve in (*first, *second)]
    until_s = min(curve.since_s[-1] if end is None else end for curve, end in zip((*first, *second), ends, strict=True))
    at_s = np.arange(0.0, until_s, STEP_S)
    ahead, behind = (np.mean([_distance_m(curve, at_s) for curve in curves], axis=0) for curves in (first, second))
    return at_s, np.asarray(ahead - behind)


def _distance_m(curve: Curve, at_s: Floats) -> Floats:
    """Distance since full power."""
    distance_m = np.interp(at_s, curve.since_s, curve.distance_m)
    return np.asarray(distance_m - np.interp(0.0, curve.since_s, curve.distance_m))


def response_delay_s(since_s: Floats, pedal_percent: Floats) -> float | None:
    """From the instant at which the pedal passes half to that of full power, which is the zero of the clock.

    Parameters
    ----------
    since_s, pedal_percent : array of float, shape (n,)
        Since full power; the accelerator pedal.

    Returns
    -------
    float or None
        In seconds; None where the pedal was not pressed within three seconds before.
    """
    near = (since_s > -LONGEST_DELAY_S) & (since_s < STEP_S * 10) & np.isfinite(pedal_percent)
    pressed_s = crossing(PRESSED_PERCENT, pedal_percent[near], since_s[near]) if near.any() else None
    return None if pressed_s is None else -pressed_s

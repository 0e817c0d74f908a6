"""Roll-ons: how long a car takes from the instant of full power, or from a speed, to another speed."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from coombe_core.curve import Curve
from coombe_core.interpolation import crossing
from coombe_core.studies.problem import StudyError
from coombe_core.uncertainty import Value

LEAST_PULLS = 2


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
    from scipy import stats

    ends = [crossing(to_mps, curve.speed_mps, curve.since_s) for curve in curves]
    begun = [crossing(from_mps, curve.speed_mps, curve.since_s) if from_mps else 0.0 for curve in curves]
    times = np.array([e - b for e, b in zip(ends, begun, strict=True) if e is not None and b is not None])
    if times.size < LEAST_PULLS:
        raise StudyError("too few", {"runs": times.size, "least": LEAST_PULLS})
    quantile = float(stats.t.ppf(0.975, times.size - 1))
    return Value(float(times.mean()), quantile * float(times.std(ddof=1)) / math.sqrt(times.size))

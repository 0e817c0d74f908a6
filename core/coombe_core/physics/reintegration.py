"""A run driven again with its acceleration changed by what differs: a slope, another air, a mass."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from coombe_core.curve import Curve

Floats = NDArray[np.float64]
LAUNCH_MPS = 0.3  # below this the ramp decides and slope does next to nothing
LEAST_MPS2 = 0.05


def reintegrated(curve: Curve, extra_mps2: Floats) -> Curve | None:
    """Integrate a pull again with something added to its acceleration, speed by speed.

    Each step in speed takes dv / (a(v) + extra) instead of dv / a(v); what happened below 0.3 m/s stays as it was.

    Parameters
    ----------
    curve : Curve
        The fitted motion of a pull (n samples).
    extra_mps2 : array of float, shape (n,)
        What to add to the acceleration, sample by sample.

    Returns
    -------
    Curve or None
        The motion at the samples where the speed rose; None where those are fewer than three.
    """
    speed = np.maximum.accumulate(curve.speed_mps)
    rising = np.flatnonzero((np.diff(speed) > 0) & (speed[1:] > LAUNCH_MPS)) + 1
    if rising.size < 3:
        return None
    gain = np.diff(speed)[rising - 1]
    pace = gain / np.diff(curve.since_s)[rising - 1] + extra_mps2[rising]
    step_s = gain / np.maximum(pace, LEAST_MPS2)
    first = rising[0] - 1
    return Curve(
        since_s=curve.since_s[first] + np.concatenate([[0.0], np.cumsum(step_s)]),
        speed_mps=np.concatenate([[speed[first]], speed[rising]]),
        distance_m=curve.distance_m[first] + np.concatenate([[0.0], np.cumsum(step_s * (speed[rising] - gain / 2))]),
        acceleration_mps2=np.concatenate([curve.acceleration_mps2[first : first + 1], pace]),
    )

"""One mean and one covariance over all torque ramps, and over the parameters that were eliminated meanwhile."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from coombe_core.fitting.motion import Reduced

Floats = NDArray[np.float64]


def mixed(weights: Floats, numbers: Floats, slopes: Floats, covariances: Floats) -> tuple[Floats, Floats]:
    """Mean (p) and covariance (p x p) of a mixture: the mean covariance plus the covariance of the means.

    Under each of K components the numbers (K x p) change by `slopes` (K x p x q) with parameters of that covariance
    (K x q x q).
    """
    mean = weights @ numbers
    apart = numbers - mean
    weighted = weights[:, None, None] * (slopes @ covariances)
    within = np.tensordot(weighted, slopes, axes=([0, 2], [0, 2]))
    return mean, np.asarray(within + (weights * apart.T) @ apart)


def with_the_rest(mean: Floats, covariance: Floats, reduced: Reduced) -> tuple[Floats, Floats]:
    """Mean and covariance with the parameters that had been eliminated, which follow from the last of the others."""
    rest, last = reduced.rest_by_first.shape
    follow = np.vstack([np.eye(mean.size), np.zeros((rest, mean.size))])
    follow[mean.size :, -last:] = -reduced.rest_by_first
    whole, spread = follow @ mean, follow @ covariance @ follow.T
    whole[mean.size :] += reduced.rest
    spread[mean.size :, mean.size :] += reduced.rest_covariance
    return whole, spread

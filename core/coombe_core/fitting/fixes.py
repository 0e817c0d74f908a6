"""Fixes as a fit takes them: weighted, unclamped, and with their correlated noise taken out."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
CLAMPED_TO, LEAST_CLAMPED, MOST_CLAMPED = 3.0, 0.25, 0.75
HALF_NORMAL_MEAN = 0.7979  # sqrt(2 / pi)


@dataclass(frozen=True)
class Fixes:
    """Times, speeds and relative weights (n each) of some fixes, and the usual step between two."""

    time_s: Floats
    speed_mps: Floats
    weight: Floats
    step_s: float

    def part(self, chosen: NDArray[np.bool_]) -> Fixes:
        """Those fixes alone."""
        return Fixes(self.time_s[chosen], self.speed_mps[chosen], self.weight[chosen], self.step_s)

    def unclamped(self, noise_mps: float) -> Fixes:
        """Fixes at rest as they were before the receiver held negative speeds at zero.

        Where it does so, about half of them are zero; each stands for the mean of the lower half of the noise
        (a censored normal variable). A receiver that holds all of them at zero is left as it is.
        """
        rest = self.speed_mps < CLAMPED_TO * noise_mps
        zero = self.speed_mps == 0.0
        if not rest.any() or not LEAST_CLAMPED < zero.sum() / rest.sum() < MOST_CLAMPED:
            return self
        return replace(self, speed_mps=np.where(zero, -HALF_NORMAL_MEAN * noise_mps, self.speed_mps))

    def whitened(self, rows: Floats, correlation: float) -> Floats:
        """Rows (..., n, p) with the weights applied and first-order autoregressive noise taken out."""
        weighted = rows * self.weight[:, None]
        if correlation == 0.0 or self.time_s.size < 2:
            return weighted
        link = correlation ** (np.diff(self.time_s) / self.step_s)
        out = weighted.copy()
        out[..., 1:, :] -= link[:, None] * weighted[..., :-1, :]
        out[..., 1:, :] /= np.sqrt(1.0 - link**2)[:, None]
        return out

    def log_scale(self, correlation: float) -> float:
        """Log of the scaling that whitening does, for likelihoods."""
        if correlation == 0.0:
            return 0.0
        return float(-0.5 * np.log1p(-(correlation ** (2 * np.diff(self.time_s) / self.step_s))).sum())

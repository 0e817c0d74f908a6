"""Fixes as a fit takes them: weighted, unclamped, and with their correlated noise taken out."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from coombe_core.interpolation import median
from coombe_core.uncertainty import Value

Floats = NDArray[np.float64]
CLAMPED_TO, LEAST_CLAMPED, MOST_CLAMPED = 3.0, 0.25, 0.75
MOVING_UNSEEN_S = 0.7  # no longer does a hard launch stay under what receivers hold at zero
UNIFORM_SPREAD = 1 / np.sqrt(12.0)
NEAR_S, LEAST_NEAR = 0.4, 6  # how noisy fixes are is seen over so long, and so many of them
BY_CHANCE = 3.3
LIKE_THE_USUAL = 3.0  # fixes for which the usual noise counts in every window
CLEARLY_UNEVEN = 1.25  # in the mean over all fixes, by how much noisier than the usual they are
HALF_NORMAL_MEAN = 0.7979  # sqrt(2 / pi)


@dataclass(frozen=True)
class Fixes:
    """Times, speeds and relative weights (n each) of some fixes, the usual step between two, and what smooths them.

    `uneven` are those whose noise clearly was not the same throughout a first fit.
    """

    time_s: Floats
    speed_mps: Floats
    weight: Floats
    step_s: float
    smoothing_s: Value | None = None
    uneven: bool = False

    def part(self, chosen: NDArray[np.bool_] | slice) -> Fixes:
        """Those fixes alone."""
        time_s, speed_mps, weight = (each[chosen] for each in (self.time_s, self.speed_mps, self.weight))
        return replace(self, time_s=time_s, speed_mps=speed_mps, weight=weight)

    def unclamped(self, noise_mps: float) -> Fixes:
        """Fixes at rest as they were before the receiver held negative speeds at zero.

        Where it does so, about half of them are zero; each stands for the mean of the lower half of the noise
        (a censored normal variable). Where it holds all of them at zero, they are `released`.
        """
        rest = self.speed_mps < CLAMPED_TO * noise_mps
        zero = self.speed_mps == 0.0
        if not rest.any() or zero.sum() < LEAST_CLAMPED * rest.sum():
            return self
        if zero.sum() > MOST_CLAMPED * rest.sum():
            return self._released(noise_mps)
        return replace(self, speed_mps=np.where(zero, -HALF_NORMAL_MEAN * noise_mps, self.speed_mps))

    def _released(self, noise_mps: float) -> Fixes:
        """Without the zeros of a car that already moved, for all that is known.

        Of a receiver that holds speeds at zero below some limit, zeros say no more than that the car was slower than
        its first other speed: the last of them is taken as anything from zero to that, those just before it left out.
        """
        moving = np.flatnonzero(self.speed_mps > 0.0)
        if not moving.size or moving[0] == 0:
            return self
        first, last_zero = int(moving[0]), int(moving[0]) - 1
        limit_mps = float(self.speed_mps[first])
        if limit_mps < CLAMPED_TO * noise_mps:
            return self
        speed, weight = self.speed_mps.copy(), self.weight.copy()
        speed[last_zero] = limit_mps / 2
        weight[last_zero] = min(weight[last_zero], noise_mps / (limit_mps * UNIFORM_SPREAD))
        kept = (self.time_s < self.time_s[first] - MOVING_UNSEEN_S) | (np.arange(speed.size) >= last_zero)
        return replace(self, speed_mps=speed, weight=weight).part(kept)

    def steadied(self, residuals: Floats) -> Fixes:
        """Fixes weighted by how noisy those near each are; themselves where the noise is the same throughout.

        Parameters
        ----------
        residuals : array of float, shape (n,)
            What a first fit leaves of them, weighted and whitened; nan where it says nothing of the noise.

        Returns
        -------
        Fixes
            A burst of noise, or noise that grows with acceleration, shows as windows whose variance is far over the
            usual one: over what chance gives one window in two thousand (chi-squared by Wilson and Hilferty, 1931).
        """
        seen = np.flatnonzero(np.isfinite(residuals))
        near = max(round(NEAR_S / self.step_s), LEAST_NEAR)
        if seen.size < 2 * near:
            return self
        squares = np.convolve(residuals[seen] ** 2, np.ones(near), "same")
        counts = np.convolve(np.ones(seen.size), np.ones(near), "same")
        usual = max(median(squares / counts), 1e-12)
        ratios = squares / counts / usual
        part = 2.0 / (9.0 * counts)
        if (ratios < (1.0 - part + BY_CHANCE * np.sqrt(part)) ** 3).all():
            return self
        weight = self.weight.copy()
        noisier = (LIKE_THE_USUAL + squares / usual) / (LIKE_THE_USUAL + counts)
        weight[seen] /= np.sqrt(np.maximum(noisier, 1.0))
        uneven = float(np.maximum(noisier, 1.0).mean()) > CLEARLY_UNEVEN
        return replace(self, weight=weight, uneven=uneven)

    def whitening(self, correlation: float) -> Whitening:
        """What takes first-order autoregressive noise out of rows of these fixes, and applies their weights."""
        now, before = self.weight.copy(), np.zeros(max(self.weight.size - 1, 0))
        if correlation == 0.0 or self.time_s.size < 2:
            return Whitening(now, before, 0.0)
        link = correlation ** (np.diff(self.time_s) / self.step_s)
        scale = 1.0 / np.sqrt(1.0 - link**2)
        now[1:] *= scale
        return Whitening(now, self.weight[:-1] * link * scale, float(np.log(scale).sum()))


@dataclass(frozen=True, eq=False)
class Whitening:
    """Factors of each fix (n) and of the one before it (n - 1), and the log of the scaling that they do."""

    now: Floats
    before: Floats
    log_scale: float

    def __call__(self, rows: Floats) -> Floats:
        """Rows (..., n, p) as independent noise of one size would leave them."""
        white = rows * self.now[:, None]
        white[..., 1:, :] -= rows[..., :-1, :] * self.before[:, None]
        return white

    def since(self, first: int) -> Whitening:
        """The same for the fixes from one on, before which nothing has rows."""
        return Whitening(self.now[first:], self.before[first:], self.log_scale)

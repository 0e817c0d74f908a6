"""The brake onset: the instant at which deceleration departs from coasting or regeneration, and the speed there.

Near it, speed is a line that is left by a ramp of deceleration; before it the car may just have begun to coast, which
bends the line. Onset, bite and bend are averaged over, each by its marginal likelihood.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from coombe_core.fitting.fixes import Fixes
from coombe_core.fitting.smoothing import taken_out_s
from coombe_core.uncertainty import COVERAGE_95, Value

Floats = NDArray[np.float64]
STEP_S = 0.02
REACH_S = 0.6
SOUGHT_S = 0.4
BITE_S = (0.05, 0.13, 0.21, 0.3)
COASTED_S = (0.15, 0.32)
# Known beforehand of speed, coasting, bend, braking and its change (1 sigma, SI units; the speed may be anything).
SPREADS = np.array([1e3, 2.0, 2.0, 12.0, 4.0])
LEAST_FIXES = 6
SMOOTHED_BITE = 2.0  # over so many time constants longer a bite comes as late as behind a filter


@dataclass(frozen=True)
class Onset:
    """Every onset that the fixes leave possible (K each): its weight, instant, speed and the speed's variance."""

    weights: Floats
    instants_s: Floats
    speeds_mps: Floats
    speed_variances: Floats

    @property
    def instant_s(self) -> Value:
        """The instant, on the fixes' time axis."""
        return self._averaged(self.instants_s, np.full(self.weights.size, STEP_S**2 / 12))

    def at_pedal(self, pedal_s: Value) -> Onset:
        """With what the brake pedal's own signal says of the instant."""
        spread_s = max(pedal_s.u95 / COVERAGE_95, STEP_S / 2)
        weights = self.weights * np.exp(-0.5 * ((self.instants_s - pedal_s.value) / spread_s) ** 2)
        if weights.sum() < 1e-12:
            weights = np.exp(-np.abs(self.instants_s - pedal_s.value) / STEP_S)
        return replace(self, weights=weights / weights.sum())

    @property
    def speed_mps(self) -> Value:
        """The speed at the onset."""
        return self._averaged(self.speeds_mps, self.speed_variances)

    def corrected_distance_m(self, to_rest_m: Value, nominal_mps: float) -> Value:
        """s (v_nominal / v_initial)^2, where `to_rest_m` is the distance to rest from the mean instant.

        An earlier onset is a longer distance at a higher speed: each is taken with its own speed.
        """
        earlier_s = self.instant_s.value - self.instants_s
        distances = (to_rest_m.value + self.speeds_mps * earlier_s) * (nominal_mps / self.speeds_mps) ** 2
        by_speed = self.speed_variances * (2 * distances / self.speeds_mps) ** 2
        return self._averaged(distances, by_speed + (to_rest_m.u95 / COVERAGE_95) ** 2)

    def mean_deceleration_mps2(self, rest_s: Value) -> Value:
        """Speed at the onset over the time to rest (an instant on the fixes' axis); an earlier onset was faster."""
        over_s = rest_s.value - self.instants_s
        means = self.speeds_mps / over_s
        relative = self.speed_variances / self.speeds_mps**2 + (rest_s.u95 / COVERAGE_95 / over_s) ** 2
        relative = relative + STEP_S**2 / 12 / over_s**2
        return self._averaged(means, means**2 * relative)

    def _averaged(self, values: Floats, variances: Floats) -> Value:
        mean = float(self.weights @ values)
        return Value(mean, COVERAGE_95 * float(np.sqrt(self.weights @ (variances + (values - mean) ** 2))))


def brake_onset(fixes: Fixes, rough_s: float, noise_mps: float, correlation: float) -> Onset:
    """Find the instant at which deceleration departs from coasting.

    Onset, bite and bend are averaged over a grid, each weighted by its marginal likelihood.

    Parameters
    ----------
    fixes : Fixes
    rough_s : float
        About when it was; it is sought within 0.4 s of that or, where few fixes are near, anywhere in the step
        after it.
    noise_mps : float
        The receiver's noise, 1 sigma.
    correlation : float
        Of the noise of two fixes in a row.

    Returns
    -------
    Onset
    """
    near = fixes.part(np.abs(fixes.time_s - rough_s) < REACH_S)
    if near.time_s.size < LEAST_FIXES:
        around = rough_s + fixes.step_s * np.array([0.0, 0.5, 1.0])
        speeds = np.interp(around, fixes.time_s, fixes.speed_mps)
        return Onset(np.full(3, 1 / 3), around, speeds, np.full(3, noise_mps**2))
    smoothing_s = taken_out_s(fixes.smoothing_s)
    instants = np.arange(-SOUGHT_S, SOUGHT_S, STEP_S)
    leads = np.array([np.inf, *COASTED_S])
    grid = np.array([(at, bite, lead) for at in instants for bite in BITE_S for lead in leads])
    grid[:, 1] += SMOOTHED_BITE * smoothing_s
    whitening = near.whitening(correlation)
    x = whitening(_columns(near.time_s - rough_s, *grid.T[:, :, None]))
    y = whitening(near.speed_mps[:, None])[:, 0]
    gram = x.transpose(0, 2, 1) @ x + np.diag((noise_mps / SPREADS) ** 2)
    moment = x.transpose(0, 2, 1) @ y
    inverse = np.asarray(np.linalg.inv(gram), dtype=np.float64)
    solution = np.einsum("kij,kj->ki", inverse, moment)
    cost = float(y @ y) - np.einsum("ki,ki->k", solution, moment)
    scores = -0.5 * (cost / noise_mps**2 - np.linalg.slogdet(inverse)[1])
    weights = np.exp(scores - scores.max())
    true_speed = np.array([1.0, smoothing_s, 0.0, 0.0, 0.0])  # what is shown plus what it changes over the smoothing
    variances = noise_mps**2 * (inverse @ true_speed @ true_speed)
    return Onset(weights / weights.sum(), rough_s + grid[:, 0], solution @ true_speed, variances)


def _columns(t: Floats, at: Floats, bite: Floats, lead: Floats) -> Floats:
    """Rows (K x n x 5): speed at the onset, coasting, the bend before it, braking, and its change."""
    since = np.maximum(t - at, 0.0)
    lost = np.where(since < bite, since**2 / (2 * bite), since - bite / 2)
    bend = np.maximum(at - lead - t, 0.0)
    return np.stack(np.broadcast_arrays(np.ones_like(t), t - at, bend, lost, lost * since), axis=-1)

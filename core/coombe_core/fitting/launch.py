"""The launch instant under every ramp that the fixes leave possible, each weighted by its marginal likelihood.

Near the launch the acceleration is a ramp times one cubic, so that speed and distance are closed forms (integration
by parts). The fixes after the join count through the normal equations of `Motion`, reduced to what both share.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.fitting.fixes import Fixes, Whitening
from coombe_core.fitting.motion import Motion, Reduced, TooFewFixesError
from coombe_core.fitting.spline import FACTORIALS
from coombe_core.fitting.torque_ramp import USUAL_DELAY_S, Ramps, integrals_of_shapes

Floats = NDArray[np.float64]
CUBIC = 4
MOVING_MPS = 1.0
BY_PARTS = np.array([[1.0, 0.0, 0.0, 0.0], [1.0, -1.0, 1.0, -1.0], [1.0, -2.0, 3.0, -4.0]])  # by order and part
ROUNDS = 12
MOST_SHIFT_S = 0.06
SETTLED_S = 1e-3
GRID = 120
NEWTON_STEPS = 2
SURE_OF_THE_UNLIKELY, FAR_LESS_LIKELY = 3, 12.0  # after so many turns a ramp so far behind (log) does not catch up
HARDLY_LIKELY = 9.0  # so far behind in the end it changes hardly anything


class Launch:
    """K ramps: weights (K), instants (K), cubic's coefficients (K x 4) and the covariances of both (K x 5 x 5).

    Ramps that the fixes rule out are left out on the way; `of_all` keeps what was known of every one.

    `fit_launch` makes one. Parameters of a ramp are the four coefficients, then the instant.
    """

    def __init__(self, motion: Motion, rough_s: float, join_s: float, ramps: Ramps) -> None:
        self._knot_s = float(motion.spline.inner_s[0])
        self.join_s = join_s
        self._polynomial = motion.spline.polynomial()[:, :CUBIC]
        self._ramps = ramps
        self.instants_s = rough_s + USUAL_DELAY_S - ramps.delays_s
        self.coefficients: Floats = np.zeros((self.instants_s.size, CUBIC))
        self.weights: Floats = np.full(self.instants_s.size, 1.0 / self.instants_s.size)
        self.covariances: Floats = np.zeros((self.instants_s.size, CUBIC + 1, CUBIC + 1))
        self._left = np.arange(self.instants_s.size)  # which of all ramps are still possible
        self._all_weights, self._all_instants_s = np.zeros(self.instants_s.size), self.instants_s.copy()

    @property
    def of_all(self) -> tuple[Floats, Floats]:
        """The weight of every ramp, 0 of those that were left out early, and the instant of first movement under it."""
        return self._all_weights, self._all_instants_s

    @property
    def delays_s(self) -> Floats:
        """By how much later torque at once would give the same speed in the end as each ramp (K)."""
        return self._ramps.delays_s

    def settle(self, fixes: Fixes, motion: Motion) -> None:
        """Gauss-Newton over all ramps at once; then weigh each by its marginal likelihood."""
        after_join, whitening = motion.reduced(1 + CUBIC), fixes.whitening(motion.correlation)
        at_s = np.append(fixes.time_s, self.join_s)
        seen = Early(at_s, self._cubic(1, at_s), whitening, whitening(fixes.speed_mps[:, None])[:, 0])
        earliest_s, latest_s = self._knot_s + 0.02, self.join_s - 0.25
        for turn in range(ROUNDS):
            gram, moment = self._normal(seen, after_join)
            solution = np.asarray(np.linalg.solve(gram, moment[..., None])[..., 0], dtype=np.float64)
            self.coefficients = solution[:, :CUBIC]
            if turn == 0:
                continue  # without coefficients, nothing changed with the instant yet
            shift_s = np.clip(solution[:, CUBIC], -MOST_SHIFT_S, MOST_SHIFT_S)
            scores = self._scores(gram, moment, solution, motion.variance)
            possible = scores > -FAR_LESS_LIKELY
            if np.abs(shift_s[possible]).max() < SETTLED_S:
                break
            self.instants_s = np.clip(self.instants_s + shift_s, earliest_s, latest_s)
            if turn == SURE_OF_THE_UNLIKELY:
                self._keep(possible)
        self._all_weights[self._left] = np.exp(scores) / np.exp(scores).sum()
        likely = scores > -HARDLY_LIKELY
        self._keep(likely)
        self.weights = self._all_weights[self._left] / self._all_weights[self._left].sum()
        self.covariances = motion.variance * np.asarray(np.linalg.inv(gram[likely]), dtype=np.float64)

    def _scores(self, gram: Floats, moment: Floats, solution: Floats, variance: float) -> Floats:
        """The log of every ramp's probability, less that of the likeliest."""
        explained = np.einsum("kj,kj->k", solution, moment)
        scores = np.log(self._ramps.prior) + 0.5 * (explained / variance - np.linalg.slogdet(gram)[1])
        return np.asarray(scores - scores.max())

    def _keep(self, likely: NDArray[np.bool_]) -> None:
        self._all_instants_s[self._left] = self.instants_s
        self._left, self._ramps = self._left[likely], self._ramps.only(likely)
        self.instants_s, self.coefficients = self.instants_s[likely], self.coefficients[likely]

    def _normal(self, seen: Early, after_join: Reduced) -> tuple[Floats, Floats]:
        """Normal equations (K x 5 x 5, K x 5) of the fixes before the join, with what those after it say."""
        first = max(int(np.searchsorted(seen.at_s, self.instants_s.min())) - 1, 0)  # zero before
        rows = self._with_instant(self._with_ramps(1, seen.at_s[first:], seen.cubic[first:]))
        x, y = seen.whitening.since(first)(rows[:, :-1]), seen.whitened_mps[first:]
        shared = self._shared(rows[:, -1])
        across, of_shared = x.transpose(0, 2, 1), shared.transpose(0, 2, 1)
        gram = across @ x + of_shared @ after_join.gram @ shared
        gram[:, -1, -1] += 1e-6
        return gram, across @ y + of_shared @ after_join.moment

    def _with_instant(self, rows_and_change: tuple[Floats, Floats]) -> Floats:
        """Rows (K x n x 5) whose last column is the change of what the others make with the launch instant."""
        rows, change = rows_and_change
        by_instant = change @ self.coefficients[:, :, None]
        return np.concatenate([rows, by_instant], axis=2)

    def _shared(self, speed_at_join: Floats) -> Floats:
        """What the parameters of `Motion` that both share are (K x 5 x 5): speed at the first knot, and the cubic."""
        shared = np.zeros((self.instants_s.size, 1 + CUBIC, 1 + CUBIC))
        shared[:, 1:, :CUBIC] = np.eye(CUBIC)
        shared[:, 0] = self._less_full(1, speed_at_join)
        return shared

    def _less_full(self, order: int, at_join: Floats) -> Floats:
        """Speed (1) or distance (2) at the join less what full torque since the first knot gains (K x 5)."""
        powers = np.arange(order, order + CUBIC)
        full = ((self.join_s - self._knot_s) ** powers / FACTORIALS[powers]) @ self._polynomial
        return np.asarray(at_join - np.append(full, 0.0))

    def offset(self, order: int) -> tuple[Floats, Floats]:
        """The speed (1) or distance (2) by which full torque since the first knot falls short (K), and gradients."""
        offset = self._less_full(order, self._with_instant(self.rows(order, np.array([self.join_s])))[:, 0])
        return np.einsum("kj,kj->k", offset[:, :CUBIC], self.coefficients), offset

    def rows(self, order: int, at_s: Floats) -> tuple[Floats, Floats]:
        """Speed (1) or distance (2) at times (n) and its change with the instant.

        Both (K x n x 4): their products with the coefficients are the quantity and its derivative.
        """
        return self._with_ramps(order, at_s, self._cubic(order, at_s))

    def _with_ramps(self, order: int, at_s: Floats, cubic: Floats) -> tuple[Floats, Floats]:
        """The rows from what the ramps' parts are multiplied with."""
        ramped = integrals_of_shapes(order + CUBIC - 1, at_s - self.instants_s[:, None], self._ramps)
        return _by_parts(ramped[order:], cubic), -_by_parts(ramped[order - 1 :], cubic)

    def _cubic(self, order: int, at_s: Floats) -> Floats:
        """What the parts of an n-fold integral are multiplied with at times (...), (... x parts x 4).

        The n-fold integral of a ramp times t^m / m! is, by repeated integration by parts, the sum over p of
        BY_PARTS[n, p] t^(m - p) / (m - p)! times the ramp's (n + p)-fold integral.
        """
        u = at_s - self._knot_s
        shifted = np.zeros((*u.shape, CUBIC, CUBIC))
        for power, taylor in enumerate((1.0, u, u**2 / 2, u**3 / 6)):
            for part in range(CUBIC - power):
                shifted[..., part, part + power] = BY_PARTS[order, part] * taylor
        return np.asarray((shifted.reshape(-1, CUBIC) @ self._polynomial).reshape(shifted.shape))

    def crossings(self, order: int, levels: Floats) -> tuple[Floats, Floats, Floats, Floats]:
        """Where each ramp reaches each level of speed (1) or distance (2).

        Instants (K x L) with gradients (K x L x 5), and distance (or speed) there with its own.
        """
        times_s = self._roughly_at(order, levels)
        for _ in range(NEWTON_STEPS):
            a, v, s = self._moving(times_s)
            value, rate = ((v, a), (s, v))[order - 1]
            slope = np.maximum(rate[0], 0.05)
            times_s = np.minimum(times_s + np.clip((levels - value[0]) / slope, -0.02, 0.02), self.join_s)
        moved = -value[1] / slope[..., None]
        other, other_rate = ((s, v), (v, a))[order - 1]
        return times_s, moved, other[0], other[1] + other_rate[0][..., None] * moved

    def _roughly_at(self, order: int, levels: Floats) -> Floats:
        """About where each ramp reaches each level (K x L), on a grid of times."""
        grid_s = np.linspace(self.instants_s.min() - 0.01, self.join_s, GRID)
        curves = (self.rows(order, grid_s)[0] @ self.coefficients[:, :, None])[..., 0]
        return np.array([np.interp(levels, np.maximum.accumulate(curve), grid_s) for curve in curves])

    def _moving(self, times_s: Floats) -> list[tuple[Floats, Floats]]:
        """Acceleration, speed and distance (K x L) at times (K x L), each with its gradient (K x L x 5)."""
        ramped = integrals_of_shapes(CUBIC + 1, times_s - self.instants_s[:, None], self._ramps)
        quantities = []
        for order in range(3):
            cubic = self._cubic(order, times_s)
            rows = _by_parts(ramped[order:], cubic)
            change = -_by_parts(ramped[max(order - 1, 0) :], cubic)
            gradient = self._with_instant((rows, change))
            quantities.append(((rows @ self.coefficients[:, :, None])[..., 0], gradient))
        return quantities

    def curve(self, at_s: Floats) -> Floats:
        """Acceleration, speed and distance (3 x n), averaged over the ramps."""
        ramped = integrals_of_shapes(CUBIC + 1, at_s - self.instants_s[:, None], self._ramps)
        weighted = self.weights * self.coefficients.T
        each = [
            (ramped[order : order + CUBIC] * (self._cubic(order, at_s) @ weighted).transpose(1, 2, 0)).sum(axis=(0, 1))
            for order in range(3)
        ]
        return np.array(each)


@dataclass(frozen=True, eq=False)
class Early:
    """The fixes before the join: their times and the join's (n + 1), what their rows are made of, and their speeds."""

    at_s: Floats
    cubic: Floats
    whitening: Whitening
    whitened_mps: Floats


def fit_launch(fixes: Fixes, motion: Motion, rough_s: float, join_s: float, ramps: Ramps) -> Launch:
    """Fit the launch under every shape and duration of torque ramp.

    Parameters
    ----------
    fixes : Fixes
        Those up to the join.
    motion : Motion
        The fit of those after it.
    rough_s : float
        About when the car leaves rest.
    join_s : float
        When every ramp has ended.
    ramps : Ramps
        Durations that a ramp may have.

    Returns
    -------
    Launch
    """
    launch = Launch(motion, rough_s, join_s, ramps)
    launch.settle(fixes, motion)
    return launch


def _by_parts(ramped: Floats, cubic: Floats) -> Floats:
    """Rows (K x n x 4) of an integral: the ramp's own from there on (parts x K x n) times those of `_cubic`."""
    if cubic.ndim == ramped.ndim:  # the same times under every ramp
        return np.asarray((ramped[:CUBIC].transpose(2, 1, 0) @ cubic).transpose(1, 0, 2))
    return np.asarray((ramped[:CUBIC, ..., None] * np.moveaxis(cubic, -2, 0)).sum(axis=0))


def rough_launch(fixes: Fixes) -> float:
    """The launch by drawing a line through the first fixes in motion back to zero."""
    moving = np.flatnonzero(fixes.speed_mps > MOVING_MPS)
    if moving.size < 3 or moving[0] >= fixes.time_s.size - 2:
        raise TooFewFixesError("too few fixes in motion")
    first = int(moving[0])
    last = int(np.searchsorted(fixes.time_s, fixes.time_s[first] + 0.5))
    last = min(max(last, first + 2), fixes.time_s.size - 1)
    slope = (fixes.speed_mps[last] - fixes.speed_mps[first]) / (fixes.time_s[last] - fixes.time_s[first])
    back_s = fixes.speed_mps[first] / max(slope, 0.5)
    return float(fixes.time_s[first] - min(back_s, 1.5) - USUAL_DELAY_S)

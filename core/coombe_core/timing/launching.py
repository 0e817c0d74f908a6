"""The launch instant under every ramp that the fixes leave possible, each weighted by its marginal likelihood.

Near the launch the acceleration is a ramp times one cubic, so that speed and distance are closed forms (integration
by parts). The fixes after the join count through the normal equations of `Motion`, reduced to what both share.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from coombe_core.timing.motion import Fixes, Motion
from coombe_core.timing.ramp import SHAPES, torque_integrals

Floats = NDArray[np.float64]
CUBIC = 4
ROUNDS = 12
MOST_SHIFT_S = 0.06
SETTLED_S = 3e-4
GRID = 240


class Launch:
    """K ramps: weights (K), instants (K), cubic's coefficients (K x 4) and the covariances of both (K x 5 x 5)."""

    def __init__(self, fixes: Fixes, motion: Motion, rough_s: float, join_s: float, ramps_s: Sequence[float]) -> None:
        self._knot_s = float(motion.spline.inner_s[0])
        self.join_s = join_s
        self._polynomial = motion.spline.polynomial()[:, :CUBIC]
        self._ramps_s = np.array(ramps_s)
        self.instants_s = np.full(len(SHAPES) * len(ramps_s), rough_s)
        self._fit(fixes, motion)

    def _fit(self, fixes: Fixes, motion: Motion) -> None:
        reduced = motion.reduced(1 + CUBIC)
        y = fixes.whitened(fixes.speed_mps[:, None], motion.correlation)[:, 0]
        limits = self._knot_s + 0.02, self.join_s - 0.25
        self.coefficients: Floats = np.zeros((self.instants_s.size, CUBIC))
        for turn in range(ROUNDS):
            rows, later = self.rows(1, fixes.time_s)
            slope = np.einsum("knj,kj->kn", later, self.coefficients)
            x = fixes.whitened(np.concatenate([rows, slope[:, :, None]], axis=2), motion.correlation)
            shared = self._shared()
            gram = x.transpose(0, 2, 1) @ x + shared.transpose(0, 2, 1) @ reduced.gram @ shared
            gram[:, -1, -1] += 1e-6
            moment = x.transpose(0, 2, 1) @ y + shared.transpose(0, 2, 1) @ reduced.moment
            solution = np.asarray(np.linalg.solve(gram, moment[..., None])[..., 0], dtype=np.float64)
            self.coefficients = solution[:, :CUBIC]
            if turn == 0:
                continue
            shift_s = np.clip(solution[:, CUBIC], -MOST_SHIFT_S, MOST_SHIFT_S)
            if np.abs(shift_s).max() < SETTLED_S:
                break
            self.instants_s = np.clip(self.instants_s + shift_s, *limits)
        cost = float(y @ y) + reduced.total - np.einsum("kj,kj->k", solution, moment)
        scores = -0.5 * (cost / motion.variance + np.linalg.slogdet(gram)[1])
        weights = np.exp(scores - scores.max())
        self.weights = weights / weights.sum()
        self.covariances = motion.variance * np.linalg.inv(gram)

    def _shared(self) -> Floats:
        """What the parameters of `Motion` that both share are (K x 5 x 5): speed at the first knot, and the cubic.

        The speed at the first knot is what full torque from there on would have needed to end up at the same speed.
        """
        shared = np.zeros((self.instants_s.size, 1 + CUBIC, 1 + CUBIC))
        shared[:, 1:, :CUBIC] = np.eye(CUBIC)
        shared[:, 0] = self._offset(1)
        return shared

    def _offset(self, order: int) -> Floats:
        """Speed (1) or distance (2) at the join less what full torque since the first knot gains (K x 5)."""
        join = np.array([self.join_s])
        rows, later = self.rows(order, join)
        since_s = self.join_s - self._knot_s
        powers = np.arange(order, order + CUBIC)
        full = (since_s**powers / np.cumprod([1.0, *range(1, order + CUBIC)])[powers]) @ self._polynomial
        by_instant = np.einsum("kj,kj->k", later[:, 0], self.coefficients)
        return np.concatenate([rows[:, 0] - full, by_instant[:, None]], axis=1)

    def rows(self, order: int, at_s: Floats) -> tuple[Floats, Floats]:
        """Acceleration (0), speed (1) or distance (2) at times (n, or K x n) and its change with the instant.

        Both (K x n x 4): their products with the coefficients are the quantity and its derivative. The change of an
        acceleration is not worked out.
        """
        u = np.broadcast_to(at_s - self._knot_s, (self.instants_s.size, np.shape(at_s)[-1]))
        ramped = self._ramped(order + CUBIC, at_s - self.instants_s[:, None])
        taylor = [np.ones_like(u), u, u**2 / 2, u**3 / 6]
        now = _by_parts(order, ramped[order:], taylor)
        later = _by_parts(order, ramped[order - 1 :], taylor) if order else np.zeros_like(now)
        return now @ self._polynomial, -later @ self._polynomial

    def _ramped(self, highest: int, since_s: Floats) -> list[Floats]:
        """The ramps (K x n) and their running integrals."""
        each, durations = since_s.shape[0] // len(SHAPES), self._ramps_s[:, None]
        blocks = [
            torque_integrals(shape, highest, since_s[number * each : (number + 1) * each], durations)
            for number, shape in enumerate(SHAPES)
        ]
        return [np.concatenate(parts) for parts in zip(*blocks, strict=True)]

    def crossings(self, order: int, levels: Floats) -> tuple[Floats, Floats]:
        """When each ramp reaches each level of speed (1) or distance (2): instants (K x L), gradients (K x L x 5)."""
        grid_s = np.linspace(self.instants_s.min() - 0.01, self.join_s, GRID)
        curves = np.einsum("knj,kj->kn", self.rows(order, grid_s)[0], self.coefficients)
        times_s = np.array([np.interp(levels, np.maximum.accumulate(curve), grid_s) for curve in curves])
        for _ in range(3):
            value, rate, gradient = self._moving(order, times_s)
            times_s = np.minimum(times_s + np.clip((levels - value) / rate, -0.02, 0.02), self.join_s)
        return times_s, -gradient / rate[..., None]

    def at(self, order: int, times_s: Floats, moved: Floats) -> tuple[Floats, Floats]:
        """Speed or distance (K x L) at instants (K x L) that themselves have gradients (K x L x 5)."""
        value, rate, gradient = self._moving(order, times_s)
        return value, gradient + rate[..., None] * moved

    def _moving(self, order: int, times_s: Floats) -> tuple[Floats, Floats, Floats]:
        rows, later = self.rows(order, times_s)
        value = np.einsum("knj,kj->kn", rows, self.coefficients)
        by_instant = np.einsum("knj,kj->kn", later, self.coefficients)
        rate = np.einsum("knj,kj->kn", self.rows(order - 1, times_s)[0], self.coefficients)
        gradient = np.concatenate([rows, by_instant[..., None]], axis=-1)
        return value, np.maximum(rate, 0.05), gradient

    def shared(self, order: int) -> tuple[Floats, Floats]:
        """What `_offset` comes to (K) and its gradients (K x 5)."""
        offset = self._offset(order)
        return np.einsum("kj,kj->k", offset[:, :CUBIC], self.coefficients), offset

    def curve(self, at_s: Floats) -> Floats:
        """Acceleration, speed and distance (3 x n), averaged over the ramps."""
        each = [np.einsum("knj,kj,k->n", self.rows(n, at_s)[0], self.coefficients, self.weights) for n in range(3)]
        return np.array(each)


def _by_parts(order: int, ramped: list[Floats], taylor: list[Floats]) -> Floats:
    """The `order`-fold integral of a ramp times t^m / m!, m = 0-3 (K x n x 4), by repeated integration by parts."""
    columns = []
    for degree in range(CUBIC):
        column = taylor[degree] * ramped[0]
        for part in range(1, degree + 1 if order else 1):
            column = column + (-1) ** part * (part + 1 if order == 2 else 1) * taylor[degree - part] * ramped[part]
        columns.append(column)
    return np.stack(columns, axis=-1)

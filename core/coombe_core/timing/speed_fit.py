"""A car's motion away from rest, fitted to noisy Doppler speed.

Acceleration is a torque ramp times a smooth curve: a(t) = r((t - t0) / tau) * g(t), g a penalised cubic B-spline.
The strength of the smoothing, the noise and its lag-1 correlation maximise the restricted likelihood of the fixes in
motion (Wahba 1985; Eilers and Marx 1996); the ramp's shape and duration are averaged over, each weighted by its
marginal likelihood, with the launch instant t0 linearised within each. Fed with time reversed, it times a stop.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from coombe_core.timing.estimate import Estimate, Posterior
from coombe_core.timing.launch import LAUNCH_RAMPS_S, SHAPES, Shape, torque_share
from coombe_core.timing.spline import Spline

Floats = NDArray[np.float64]
Rows = tuple[Floats, Floats, Floats]
Ramped = tuple[Floats, Floats, Floats]
FINE_S = 0.0025
BEFORE_S = 0.6  # the launch instant is sought this far before its rough value
EARLY_S = 1.3  # by this long after it every ramp has ended
NUDGE_S = 0.002
MOST_STEPS = 6
MOST_SHIFT_S = 0.08
SETTLED_S = 3e-4
STRENGTHS = 10.0 ** np.arange(-5.0, 5.1, 0.5)
CORRELATIONS = (0.0, 0.15, 0.3, 0.45, 0.6)
LEAST_WEIGHT = 0.003
MOVING_MPS = 1.0


class TooFewFixesError(ValueError):
    """A stretch of the trace with too few fixes in motion to fit anything to."""


@dataclass(frozen=True)
class Base:
    """Where some instants lie in the early grid, and the spline's integrals from the join on."""

    full: Rows
    early: NDArray[np.bool_]
    index: NDArray[np.intp]
    share: Floats
    late_s: Floats


@dataclass(frozen=True)
class Hypothesis:
    """One ramp: its tables over the early stretch and what they change by with the launch, and what was fitted."""

    launch_s: float
    ramped: Ramped
    change: Ramped
    coefficients: Floats
    covariance: Floats
    log_likelihood: float


class SpeedFit:
    """The fitted motion; asks for instants and quantities return Estimates over all ramps that fit the data.

    `time_s` and `speed_mps` (N) hold the fixes from rest before the launch to the end of the pull and a little after;
    `end_s` is about where the pull ends, where acceleration may change at once. Times are on the caller's axis.
    Raises TooFewFixesError where under six fixes are in motion.
    """

    def __init__(
        self, time_s: Floats, speed_mps: Floats, end_s: float, ramps_s: tuple[float, ...] = LAUNCH_RAMPS_S
    ) -> None:
        self._time_s, self._speed_mps = time_s, speed_mps
        moving = speed_mps > MOVING_MPS
        if moving.sum() < 6 or time_s.size < 8:
            raise TooFewFixesError("too few fixes in motion")
        self._step_s = float(np.median(np.diff(time_s)))
        rough_s = _rough_launch(time_s, speed_mps)
        self._early_s = np.arange(rough_s - BEFORE_S, rough_s + EARLY_S, FINE_S)
        self._join_s = float(self._early_s[-1])
        self._spline = Spline(rough_s - BEFORE_S, max(time_s[-1], self._join_s) + 0.01, max(0.2, self._step_s), end_s)
        self._early_basis = self._spline.values(self._early_s)
        self._early_basis = self._early_basis[:, : int(np.flatnonzero(self._early_basis.any(axis=0))[-1]) + 1]
        self._from_join = self._spline.integrals(np.array([self._join_s]))
        self._fixes = self._base(time_s)
        self._penalty = self._spline.penalty()
        start = self._ramped(rough_s, "linear", 0.13)
        in_motion = time_s > rough_s + 0.15
        self._choose_smoothing(self._speed_rows(start)[in_motion], in_motion)
        self._settle(rough_s, ramps_s)
        self._grid_s = np.concatenate([self._early_s[::8], time_s[time_s > self._join_s]])

    def _ramped(self, launch_s: float, shape: Shape, duration_s: float) -> Ramped:
        """r * B_j and its first and second integral on the early grid, each (fine x early columns)."""
        acceleration = torque_share(shape, self._early_s - launch_s, duration_s)[:, None] * self._early_basis
        speed = _cumulative(acceleration)
        return acceleration, speed, _cumulative(speed)

    def _base(self, at_s: Floats) -> Base:
        """What the rows at `at_s` are made of whatever the ramp: worked out once for the fixes."""
        values, speeds, distances = self._spline.integrals(at_s)
        _, speed_0, distance_0 = self._from_join
        late_s = (at_s - self._join_s)[:, None]
        place = np.clip((at_s - self._early_s[0]) / FINE_S, 0.0, self._early_s.size - 1.001)
        index = place.astype(np.intp)
        full = values, speeds - speed_0, distances - distance_0 - late_s * speed_0
        return Base(full, at_s <= self._join_s, index, (place - index)[:, None], late_s)

    def _rows(self, ramped: Ramped, base: Base) -> Rows:
        """Rows (n x J) whose product with the coefficients is acceleration, speed and distance."""
        offsets = (np.zeros(1), ramped[1][-1], ramped[2][-1] + base.late_s * ramped[1][-1])
        a, v, s = (_joined(*part, base) for part in zip(base.full, offsets, ramped, strict=True))
        return a, v, s

    def _choose_smoothing(self, rows: Floats, chosen: NDArray[np.bool_]) -> None:
        """Set smoothing strength, noise variance and correlation to those of highest restricted likelihood."""
        best = (-np.inf, 1.0, 0.0, 1.0)
        rank = self._spline.size - 2
        for correlation in CORRELATIONS:
            x, y, log_scale = _whitened(rows, self._speed_mps[chosen], self._time_s[chosen], self._step_s, correlation)
            gram, moment, total = x.T @ x, x.T @ y, float(y @ y)
            for strength in STRENGTHS:
                factor = _cholesky(gram + strength * self._penalty)
                half = np.linalg.solve(factor, moment)
                free = max(y.size - 2, 1)
                variance = max((total - float(half @ half)) / free, 1e-10)
                log_determinant = 2 * np.log(np.diag(factor)).sum()
                score = -0.5 * (free * np.log(variance) + log_determinant - rank * np.log(strength)) + log_scale
                if score > best[0]:
                    best = (score, strength, correlation, variance)
        _, self._strength, self.noise_correlation, variance = best
        self.noise_mps = float(np.sqrt(variance))

    def _settle(self, rough_s: float, ramps_s: tuple[float, ...]) -> None:
        """Fit every ramp and keep those that the data leave any weight."""
        hypotheses: list[Hypothesis] = []
        for shape in SHAPES:
            near_s = rough_s
            for duration in ramps_s:
                hypotheses.append(self._fit(near_s, shape, duration))
                near_s = hypotheses[-1].launch_s
        scores = np.array([hypothesis.log_likelihood for hypothesis in hypotheses])
        weights = np.exp(scores - scores.max())
        weights /= weights.sum()
        kept = np.flatnonzero(weights > LEAST_WEIGHT)
        self._hypotheses = [hypotheses[index] for index in kept]
        self._tables = np.array([h.ramped for h in self._hypotheses]).transpose(1, 0, 2, 3)
        self._changes = np.array([h.change for h in self._hypotheses]).transpose(1, 0, 2, 3)
        self._coefficients = np.array([h.coefficients for h in self._hypotheses])
        covariances = np.array([hypothesis.covariance for hypothesis in self._hypotheses])
        self.posterior = Posterior(weights[kept] / weights[kept].sum(), covariances)

    def _fit(self, near_s: float, shape: Shape, duration_s: float) -> Hypothesis:
        """The most likely coefficients and launch instant under one ramp (Gauss-Newton in the instant)."""
        launch_s, coefficients = near_s, None
        for _ in range(MOST_STEPS):
            ramped = self._ramped(launch_s, shape, duration_s)
            nudged = self._ramped(launch_s + NUDGE_S, shape, duration_s)
            rows = self._speed_rows(ramped)
            if coefficients is None:
                coefficients = self._solved(rows)
            column = (self._speed_rows(nudged) - rows) @ (coefficients / NUDGE_S)
            x, y, _ = self._white(np.column_stack([rows, column]), self._speed_mps)
            gram, moment = x.T @ x, x.T @ y
            gram[:-1, :-1] += self._strength * self._penalty
            solution = np.asarray(np.linalg.solve(gram, moment), dtype=np.float64)
            coefficients, shift_s = solution[:-1], float(np.clip(solution[-1], -MOST_SHIFT_S, MOST_SHIFT_S))
            if abs(shift_s) < SETTLED_S:
                break
            launch_s = float(np.clip(launch_s + shift_s, self._early_s[0] + 0.02, self._join_s - 0.8))
        variance = self.noise_mps**2
        cost = float(y @ y - solution @ moment)
        log_likelihood = -0.5 * (cost / variance + np.linalg.slogdet(gram)[1])
        change = tuple((after - now) / NUDGE_S for now, after in zip(ramped, nudged, strict=True))
        covariance = variance * np.linalg.inv(gram)
        return Hypothesis(launch_s, ramped, change, coefficients, covariance, log_likelihood)  # type: ignore[arg-type]

    def _speed_rows(self, ramped: Ramped) -> Floats:
        """Rows (N x J) whose product with the coefficients is speed at the fixes."""
        return _joined(self._fixes.full[1], ramped[1][-1], ramped[1], self._fixes)

    def _solved(self, rows: Floats) -> Floats:
        x, y, _ = self._white(rows, self._speed_mps)
        return np.asarray(np.linalg.solve(x.T @ x + self._strength * self._penalty, x.T @ y))

    def _white(self, rows: Floats, speeds: Floats) -> tuple[Floats, Floats, float]:
        return _whitened(rows, speeds, self._time_s, self._step_s, self.noise_correlation)

    def _at(self, times_s: Floats) -> tuple[Estimate, Estimate, Estimate]:
        """Acceleration, speed and distance at one instant a hypothesis (K)."""
        base = self._base(times_s)
        nothing = replace(base, full=tuple(np.zeros_like(part) for part in base.full))  # type: ignore[arg-type]
        rows = _rows_each(self._tables, base)
        shift = np.einsum("xkj,kj->xk", _rows_each(self._changes, nothing), self._coefficients)
        values = np.einsum("xkj,kj->xk", rows, self._coefficients)
        gradients = np.concatenate([rows, shift[:, :, None]], axis=2)
        a, v, s = (Estimate(self.posterior, values[part], gradients[part]) for part in range(3))
        return a, v, s

    def curve(self, at_s: Floats) -> Rows:
        """Fitted acceleration, speed and distance (n each) at times on the caller's axis, averaged over the ramps."""
        base = self._base(at_s)
        total = np.zeros((3, at_s.size))
        for weight, hypothesis in zip(self.posterior.weights, self._hypotheses, strict=True):
            total += weight * np.array([row @ hypothesis.coefficients for row in self._rows(hypothesis.ramped, base)])
        return total[0], total[1], total[2]

    def launch(self) -> Estimate:
        """The instant at which the car leaves rest."""
        gradients = np.zeros((len(self._hypotheses), self._spline.size + 1))
        gradients[:, -1] = 1.0
        return Estimate(self.posterior, np.array([h.launch_s for h in self._hypotheses]), gradients)

    def reaches_speed(self, speed_mps: float) -> Estimate | None:
        """The first instant at `speed_mps`, or None where it was not reached."""
        return self._crossing(1, speed_mps)

    def reaches_distance(self, distance_m: float) -> Estimate | None:
        """The instant at which `distance_m` from the staged position is covered, or None."""
        return self._crossing(2, distance_m)

    def motion_at(self, instant: Estimate) -> tuple[Estimate, Estimate]:
        """Speed and distance at an instant that itself carries uncertainty."""
        acceleration, speed, distance = self._at(instant.values)
        moved = [
            Estimate(self.posterior, part.values, part.gradients + rate.values[:, None] * instant.gradients)
            for part, rate in ((speed, acceleration), (distance, speed))
        ]
        return moved[0], moved[1]

    def acceleration_at(self, at_s: float) -> Estimate:
        """Acceleration at a fixed time."""
        return self._at(np.full(len(self._hypotheses), at_s))[0]

    def _crossing(self, which: int, level: float) -> Estimate | None:
        """The first instant at a level of speed (1) or distance (2): a cell of the grid, then Newton steps in it."""
        curves = self._grid_curves[which]
        above = np.argmax(curves >= level, axis=1)
        each = np.arange(above.size)
        if (above == 0).any() or (curves[each, above] < level).any():
            return None
        below_s, above_s = self._grid_s[above - 1], self._grid_s[above]
        share = (level - curves[each, above - 1]) / (curves[each, above] - curves[each, above - 1])
        times_s = below_s + share * (above_s - below_s)
        for _ in range(2):
            rate, position = self._at(times_s)[which - 1 : which + 1]
            step_s = (level - position.values) / np.maximum(rate.values, 1e-3)
            times_s = np.clip(times_s + step_s, below_s, above_s)
        return Estimate(self.posterior, times_s, -position.gradients / rate.values[:, None])

    @cached_property
    def _grid_curves(self) -> Floats:
        """Acceleration, speed and distance of every hypothesis (3 x K x grid)."""
        base = self._base(self._grid_s)
        curves = [[row @ h.coefficients for row in self._rows(h.ramped, base)] for h in self._hypotheses]
        return np.array(curves).transpose(1, 0, 2)


def _joined(full: Floats, offset: Floats, table: Floats, base: Base) -> Floats:
    """Rows (n x J): from the table before the join, after it the spline's own with what was gained until then."""
    columns = table.shape[1]
    rows = full.copy()
    rows[:, :columns] += offset
    index, share = base.index[base.early], base.share[base.early]
    rows[base.early] = 0.0
    rows[base.early, :columns] = table[index] * (1 - share) + table[index + 1] * share
    return rows


def _rows_each(tables: Floats, base: Base) -> Floats:
    """Rows (3 x K x J) at one instant a hypothesis, from their early tables (3 x K x fine x early columns)."""
    columns = tables.shape[3]
    rows = np.array(base.full)
    last = tables[:, :, -1]
    rows[1, :, :columns] += last[1]
    rows[2, :, :columns] += last[2] + base.late_s * last[1]
    early = np.flatnonzero(base.early)
    index, share = base.index[early], base.share[early]
    rows[:, early] = 0.0
    rows[:, early, :columns] = tables[:, early, index] * (1 - share) + tables[:, early, index + 1] * share
    return rows


def _rough_launch(time_s: Floats, speed_mps: Floats) -> float:
    """The launch by drawing a line through the first fixes in motion back to zero."""
    first = int(np.flatnonzero(speed_mps > MOVING_MPS)[0])
    last = int(np.searchsorted(time_s, time_s[first] + 0.5))
    last = min(max(last, first + 2), time_s.size - 1)
    slope = (speed_mps[last] - speed_mps[first]) / (time_s[last] - time_s[first])
    back_s = speed_mps[first] / max(slope, 0.5)
    return float(time_s[first] - min(back_s, 1.5) - 0.05)


def _cumulative(columns: Floats) -> Floats:
    """Trapezoidal running integral of each column on the fine grid, from zero."""
    out = np.zeros_like(columns)
    np.cumsum((columns[1:] + columns[:-1]) * (FINE_S / 2), axis=0, out=out[1:])
    return out


def _cholesky(matrix: Floats) -> Floats:
    ridge = 1e-10 * np.trace(matrix) / matrix.shape[0]
    return np.linalg.cholesky(matrix + ridge * np.eye(matrix.shape[0]))


def _whitened(
    rows: Floats, speeds: Floats, time_s: Floats, step_s: float, correlation: float
) -> tuple[Floats, Floats, float]:
    """Rows and speeds with first-order autoregressive noise taken out, and the log of the scaling done."""
    if correlation == 0.0:
        return rows, speeds, 0.0
    link = correlation ** (np.diff(time_s) / step_s)
    scale = 1.0 / np.sqrt(1.0 - link**2)
    x, y = rows.copy(), speeds.copy()
    x[1:] = (rows[1:] - link[:, None] * rows[:-1]) * scale[:, None]
    y[1:] = (speeds[1:] - link * speeds[:-1]) * scale
    return x, y, float(np.log(scale).sum())

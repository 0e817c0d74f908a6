"""A sweep: launches at falling charge, or at other battery temperatures.

The curve is a penalized cubic smoothing spline (`scipy.interpolate.make_smoothing_spline`), averaged over smoothings by
their restricted likelihood, its band that of Wahba (1983), made monotone by isotonic regression (`scipy.optimize`): the
spline is smooth and has a band where isotonic regression alone is a staircase without one, and a fuller battery is
never the weaker.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.comparing.statistics.scatter import ASSUMED_DAY_SHARE
from coombe_core.interpolation import crossing
from coombe_core.studies.problem import StudyError
from coombe_core.studies.step import Step, find_step
from coombe_core.studies.trend import trend
from coombe_core.uncertainty import COVERAGE_95, Value, coverage_95

Floats = NDArray[np.float64]
LEAST_RUNS = 5
LEAST_SPREAD = 8.0  # points of charge, or kelvins
STRENGTHS = 10.0 ** np.arange(-3.0, 7.1, 0.5)  # by the cube of the usual distance; the last leaves a line
STRAIGHT = 2  # what costs nothing: level and slope
APART = 1e-3  # by so much of the span runs at one level are set apart
GRID = 81
LOST = (0.02, 0.05)


@dataclass(frozen=True, eq=False)
class Curve:
    """The smooth curve over `at` (n), with its covariance (n x n)."""

    at: Floats
    values: Floats
    covariance: Floats
    quantile: float

    def u95(self) -> Floats:
        """Half the width of the 95 % band (n)."""
        return np.asarray(self.quantile * np.sqrt(np.diag(self.covariance)))

    def ratio(self, over: int, under: int) -> Value:
        """The curve at one place over that at another."""
        ratio = float(self.values[over] / self.values[under])
        gradient = np.zeros(self.at.size)
        gradient[over] += 1.0 / self.values[under]
        gradient[under] -= ratio / self.values[under]
        return Value(ratio, self.quantile * math.sqrt(float(gradient @ self.covariance @ gradient)))


@dataclass(frozen=True, eq=False)
class Sweep:
    """A sweep's curve and what it answers; `at` and `values` are the runs (n), the highest level first.

    `normalized` are values over the curve's at the highest level, `slope_per_10` the change as ten points are lost,
    `lowest_to_highest` a ratio, and `lost` the level at which so much of the car's best is lost, where it is.
    """

    at: Floats
    values: Floats
    normalized: Floats
    curve: Curve
    slope_per_10: Value
    lowest_to_highest: Value
    lost: dict[float, float | None]
    step: Step | None


def sweep(at: Sequence[float], values: Sequence[float], smaller_is_better: bool = True) -> Sweep:
    """Work out how a measure holds up over falling charge.

    Parameters
    ----------
    at : sequence of float
        The charge of each run in percent, or its battery temperature.
    values : sequence of float
        Of one setup, in any order.
    smaller_is_better : bool
        Of a time or distance; else of a speed or power.

    Returns
    -------
    Sweep

    Raises
    ------
    StudyError
        With fewer than five runs, or where all are at about one level.
    """
    if len(values) < LEAST_RUNS:
        raise StudyError("too few", {"runs": len(values), "least": LEAST_RUNS})
    if max(at) - min(at) < LEAST_SPREAD:
        raise StudyError("one level", {"low": min(at), "high": max(at), "least": LEAST_SPREAD})
    order = np.argsort(-np.asarray(at, dtype=np.float64), kind="stable")
    levels, found = np.asarray(at, dtype=np.float64)[order], np.asarray(values, dtype=np.float64)[order]
    sign = 1.0 if smaller_is_better else -1.0
    step = find_step(-levels, sign * found)
    curve = _curve(levels, found, step, sign)
    line = trend([((-levels / 10.0).tolist(), found.tolist())])
    assert line is not None  # there are five runs at more than one level
    return Sweep(
        levels,
        found,
        found / curve.values[-1],
        curve,
        line.per_step,
        curve.ratio(0, -1),
        {share: _lost_at(curve, share, sign) for share in LOST},
        step,
    )


@dataclass(frozen=True, eq=False)
class Apart:
    """Two sweeps over the levels that both have (n): second less first with its u95, and where that is clear."""

    at: Floats
    difference: Floats
    u95: Floats

    @property
    def clear_at(self) -> Floats:
        """The levels at which they differ."""
        return self.at[np.abs(self.difference) > self.u95]


def apart(first: Sweep, second: Sweep, other_days: bool = False) -> Apart:
    """Lay two sweeps over one another.

    Parameters
    ----------
    first, second : Sweep
    other_days : bool
        Whether they were driven on different days, whose scatter both carry then, as in a comparison.

    Raises
    ------
    StudyError
        Where they have no level in common.
    """
    low = max(first.curve.at[0], second.curve.at[0])
    high = min(first.curve.at[-1], second.curve.at[-1])
    if low >= high:
        raise StudyError("apart", {"low": float(low), "high": float(high)})
    at = np.linspace(low, high, GRID)
    values = [np.interp(at, each.curve.at, each.curve.values) for each in (first, second)]
    halves = [np.interp(at, each.curve.at, each.curve.u95()) for each in (first, second)]
    day_share = math.sqrt(2.0) * COVERAGE_95 * ASSUMED_DAY_SHARE if other_days else 0.0
    return Apart(at, values[1] - values[0], np.asarray(np.hypot(np.hypot(*halves), day_share * values[0])))


def equal_at(first: Sweep, level: float, second: Sweep) -> float | None:
    """Find the level at which the second car is as good as the first is at one of its own; None where it never is."""
    wanted = float(np.interp(level, first.curve.at, first.curve.values))
    values = second.curve.values
    falls = values[-1] < values[0]
    return crossing(-wanted, -values, second.curve.at) if falls else crossing(wanted, values, second.curve.at)


def _curve(levels: Floats, values: Floats, step: Step | None, sign: float) -> Curve:
    """The monotone curve over a grid from the lowest level to the highest, with the step in it if there is one."""
    grid = np.linspace(levels[-1], levels[0], GRID)
    fallen = np.zeros_like(values) if step is None else (levels < step.at) * sign * step.size.value
    on_grid = 0.0 if step is None else (grid < step.at) * sign * step.size.value
    smooth, covariance, dof = _smoothed(levels, values - fallen, grid)
    from scipy.optimize import isotonic_regression

    if step is not None:
        below = (grid < step.at).astype(np.float64)
        error = step.size.u95 / COVERAGE_95
        covariance = covariance + error**2 * np.outer(below - below.mean(), below - below.mean())
    monotone = isotonic_regression(smooth + on_grid, increasing=sign < 0).x
    return Curve(grid, np.asarray(monotone), covariance, coverage_95(max(dof, 1.0)))


def _smoothed(levels: Floats, values: Floats, grid: Floats) -> tuple[Floats, Floats, float]:
    """The spline on a grid (m), its covariance there (m x m) and degrees of freedom.

    A smoothing spline passes through what it makes of the runs as a natural cubic spline, so that one smoother of the
    library gives all others: its eigenvectors are theirs, and an eigenvalue of 1 / (1 + k) becomes
    1 / (1 + strength k).
    """
    from scipy.interpolate import CubicSpline, make_smoothing_spline

    x = _apart(levels[::-1], float(levels[0] - levels[-1]) * APART)
    y = values[::-1]
    scale = ((x[-1] - x[0]) / (x.size - 1)) ** 3
    one = make_smoothing_spline(x, np.eye(x.size), lam=scale)(x)
    shares, vectors = np.linalg.eigh((one + one.T) / 2)
    bends = 1.0 / np.clip(shares, 1e-12, 1.0) - 1.0
    bends[-STRAIGHT:] = 0.0
    along = vectors.T @ y
    kept = 1.0 / (1.0 + STRENGTHS[:, None] * bends)
    scores = np.array([-0.5 * _minus_2_log(each, along) for each in kept])
    weights = np.exp(scores - scores.max())
    weights /= weights.sum()
    noise = ((1.0 - kept) @ along**2) / (x.size - STRAIGHT)
    # Over all strengths by their likelihood: the mean covariance, and how far their curves are apart.
    to_grid = CubicSpline(x, np.eye(x.size), bc_type="natural")(grid) @ vectors
    curves = (kept * along) @ to_grid.T
    mean = weights @ curves
    within = (to_grid * ((weights * noise) @ kept)) @ to_grid.T
    return mean, within + (weights * (curves - mean).T) @ (curves - mean), x.size - float(weights @ kept.sum(axis=1))


def _apart(x: Floats, least: float) -> Floats:
    """The same with equal levels a little apart, in ascending order."""
    out = x.copy()
    for place in range(1, out.size):
        out[place] = max(out[place], out[place - 1] + least)
    return out


def _minus_2_log(kept: Floats, along: Floats) -> float:
    """The restricted likelihood of a smoothing, -2 log up to a constant (Wahba 1985).

    Of what it keeps in every direction (n, a line in the last two): (n - 2) log(sum of (1 - kept) z^2) - sum of
    log(1 - kept).
    """
    lost = 1.0 - kept[:-STRAIGHT]
    rough = float(lost @ along[:-STRAIGHT] ** 2)
    return lost.size * math.log(max(rough, 1e-300)) - float(np.log(np.maximum(lost, 1e-300)).sum())


def _lost_at(curve: Curve, share: float, sign: float) -> float | None:
    """The level at which so much of what the car has at its highest is lost."""
    worse = sign * (curve.values[::-1] / curve.values[-1] - 1.0)
    fallen = crossing(share, worse, -curve.at[::-1])
    return None if fallen is None else -fallen

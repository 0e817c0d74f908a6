"""The difference of two groups as a weighted sum of their values, by how the runs lay in days and directions.

Groups that share a day and a direction are compared plainly (Welch). Groups driven on the same days, or in both
directions, are compared within days and directions by least squares, so that a day's or a slope's own part cancels.
Groups of different days carry the scatter from day to day: the day, not the run, is then what was repeated
(generalised least squares with a day part).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from coombe_core.comparing.statistics.layout import RANK_TOLERANCE, Floats, Layout
from coombe_core.comparing.statistics.scatter import ASSUMED_DAY_SHARE, ASSUMED_DOF, Scatter
from coombe_core.learned import between_variance

MOST_RATIO = 1e4  # of the variance between days to that within: more of it changes no weight


@dataclass(frozen=True)
class Part:
    """A variance that a difference carries, and the degrees of freedom with which it is known."""

    variance: float
    dof: float


@dataclass(frozen=True, eq=False)
class Contrast:
    """Weights (n) of the difference, after minus before, and the parts of its variance."""

    weights: Floats
    parts: tuple[Part, ...]
    day_sd: float | None = None

    def of(self, values: Floats) -> float:
        """The same weighted sum of anything else that was noted of the runs (n)."""
        return float(self.weights @ values)


def contrast(
    values: Floats, layout: Layout, scatter: Scatter | None = None, fitted: int = 0, weights: Floats | None = None
) -> Contrast | None:
    """Weigh the values of two groups so that their sum is the difference.

    Parameters
    ----------
    values : array of float, shape (n,)
        Before first.
    layout : Layout
        How the runs lie in days and directions.
    scatter : Scatter, optional
        The car's own, for single runs and for the day part.
    fitted : int
        How many more parameters the values were already adjusted by.
    weights : array of float, shape (n,), optional
        Given where a part of a value is to be weighed like the whole.

    Returns
    -------
    Contrast or None
        None where nothing says how the values scatter.

    References
    ----------
    Searle, Casella & McCulloch (1992), Variance Components, for the day part.
    """
    counts = int((~layout.after).sum()), int(layout.after.sum())
    if min(counts) == 0:
        return None
    if layout.kind == "plain" and min(counts) > 1:
        return _welch(values, layout, fitted)
    run = _run_part(values, layout, fitted) if min(counts) > 1 else None
    if run is None:
        if scatter is None or scatter.run_assumed:
            return None
        run = Part(scatter.run_sd**2, scatter.run_dof)
    if layout.kind != "days":
        weights = layout.weights
        return Contrast(weights, (Part(run.variance * float(weights @ weights), run.dof),))
    return _over_days(values, layout, run, scatter, weights)


def _welch(values: Floats, layout: Layout, fitted: int) -> Contrast:
    weights = np.where(layout.after, 1.0 / layout.after.sum(), -1.0 / (~layout.after).sum())
    groups = values[~layout.after], values[layout.after]
    parts = (Part(float(group.var(ddof=1)) / group.size, max(group.size - 1 - fitted / 2, 1)) for group in groups)
    return Contrast(weights, tuple(parts))


def _weights(layout: Layout, member: Floats, ratio: float) -> Floats:
    """The row of the generalised least squares solution that gives the group's effect.

    The covariance is I + ratio M M', M (n x days) saying which run is of which day; its inverse has a closed form.
    """
    design = layout.design
    shrunk = ratio / (1.0 + ratio * member.sum(axis=0))
    scaled = design - member @ (shrunk[:, None] * (member.T @ design))
    row = np.linalg.pinv(design.T @ scaled, rcond=RANK_TOLERANCE)[0] @ scaled.T
    return np.asarray(row, dtype=np.float64)


def _run_part(values: Floats, layout: Layout, fitted: int) -> Part | None:
    """What is left within days, directions and groups; None without a degree of freedom."""
    dof = values.size - layout.basis.shape[1] - fitted
    if dof < 1:
        return None
    left = values - layout.basis @ (layout.basis.T @ values)
    return Part(float(left @ left) / dof, dof)


def _over_days(values: Floats, layout: Layout, run: Part, scatter: Scatter | None, weights: Floats | None) -> Contrast:
    day = _day_part(values, layout, run, scatter)
    member = np.eye(layout.day_count)[layout.days]
    ratio = min(day.variance / run.variance, MOST_RATIO) if run.variance > 0 else 1.0
    if weights is None:
        weights = _weights(layout, member, ratio)
    by_run = run.variance * float(weights @ weights)
    by_day = day.variance * float(((weights @ member) ** 2).sum())
    return Contrast(weights, (Part(by_run, run.dof), Part(by_day, day.dof)), math.sqrt(day.variance))


def _day_part(values: Floats, layout: Layout, run: Part, scatter: Scatter | None) -> Part:
    """Variance from day to day: the stated default, outweighed by the car's history, or by these days themselves."""
    default = (ASSUMED_DAY_SHARE * abs(float(values.mean()))) ** 2
    if scatter is not None and not scatter.day_assumed:
        own = Part(scatter.day_sd**2, scatter.day_dof)
    else:
        own = _days_themselves(values, layout, run)
    dof = ASSUMED_DOF + own.dof
    return Part(max((ASSUMED_DOF * default + own.dof * own.variance) / dof, 0.0), dof)


def _days_themselves(values: Floats, layout: Layout, run: Part) -> Part:
    """Between the days of one group; it may be negative, which counts when it is weighed in."""
    groups = []
    for group in (False, True):
        chosen = layout.after == group
        sizes = np.bincount(layout.days[chosen], minlength=layout.day_count).astype(np.float64)
        sums = np.bincount(layout.days[chosen], values[chosen], minlength=layout.day_count)
        driven = sizes > 0
        groups.append((sums[driven] / sizes[driven], sizes[driven]))
    found = between_variance(groups, run.variance)
    return Part(*found) if found else Part(0.0, 0.0)

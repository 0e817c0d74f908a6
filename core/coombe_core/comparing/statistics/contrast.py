"""The difference of two groups as a weighted sum of their values, by how the runs lay in days, directions and time.

Groups that were driven on the same days, or in both directions, are compared within them, so that a day's or a slope's
own part cancels. Groups of different days carry the scatter from day to day: the day, not the run, is then what was
repeated. All of them carry a drift from run to run (a driver settles, a battery empties, brakes warm), which
cancels where the groups alternate and does not where one was driven after the other (generalized least squares with a
part for the day and one for the drift).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from coombe_core.comparing.statistics.layout import RANK_TOLERANCE, Floats, Layout
from coombe_core.comparing.statistics.scatter import ASSUMED, ASSUMED_DOF, DRIFT_DOF, LEAST_DOF, Assumed, Scatter
from coombe_core.learned import between_variance

DEFAULT_BESIDE_HISTORY_DOF = 0.5  # of the stated default, which a car's own days outweigh
MOST_KNOWN_DOF = 6.0  # with which what is known beside counts
STEPS = (0.1, 0.01, 0.001, 0.0001)
MOST_RATIO = 1e4  # of another variance to that of a run: more of it changes no weight
HARDLY = 0.01  # a chance that counts as none
UNLIKE = 3.0  # a run variance above this many times the one that is known beside says that these runs are others


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
    day_assumed: bool = False
    beforehand: Assumed = ASSUMED

    @property
    def day(self) -> Part:
        """What the scatter from day to day adds."""
        return self.parts[1]

    def with_one_more_day(self, layout: Layout) -> tuple[Part, ...]:
        """Parts as they would be with another day of each group, with as many runs as its days had, all else alike."""
        run, day, *others = self.parts
        groups = [layout.days[layout.after == group] for group in (False, True)]
        days = [len(set(group.tolist())) for group in groups]
        fewer_runs = sum(1 / (group.size * (1 + 1 / count)) for group, count in zip(groups, days, strict=True))
        run_share = fewer_runs / sum(1 / group.size for group in groups)
        day_share = sum(1 / (count + 1) for count in days) / sum(1 / count for count in days)
        more_runs = sum(group.size / count - 1 for group, count in zip(groups, days, strict=True))
        return (
            Part(run_share * run.variance, run.dof + more_runs),
            Part(day_share * day.variance, day.dof + len(days)),
            *others,
        )

    def of(self, values: Floats) -> float:
        """The same weighted sum of anything else that was noted of the runs (n)."""
        return float(self.weights @ (values - values.mean()))  # exactly none of what is the same for all


def contrast(
    values: Floats,
    layout: Layout,
    scatter: Scatter | None = None,
    fitted: int = 0,
    weights: Floats | None = None,
    step: float = 0.0,
    beforehand: Assumed = ASSUMED,
) -> Contrast | None:
    """Weigh the values of two groups so that their sum is the difference.

    Parameters
    ----------
    values : array of float, shape (n,)
        Before first.
    layout : Layout
        How the runs are spread over days and directions.
    scatter : Scatter, optional
        The car's own, for single runs and for the day part.
    fitted : int
        How many more parameters the values were already adjusted by.
    weights : array of float, shape (n,), optional
        Given where a part of a value is to be weighed like the whole.
    step : float
        The step to which values were rounded; see `rounding_step`.
    beforehand : Assumed
        How far days and one run from the next are taken to differ, where these runs do not say.

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
    run = _run_part(values, layout, fitted) if min(counts) > 1 else None
    if run is None:
        if scatter is None or scatter.run_assumed:
            return None
        run = Part(scatter.run_sd**2, scatter.run_dof)
    elif scatter is not None:
        run = _moderated(run, scatter)
    rounded = step**2 / 6 if run.variance < (step / 2) ** 2 else 0.0  # both means are off alike in all their values
    run = Part(max(run.variance, step**2 / 12), run.dof)
    member = np.eye(layout.day_count)[layout.days]
    drift = _drift_part(values, layout, run, beforehand.drift_share) if scatter is not None else Part(0.0, DRIFT_DOF)
    day, assumed = Part(0.0, ASSUMED_DOF), False
    if layout.kind == "days":
        day, assumed = _day_part(values, layout, run, scatter, beforehand.day_share)
    if weights is None:
        covariance = np.eye(values.size) + _ratio(day, run) * (member @ member.T)
        if layout.in_order:
            covariance += _ratio(drift, run) * np.outer(layout.place, layout.place)
        weights = _weights(layout, covariance)
    parts = (
        Part(run.variance * float(weights @ weights), run.dof),
        Part(day.variance * float(((weights @ member) ** 2).sum()), day.dof),
        Part(drift.variance * float(weights @ layout.place) ** 2, drift.dof),
        Part(rounded, math.inf),
    )
    day_sd = math.sqrt(day.variance) if layout.kind == "days" else None
    return Contrast(weights, parts, day_sd, assumed, beforehand)


def rounding_step(values: Floats) -> float:
    """The step to which values were rounded: 0.1 to 0.0001, or 0 where they are finer.

    >>> rounding_step(np.array([3.9, 4.0]))
    0.1
    >>> rounding_step(np.array([3.912, 4.0]))
    0.001
    """
    for step in STEPS:
        if np.allclose(values / step, np.round(values / step), rtol=0.0, atol=1e-6):
            return step
    return 0.0


def _ratio(part: Part, run: Part) -> float:
    return min(part.variance / run.variance, MOST_RATIO) if run.variance > 0 else 1.0


def _weights(layout: Layout, covariance: Floats) -> Floats:
    """The row of the generalized least squares solution that gives the group's effect."""
    scaled = np.linalg.solve(covariance, layout.design)
    row = np.linalg.pinv(layout.design.T @ scaled, rcond=RANK_TOLERANCE)[0] @ scaled.T
    return np.asarray(row, dtype=np.float64)


def _run_part(values: Floats, layout: Layout, fitted: int) -> Part | None:
    """What is left within days, directions and groups, and beside a drift; None without degrees of freedom."""
    for basis in (layout.basis_in_time, layout.basis):
        dof = values.size - basis.shape[1] - fitted
        if dof >= 1:
            left = values - values.mean()  # first, so that no digits are lost
            left -= basis @ (basis.T @ left)
            return Part(float(left @ left) / dof, dof)
    return None


def _moderated(run: Part, scatter: Scatter) -> Part:
    """What is left, weighed with what is known of the scatter of a run beside (Smyth 2004, moderated t)."""
    from scipy import stats

    known = Part(scatter.run_sd**2, min(scatter.run_dof, MOST_KNOWN_DOF))
    if run.variance > UNLIKE * known.variance:
        return run
    # No more than these runs leave possible: many that agree need not hear that cars scatter.
    most = run.variance * run.dof / float(stats.chi2.ppf(HARDLY, run.dof))
    known = Part(min(known.variance, most), known.dof)
    dof = run.dof + known.dof
    return Part((run.dof * run.variance + known.dof * known.variance) / dof, dof)


def _drift_part(values: Floats, layout: Layout, run: Part, share: float) -> Part:
    """Variance of the drift from one run to the next: the stated default, or what these runs show beyond it."""
    default = (share * float(values.mean())) ** 2
    column = layout.place - layout.basis @ (layout.basis.T @ layout.place)
    length = float(column @ column)
    if not layout.in_order or length < RANK_TOLERANCE:
        return Part(default, DRIFT_DOF)
    slope = float(column @ values) / length
    return Part(max(default, slope**2 - run.variance / length), DRIFT_DOF)


def _day_part(
    values: Floats, layout: Layout, run: Part, scatter: Scatter | None, day_share: float
) -> tuple[Part, bool]:
    """Variance from day to day, and whether it rests on the stated default, which enough days of the car outweigh."""
    default = (day_share * abs(float(values.mean()))) ** 2
    if scatter is not None and not scatter.day_assumed:
        own = Part(scatter.day_sd**2, scatter.day_dof)
    else:
        own = _days_themselves(values, layout, run)
    assumed = own.dof < LEAST_DOF
    counts = ASSUMED_DOF if assumed else DEFAULT_BESIDE_HISTORY_DOF
    dof = counts + own.dof
    weighed = max((counts * default + own.dof * own.variance) / dof, 0.0)
    return Part(weighed if assumed else max(weighed, own.variance), dof), assumed  # a default makes no car steadier


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

"""The difference of two arms as a weighted sum of their values, by how the runs lay in days and directions.

Arms that share a day and a way are compared plainly (Welch). Arms driven on the same days, or both ways, are compared
within days and ways by least squares, so that a day's or a slope's own part cancels. Arms of different days carry the
scatter from day to day: the day, not the run, is then what was repeated (generalised least squares with a day part).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from coombe_core.comparing.state import State
from coombe_core.scatter import ASSUMED_DAY_SHARE, ASSUMED_FREEDOM, Scatter

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Kind = Literal["plain", "within", "days"]
RANK_TOLERANCE = 1e-9
MOST_RATIO = 1e4  # of the variance between days to that within: more of it changes no weight


@dataclass(frozen=True, eq=False)
class Layout:
    """How the runs of two arms (n) lay: which are after, on which day and way; what is compared with what.

    `cells` numbers the groups within which labels may be swapped: runs of one day and way.
    """

    kind: Kind
    after: NDArray[np.bool_]
    days: Ints
    cells: Ints
    covariates: Floats

    @property
    def day_count(self) -> int:
        """Days on which any of the runs were driven."""
        return int(self.days.max()) + 1 if self.days.size else 0

    @cached_property
    def design(self) -> Floats:
        """Columns of the arm, the level, and what is fitted beside (n x columns)."""
        return np.column_stack([self.after.astype(float), np.ones(self.after.size), self.covariates])

    @cached_property
    def basis(self) -> Floats:
        """Orthonormal columns that span the design and, where arms lie on days of their own, every day."""
        days = [np.eye(self.day_count)[self.days]] if self.kind == "days" else []
        spanned, sizes, _ = np.linalg.svd(np.column_stack([self.design, *days]), full_matrices=False)
        return np.asarray(spanned[:, sizes > RANK_TOLERANCE * sizes[0]])

    @cached_property
    def weights(self) -> Floats:
        """The arm's effect by ordinary least squares, as a weighted sum."""
        return np.asarray(np.linalg.pinv(self.design, rcond=RANK_TOLERANCE)[0])


def layout_of(before: Sequence[State], after: Sequence[State]) -> Layout:
    """The layout of two arms' runs. Where a day was not written down for every run, days are left out."""
    states = [*before, *after]
    is_after = np.array([False] * len(before) + [True] * len(after), dtype=bool)
    days = _numbered([state.day for state in states] if all(state.day for state in states) else [""] * len(states))
    ways = _numbered([state.direction for state in states])
    shared = all(len(set(is_after[days == day])) == 2 for day in range(int(days.max(initial=-1)) + 1))
    both_ways = all(state.direction for state in states) and _in_both_arms(ways, is_after)
    by_day = _indicators(days) if shared else _indicators(days)[:, :0]
    by_way = _indicators(ways)
    if not both_ways or not _tells(is_after, np.column_stack([by_day, by_way])):
        by_way, ways = by_way[:, :0], np.zeros_like(ways)
    covariates = np.column_stack([by_day, by_way])
    kind: Kind = "days" if not shared else "within" if covariates.size else "plain"
    cells = _numbered(list(zip(days.tolist(), ways.tolist(), strict=True)))
    return Layout(kind, is_after, days, cells, covariates)


def _indicators(labels: Ints) -> Floats:
    """A column for every label but the first."""
    return np.eye(int(labels.max(initial=0)) + 1)[labels][:, 1:]


def _tells(is_after: NDArray[np.bool_], covariates: Floats) -> bool:
    """Whether the arm can be told apart from what else is fitted."""
    others = np.column_stack([np.ones(is_after.size), covariates])
    return bool(np.linalg.matrix_rank(np.column_stack([others, is_after])) > np.linalg.matrix_rank(others))


def _numbered(labels: Sequence[object]) -> Ints:
    order = {label: index for index, label in enumerate(dict.fromkeys(labels))}
    return np.array([order[label] for label in labels], dtype=np.intp)


def _in_both_arms(ways: Ints, is_after: NDArray[np.bool_]) -> bool:
    return len(set(ways)) > 1 and set(ways[is_after]) == set(ways[~is_after])


@dataclass(frozen=True)
class Part:
    """A variance that a difference carries, and the degrees of freedom with which it is known."""

    variance: float
    freedom: float


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
    """The contrast of the arms' values (n), before first; None where nothing tells how the values scatter.

    `scatter` is the car's own, for single runs and for the day part. `fitted` is how many more parameters the values
    were already adjusted by. `weights` are given where a part of a value is to be weighed like the whole.
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
        run = Part(scatter.run_sd**2, scatter.run_freedom)
    if layout.kind != "days":
        weights = layout.weights
        return Contrast(weights, (Part(run.variance * float(weights @ weights), run.freedom),))
    return _over_days(values, layout, run, scatter, weights)


def _welch(values: Floats, layout: Layout, fitted: int) -> Contrast:
    weights = np.where(layout.after, 1.0 / layout.after.sum(), -1.0 / (~layout.after).sum())
    arms = values[~layout.after], values[layout.after]
    parts = (Part(float(arm.var(ddof=1)) / arm.size, max(arm.size - 1 - fitted / 2, 1)) for arm in arms)
    return Contrast(weights, tuple(parts))


def _weights(layout: Layout, member: Floats, ratio: float) -> Floats:
    """The row of the generalised least squares solution that gives the arm's effect.

    The covariance is I + ratio M M', M (n x days) saying which run is of which day; its inverse has a closed form.
    """
    design = layout.design
    shrunk = ratio / (1.0 + ratio * member.sum(axis=0))
    scaled = design - member @ (shrunk[:, None] * (member.T @ design))
    row = np.linalg.pinv(design.T @ scaled, rcond=RANK_TOLERANCE)[0] @ scaled.T
    return np.asarray(row, dtype=np.float64)


def _run_part(values: Floats, layout: Layout, fitted: int) -> Part | None:
    """What is left within days, ways and arms; None without a degree of freedom."""
    freedom = values.size - layout.basis.shape[1] - fitted
    if freedom < 1:
        return None
    left = values - layout.basis @ (layout.basis.T @ values)
    return Part(float(left @ left) / freedom, freedom)


def _over_days(values: Floats, layout: Layout, run: Part, scatter: Scatter | None, weights: Floats | None) -> Contrast:
    day = _day_part(values, layout, run, scatter)
    member = np.eye(layout.day_count)[layout.days]
    ratio = min(day.variance / run.variance, MOST_RATIO) if run.variance > 0 else 1.0
    if weights is None:
        weights = _weights(layout, member, ratio)
    by_run = run.variance * float(weights @ weights)
    by_day = day.variance * float(((weights @ member) ** 2).sum())
    return Contrast(weights, (Part(by_run, run.freedom), Part(by_day, day.freedom)), math.sqrt(day.variance))


def _day_part(values: Floats, layout: Layout, run: Part, scatter: Scatter | None) -> Part:
    """Variance from day to day: the stated default, outweighed by the car's history, or by these days themselves."""
    default = (ASSUMED_DAY_SHARE * abs(float(values.mean()))) ** 2
    if scatter is not None and not scatter.day_assumed:
        own = Part(scatter.day_sd**2, scatter.day_freedom)
    else:
        own = _days_themselves(values, layout, run)
    freedom = ASSUMED_FREEDOM + own.freedom
    return Part(max((ASSUMED_FREEDOM * default + own.freedom * own.variance) / freedom, 0.0), freedom)


def _days_themselves(values: Floats, layout: Layout, run: Part) -> Part:
    """Between the days of one arm by the method of moments; it may be negative, which counts when it is weighed in."""
    total, freedom, weight = 0.0, 0.0, 0.0
    for arm in (False, True):
        chosen = layout.after == arm
        sizes = np.bincount(layout.days[chosen], minlength=layout.day_count).astype(np.float64)
        sums = np.bincount(layout.days[chosen], values[chosen], minlength=layout.day_count)
        driven = sizes > 0
        means, counts = sums[driven] / sizes[driven], sizes[driven]
        total += float((counts * (means - np.average(means, weights=counts)) ** 2).sum())
        freedom += counts.size - 1
        weight += float(counts.sum() - (counts**2).sum() / counts.sum())
    if freedom == 0:
        return Part(0.0, 0.0)
    return Part((total - freedom * run.variance) / weight, freedom)

"""Small samples: an interval and test for a difference, a permutation test beside it, and what would have shown."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from coombe_core.comparing.contrast import Floats, Ints, Layout, Part
from coombe_core.timing.estimate import COVERAGE_95, Value

EXACT_UP_TO = 20_000
DRAWS = 9_999
SEED = 20_260_509
POWER = 0.8
ALPHA = 0.05


@dataclass(frozen=True)
class Sample:
    """One arm's values in a nutshell; `sd` is None for a single value."""

    n: int
    mean: float
    sd: float | None
    best: float


def sample(values: Sequence[float], smaller_is_better: bool = True) -> Sample:
    """Count, mean, standard deviation (n - 1) and best of at least one value."""
    array = np.asarray(values, dtype=np.float64)
    sd = float(array.std(ddof=1)) if array.size > 1 else None
    return Sample(array.size, float(array.mean()), sd, float(array.min() if smaller_is_better else array.max()))


def mean_of(values: Sequence[float]) -> Value:
    """The mean of two values or more with Student's 95 % interval of it."""
    from scipy import stats

    array = np.asarray(values, dtype=np.float64)
    half = float(stats.t.ppf(1 - ALPHA / 2, array.size - 1)) * float(array.std(ddof=1)) / math.sqrt(array.size)
    return Value(float(array.mean()), half)


@dataclass(frozen=True)
class Difference:
    """Difference of means, after minus before, with its 95 % interval, standard error, two-sided p and freedom."""

    value: float
    low95: float
    high95: float
    p_value: float
    degrees: float
    error: float

    @property
    def shown(self) -> bool:
        """Whether zero lies outside the interval."""
        return not self.low95 <= 0 <= self.high95

    def shifted(self, low: float, high: float) -> Difference:
        """The same difference with its interval moved outward (or in) at either end; value and p stay."""
        return replace(self, low95=self.low95 + low, high95=self.high95 + high)


def difference(value: float, parts: Sequence[Part]) -> Difference:
    """A difference with Student's t interval and test, its degrees of freedom by Welch and Satterthwaite.

    Each part is a variance with the freedom with which it is known; an infinite one is known exactly.
    """
    from scipy import stats

    counting = [part for part in parts if part.variance > 0]
    variance = sum(part.variance for part in counting)
    if variance == 0.0:
        return Difference(value, value, value, 1.0 if value == 0 else 0.0, math.inf, 0.0)
    inverse = sum(part.variance**2 / part.freedom for part in counting)
    degrees = variance**2 / inverse if inverse > 0 else math.inf
    error = math.sqrt(variance)
    half = float(stats.t.ppf(1 - ALPHA / 2, degrees)) * error
    return Difference(
        value, value - half, value + half, 2 * float(stats.t.sf(abs(value) / error, degrees)), degrees, error
    )


def shared_part(u95: float) -> Part:
    """The part of an error whose u95 is stated; its freedom is taken as infinite (GUM, JCGM 100:2008, G.4)."""
    return Part((u95 / COVERAGE_95) ** 2, math.inf)


@dataclass(frozen=True)
class Permutation:
    """Two-sided p of the difference of means under relabelling; `lowest` is the least p that this design allows."""

    p_value: float
    lowest: float
    exact: bool


def permutation(values: Floats, layout: Layout, weights: Floats) -> Permutation | None:
    """Relabelling within every day and way: all of up to 20,000 relabellings, else 9,999 seeded draws and the observed.

    Values and weights are those of a contrast (n). None where arms never share a day: whole days are then too few.
    """
    if layout.kind == "days":
        return None
    cells = [np.flatnonzero(layout.cells == cell) for cell in range(int(layout.cells.max()) + 1)]
    count = math.prod(math.comb(cell.size, int(layout.after[cell].sum())) for cell in cells)
    observed = abs(float(weights @ values))
    exact = count <= EXACT_UP_TO
    found = _every(values, layout, weights, cells) if exact else _drawn(values, layout, weights, cells)
    as_far = int((np.abs(found) >= observed - 1e-12 * max(1.0, observed)).sum())
    if not exact:
        return Permutation((as_far + 1) / (DRAWS + 1), 1 / (DRAWS + 1), False)
    mirrored = all(2 * layout.after[cell].sum() == cell.size for cell in cells)
    return Permutation(as_far / count, (2 if mirrored else 1) / count, True)


def _every(values: Floats, layout: Layout, weights: Floats, cells: Sequence[Ints]) -> Floats:
    """The weighted sum under every relabelling."""
    total = np.zeros(1)
    for cell in cells:
        count = int(layout.after[cell].sum())
        taken = np.array(list(combinations(range(cell.size), count)), dtype=np.intp)
        total = (total[:, None] + _sums(values, layout, weights, cell, taken)[None, :]).ravel()
    return total


def _drawn(values: Floats, layout: Layout, weights: Floats, cells: Sequence[Ints]) -> Floats:
    """The same under relabellings that are drawn: of random keys, the runs with the least go to the after arm."""
    draw = np.random.default_rng(SEED)
    total = np.zeros(DRAWS)
    for cell in cells:
        count = int(layout.after[cell].sum())
        keys = draw.random((DRAWS, cell.size), dtype=np.float32)
        taken = np.argpartition(keys, max(count - 1, 0), axis=1)[:, :count]
        total += _sums(values, layout, weights, cell, taken)
    return total


def _sums(values: Floats, layout: Layout, weights: Floats, cell: Ints, taken: Ints) -> Floats:
    """What a cell adds where those runs of it (relabellings x count) are called after; an arm's runs weigh the same."""
    inside = layout.after[cell]
    by_after = float(weights[cell][inside].mean()) if inside.any() else 0.0
    by_before = float(weights[cell][~inside].mean()) if (~inside).any() else 0.0
    sums = values[cell][taken].sum(axis=1)
    return np.asarray(by_after * sums + by_before * (float(values[cell].sum()) - sums))


def smallest_shown(error: float, degrees: float) -> float:
    """The difference that a two-sided 5 % t test of this standard error and freedom finds with 80 % power.

    Noncentral t (Cohen 1988, chapter 2). Unit as the values.
    """
    from scipy import optimize, stats

    if error == 0.0:
        return 0.0
    limit = float(stats.t.ppf(1 - ALPHA / 2, degrees))

    def shortfall(ratio: float) -> float:
        return float(stats.nct.sf(limit, degrees, ratio)) - POWER

    high = limit + 1.0
    while shortfall(high) < 0:
        high *= 1.5
    return error * float(optimize.brentq(shortfall, limit / 2, high))

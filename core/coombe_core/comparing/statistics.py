"""Two small samples: Welch's interval, a permutation test beside it, and the smallest difference that would show."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from coombe_core.timing.estimate import COVERAGE_95

Floats = NDArray[np.float64]
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


@dataclass(frozen=True)
class Welch:
    """Difference of means, after minus before, with its 95 % interval and two-sided p (Welch 1947)."""

    value: float
    low95: float
    high95: float
    p_value: float
    degrees: float


def welch(before: Sequence[float], after: Sequence[float], common_u95: float = 0.0) -> Welch:
    """Welch's unequal-variance interval and test. Raises ValueError with fewer than two values an arm.

    `common_u95` is of an error of the difference that more values would not lessen; its degrees of freedom are taken
    as infinite (GUM, JCGM 100:2008, G.4).
    """
    from scipy import stats

    if min(len(before), len(after)) < 2:
        raise ValueError("Welch's interval needs two values an arm")
    parts = [float(np.var(arm, ddof=1)) / len(arm) for arm in (before, after)]
    difference = float(np.mean(after) - np.mean(before))
    variance = sum(parts) + (common_u95 / COVERAGE_95) ** 2
    if sum(parts) == 0.0:
        low95, high95 = difference - common_u95, difference + common_u95
        return Welch(difference, low95, high95, 1.0 if low95 <= 0 <= high95 else 0.0, len(before) + len(after) - 2)
    degrees = variance**2 / sum(part**2 / (len(arm) - 1) for part, arm in zip(parts, (before, after), strict=True))
    half = float(stats.t.ppf(1 - ALPHA / 2, degrees)) * math.sqrt(variance)
    p_value = 2 * float(stats.t.sf(abs(difference) / math.sqrt(variance), degrees))
    return Welch(difference, difference - half, difference + half, p_value, degrees)


@dataclass(frozen=True)
class Permutation:
    """Two-sided p of the difference of means under relabelling; `lowest` is the least p that this design allows."""

    p_value: float
    lowest: float
    exact: bool


def permutation(before: Sequence[float], after: Sequence[float]) -> Permutation:
    """Every relabelling up to 20,000 of them, else 9,999 seeded draws with the observed one added."""
    values = np.array([*before, *after], dtype=np.float64)
    count = math.comb(values.size, len(after))
    observed = abs(float(np.mean(after) - np.mean(before)))
    exact = count <= EXACT_UP_TO
    chosen = _every(values.size, len(after)) if exact else _drawn(values.size, len(after))
    sums = values[chosen].sum(axis=1)
    differences = np.abs(sums / len(after) - (values.sum() - sums) / len(before))
    as_far = int((differences >= observed - 1e-12 * max(1.0, observed)).sum())
    balanced = 2 if len(before) == len(after) else 1
    if exact:
        return Permutation(as_far / count, balanced / count, True)
    return Permutation((as_far + 1) / (DRAWS + 1), 1 / (DRAWS + 1), False)


def _every(size: int, taken: int) -> NDArray[np.intp]:
    return np.array(list(combinations(range(size), taken)), dtype=np.intp)


def _drawn(size: int, taken: int) -> NDArray[np.intp]:
    draw = np.random.default_rng(SEED)
    return np.argsort(draw.random((DRAWS, size)), axis=1)[:, :taken]


def smallest_shown(before: Sequence[float], after: Sequence[float], common_u95: float = 0.0) -> float:
    """The difference that a two-sided 5 % t test of this design and scatter finds with 80 % power.

    Noncentral t with Welch's degrees of freedom (Cohen 1988, chapter 2). Unit as the values.
    """
    from scipy import optimize, stats

    result = welch(before, after, common_u95)
    scatter = sum(float(np.var(arm, ddof=1)) / len(arm) for arm in (before, after))
    error = math.sqrt(scatter + (common_u95 / COVERAGE_95) ** 2)
    if error == 0.0:
        return 0.0
    limit = float(stats.t.ppf(1 - ALPHA / 2, result.degrees))

    def shortfall(ratio: float) -> float:
        return float(stats.nct.sf(limit, result.degrees, ratio)) - POWER

    high = limit + 1.0
    while shortfall(high) < 0:
        high *= 1.5
    return error * float(optimize.brentq(shortfall, limit / 2, high))

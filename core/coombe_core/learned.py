"""A parameter of a car learned from several occasions, whose spread widens its interval.

Every occasion (a night's cooling, a heating, a gap between two runs) gives one estimate with its own variance. They
are combined as a random-effects mean (DerSimonian & Laird 1986) whose interval takes the observed spread and
Student's t (Hartung & Knapp 2001), no narrower than that spread expects (Roever, Knapp & Friede 2015): a car does not
behave the same on every day, and few days can't tell by how much.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from coombe_core.uncertainty import COVERAGE_95, coverage_95

Floats = NDArray[np.float64]
Occasion = Literal["rest", "heating", "charging", "runs"]


@dataclass(frozen=True)
class Learned:
    """A parameter and the half-width of its 95 % interval.

    `of` names what it was learned from, `occasions` how many of those;
    0 where it was assumed. `spread` is the standard deviation from one occasion to the next, which a
    prediction for a single day carries on top of the mean's own error.
    """

    value: float
    u95: float
    spread: float
    occasions: int
    of: Occasion

    @property
    def assumed(self) -> bool:
        """Whether nothing was logged that it could be learned from."""
        return self.occasions == 0

    @property
    def next_sd(self) -> float:
        """Standard deviation of what the next day will show."""
        return float(np.hypot(self.u95 / COVERAGE_95, self.spread))


@dataclass(frozen=True)
class Bounded:
    """A value with the ends of its 95 % interval, which need not be evenly about it."""

    value: float
    low95: float
    high95: float


def assumed(value: float, u95: float, of: Occasion) -> Learned:
    """A stated default: nothing was learned."""
    return Learned(value, u95, 0.0, 0, of)


def combined(
    estimates: Sequence[tuple[float, float]], least_spread: float, of: Occasion, shared_variance: float = 0.0
) -> Learned:
    """Combine one estimate per occasion as a random-effects mean.

    Parameters
    ----------
    estimates : sequence of (float, float)
        Each with its variance.
    least_spread : float
        Relative standard deviation between occasions that is assumed where fewer than three were seen.
    of : {"rest", "heating", "charging", "runs"}
        What the occasions are.
    shared_variance : float
        Of an error that all occasions have in common.

    Returns
    -------
    Learned

    Raises
    ------
    ValueError
        Without an estimate.

    References
    ----------
    DerSimonian & Laird (1986); Hartung & Knapp (2001) for the interval; Roever, Knapp & Friede (2015) for its least
    width.
    """
    if not estimates:
        raise ValueError("nothing was logged to learn it from")
    estimate, own = np.array(estimates, dtype=np.float64).T
    if estimate.size < 3:
        spread = least_spread * abs(float(np.median(estimate)))
        weights = 1.0 / (own + spread**2)
        variance, factor = 1.0 / float(weights.sum()), COVERAGE_95
    else:
        between = between_variance([(estimate, 1.0 / own)])
        spread = float(np.sqrt(max(between[0], 0.0))) if between else 0.0
        weights = 1.0 / (own + spread**2)
        away = estimate - np.average(estimate, weights=weights)
        scale = float((weights * away**2).sum()) / (estimate.size - 1)
        variance, factor = max(scale, 1.0) / float(weights.sum()), coverage_95(estimate.size - 1)
    mean = float(np.average(estimate, weights=weights))
    half = float(np.hypot(factor * np.sqrt(variance), COVERAGE_95 * np.sqrt(shared_variance)))
    return Learned(mean, half, spread, int(estimate.size), of)


def between_variance(groups: Sequence[tuple[Floats, Floats]], unit_variance: float = 1.0) -> tuple[float, int] | None:
    """Estimate the variance between occasions from their means, by the method of moments, pooled over groups.

    Parameters
    ----------
    groups : sequence of (means, weights)
        For each group of like occasions, the mean of each (n) and its weight (n): `unit_variance` over the weight is
        the variance with which the mean is known.
    unit_variance : float
        With the number of runs as the weight, the variance of one run.

    Returns
    -------
    (float, int) or None
        The variance, which chance may make negative, and its degrees of freedom; None without any.

    References
    ----------
    DerSimonian & Laird (1986), Meta-analysis in clinical trials; with counts as weights it is the analysis of variance
    of a nested design (Searle, Casella & McCulloch 1992, chapter 3).

    Examples
    --------
    >>> between_variance([(np.array([1.0, 3.0]), np.array([2.0, 2.0]))])
    (1.5, 1)
    """
    total, dof, weight = 0.0, 0, 0.0
    for means, weights in groups:
        total += float((weights * (means - np.average(means, weights=weights)) ** 2).sum())
        weight += float(weights.sum() - (weights**2).sum() / weights.sum())
        dof += means.size - 1
    return ((total - dof * unit_variance) / weight, dof) if dof else None

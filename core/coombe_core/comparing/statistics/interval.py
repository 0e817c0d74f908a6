"""The interval and the test of a difference."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from coombe_core.comparing.statistics.contrast import Part
from coombe_core.comparing.statistics.power import ALPHA
from coombe_core.uncertainty import COVERAGE_95, coverage_95


@dataclass(frozen=True)
class Difference:
    """Difference of means, after minus before, with its 95 % interval, standard error, two-sided p and `dof`."""

    value: float
    low95: float
    high95: float
    p_value: float
    dof: float
    error: float

    @property
    def shown(self) -> bool:
        """Whether zero is outside the interval."""
        return not self.low95 <= 0 <= self.high95

    def shifted(self, low: float, high: float) -> Difference:
        """The same difference with its interval moved outward (or in) at either end; value and p stay."""
        return replace(self, low95=self.low95 + low, high95=self.high95 + high)


def two_sided_p(ratio: float, dof: float) -> float:
    """Give the chance that a t test shows at least this ratio of estimate to standard error where nothing is there.

    >>> round(two_sided_p(2.262, 9.0), 3)
    0.05
    """
    from scipy import special

    return 2 * float(special.stdtr(dof, -abs(ratio)))


def probability_positive(value: float, error: float, dof: float) -> float:
    """Give the probability that the true value is above zero, by Student's t about the estimate.

    >>> round(probability_positive(1.0, 0.5, 10.0), 3)
    0.963
    """

    from scipy import special

    if error == 0.0:
        return 0.5 if value == 0 else float(value > 0)
    return float(special.stdtr(dof, value / error))


def difference(value: float, parts: Sequence[Part]) -> Difference:
    """Give a difference Student's interval and test.

    Parameters
    ----------
    value : float
        The difference.
    parts : sequence of Part
        Variances that it carries, each with its degrees of freedom; infinite ones are known exactly.

    Returns
    -------
    Difference

    References
    ----------
    Cochran & Cox (1950), Experimental Designs, 4.14, for the quantile of a sum of variances.
    """

    counting = [part for part in parts if part.variance > 0]
    variance = sum(part.variance for part in counting)
    if variance == 0.0:
        return Difference(value, value, value, 1.0 if value == 0 else 0.0, math.inf, 0.0)
    error, dof = math.sqrt(variance), _dof(counting, variance)
    half = coverage_95(dof) * error
    return Difference(value, value - half, value + half, two_sided_p(value / error, dof), dof, error)


def _dof(parts: Sequence[Part], variance: float) -> float:
    """Degrees of freedom whose quantile is the mean of those of the parts, each weighed with its variance.

    Satterthwaite's would call too much different where a part of few happens to come out small.
    """
    from scipy import special

    if len({part.dof for part in parts}) == 1:
        return parts[0].dof
    sure = 1 - ALPHA / 2
    quantiles = special.stdtrit([part.dof for part in parts], sure)
    shares = [part.variance / variance for part in parts]
    return float(special.stdtridf(sure, float(np.dot(shares, quantiles))))


def shared_part(u95: float) -> Part:
    """Make the part of an error whose u95 is stated; its degrees of freedom count as infinite (GUM, G.4)."""
    return Part((u95 / COVERAGE_95) ** 2, math.inf)

"""The power of a two-sided 5 % t test, from the noncentral t."""

from __future__ import annotations

import math
from collections.abc import Callable

from coombe_core.uncertainty import coverage_95

ALPHA = 0.05
POWER = 0.8
WIDEST = 1e6  # standard errors: a test that does not find this finds nothing


def power(ratio: float, dof: float) -> float:
    """Find how likely a two-sided 5 % t test shows a true difference, with either sign.

    Parameters
    ----------
    ratio : float
        The true difference over its standard error.
    dof : float
        Degrees of freedom of that standard error.

    Returns
    -------
    float
        A chance between 0.05 and 1.

    References
    ----------
    Cohen (1988), Statistical Power Analysis for the Behavioral Sciences, chapter 2.

    Examples
    --------
    >>> round(power(2.0, 8.0), 2)
    0.42
    """
    from scipy import stats

    limit = coverage_95(dof)
    above, below = float(stats.nct.sf(limit, dof, abs(ratio))), float(stats.nct.cdf(-limit, dof, abs(ratio)))
    # Far out the library has no numbers: the effect is then always found, and never with the wrong sign.
    return (1.0 if math.isnan(above) else above) + (0.0 if math.isnan(below) else below)


def detectable_ratio(power_of: Callable[[float], float], wanted: float = POWER) -> float:
    """Find the least difference, in standard errors, that is found with the power that is wanted.

    Parameters
    ----------
    power_of : callable
        The power at a ratio of difference to standard error; it rises with the ratio.
    wanted : float
        The power that is enough.

    Returns
    -------
    float
        The ratio; inf where no ratio is found often enough.
    """
    from scipy import optimize

    high = 4.0
    while power_of(high) < wanted:
        high *= 1.5
        if high > WIDEST:
            return math.inf
    return float(optimize.brentq(lambda ratio: power_of(ratio) - wanted, 1e-6, high))


def detectable_difference(error: float, dof: float) -> float:
    """Find the difference that a test of this standard error and `dof` finds with 80 % power, in the error's unit."""
    return error * detectable_ratio(lambda ratio: power(ratio, dof)) if error else 0.0

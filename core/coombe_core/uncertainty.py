"""Quantities drawn from a fit, and how their uncertainty adds up (GUM, JCGM 100:2008, 5.2: correlated inputs)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
COVERAGE_95 = 1.959964


def coverage_95(dof: float) -> float:
    """Give how many standard errors a 95 % interval reaches to either side, by Student's t.

    Parameters
    ----------
    dof : float
        Of the standard error: how many independent values it rests on, which may be infinite.

    Returns
    -------
    float
        The factor; nan where `dof` is not above zero.

    Examples
    --------
    >>> round(coverage_95(9.0), 3)
    2.262
    """
    from scipy import special  # scipy.stats gives the same numbers, and takes fifty times as long for one

    return float(special.stdtrit(dof, 0.975))


@dataclass(frozen=True)
class Value:
    """A number in SI units and the half-width of its 95 % interval."""

    value: float
    u95: float

    def scaled(self, factor: float) -> Value:
        """The same quantity times an exact factor."""
        return Value(self.value * factor, self.u95 * abs(factor))


@dataclass(frozen=True, eq=False)
class Estimate:
    """One quantity of a fit: its number, its gradient (P) and the covariance (P x P) of the fit's parameters."""

    number: float
    gradient: Floats
    covariance: Floats

    def __sub__(self, other: Estimate) -> Estimate:
        return self._like(self.number - other.number, self.gradient - other.gradient)

    def times(self, factor: float) -> Estimate:
        """This quantity times an exact factor."""
        return self._like(self.number * factor, self.gradient * factor)

    def product(self, other: Estimate) -> Estimate:
        """The product of two quantities of one fit."""
        slope = self.number * other.gradient + other.number * self.gradient
        return self._like(self.number * other.number, slope)

    def inverse(self) -> Estimate:
        """One over this quantity."""
        return self._like(1 / self.number, -self.gradient / self.number**2)

    def square(self) -> Estimate:
        """This quantity squared."""
        return self.product(self)

    def moved(self, rate: float, instant: Estimate) -> Estimate:
        """This quantity, which changes at `rate`, at an instant that itself is uncertain."""
        return self._like(self.number, self.gradient + rate * instant.gradient)

    @property
    def value(self) -> Value:
        """The number with its u95."""
        variance = float(self.gradient @ self.covariance @ self.gradient)
        return Value(self.number, COVERAGE_95 * float(np.sqrt(max(variance, 0.0))))

    def _like(self, number: float, gradient: Floats) -> Estimate:
        return Estimate(number, gradient, self.covariance)

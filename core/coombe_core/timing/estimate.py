"""Quantities drawn from a fit, and how their uncertainty adds up (GUM, JCGM 100:2008, 5.2: correlated inputs)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
COVERAGE_95 = 1.959964


@dataclass(frozen=True)
class Value:
    """A number in SI units and the half-width of its 95 % interval."""

    value: float
    u95: float

    def scaled(self, factor: float) -> Value:
        """The same quantity times an exact factor."""
        return Value(self.value * factor, self.u95 * abs(factor))


@dataclass(frozen=True)
class Posterior:
    """What a fit knows: K hypotheses, each with a weight and a covariance (P x P) of its parameters."""

    weights: Floats
    covariances: Floats


@dataclass(frozen=True)
class Estimate:
    """One quantity under every hypothesis of a posterior: its values (K) and gradients (K x P)."""

    posterior: Posterior
    values: Floats
    gradients: Floats

    def __sub__(self, other: Estimate) -> Estimate:
        return Estimate(self.posterior, self.values - other.values, self.gradients - other.gradients)

    def times(self, factor: float) -> Estimate:
        """This quantity times an exact factor."""
        return Estimate(self.posterior, self.values * factor, self.gradients * factor)

    def product(self, other: Estimate) -> Estimate:
        """The product of two quantities of one fit."""
        slopes = self.values[:, None] * other.gradients + other.values[:, None] * self.gradients
        return Estimate(self.posterior, self.values * other.values, slopes)

    def inverse(self) -> Estimate:
        """One over this quantity."""
        return Estimate(self.posterior, 1 / self.values, -self.gradients / self.values[:, None] ** 2)

    def square(self) -> Estimate:
        """This quantity squared."""
        return self.product(self)

    def summed_up(self) -> Value:
        """The mean over the hypotheses, with the spread within and between them."""
        weights = self.posterior.weights
        mean = float(weights @ self.values)
        within = np.einsum("kp,kpq,kq->k", self.gradients, self.posterior.covariances, self.gradients)
        variance = float(weights @ (within + (self.values - mean) ** 2))
        return Value(mean, COVERAGE_95 * float(np.sqrt(max(variance, 0.0))))

"""A cubic B-spline on even knots: values, first and second integral, and a roughness penalty."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import BSpline

Floats = NDArray[np.float64]
DEGREE = 3
FREED = 1e-3  # the penalty's share where the curve may bend at once


class Spline:
    """Basis functions over [from_s, to_s], knots about `spacing_s` apart; `size` of them."""

    def __init__(self, from_s: float, to_s: float, spacing_s: float) -> None:
        pieces = max(int(np.ceil((to_s - from_s) / spacing_s)), 4)
        self._spacing_s = (to_s - from_s) / pieces
        self._knots_s = from_s + self._spacing_s * np.arange(-DEGREE, pieces + DEGREE + 1)
        self.size = pieces + DEGREE
        self._from_s, self._to_s = from_s, to_s
        basis = BSpline(self._knots_s, np.eye(self.size), DEGREE)
        self._ladder = (basis, basis.antiderivative(1), basis.antiderivative(2))

    def values(self, at_s: Floats) -> Floats:
        """The basis (n x size) at `at_s`, held constant outside the range."""
        return np.asarray(self._ladder[0](np.clip(at_s, self._from_s, self._to_s)), dtype=np.float64)

    def integrals(self, at_s: Floats) -> tuple[Floats, Floats, Floats]:
        """The basis and its first and second integral from the range's start, each (n x size)."""
        inside = np.clip(at_s, self._from_s, self._to_s)
        first = self._ladder[1](inside) - self._ladder[1](self._from_s)
        second = self._ladder[2](inside) - self._ladder[2](self._from_s)
        second -= (inside - self._from_s)[:, None] * self._ladder[1](self._from_s)
        return self.values(at_s), np.asarray(first), np.asarray(second)

    def penalty(self, free_around_s: float) -> Floats:
        """Sum of squared second differences (size x size), nearly lifted around one instant."""
        differences = np.diff(np.eye(self.size), 2, axis=0)
        centers_s = self._knots_s[3 : 3 + differences.shape[0]]
        weights = np.where(np.abs(centers_s - free_around_s) < 1.6 * self._spacing_s, FREED, 1.0)
        return np.asarray(differences.T @ (weights[:, None] * differences))

"""A cubic B-spline: values, first and second integral, and a roughness penalty that may be lifted around an instant."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import BSpline

Floats = NDArray[np.float64]
DEGREE = 3
FREED = 1e-3  # the penalty's share where the curve may bend at once
FREE_REACH_S = 0.35
FINER = 4  # knots are this much closer there


class Spline:
    """Basis functions over [from_s, to_s], knots about `spacing_s` apart and closer around `free_around_s`."""

    def __init__(self, from_s: float, to_s: float, spacing_s: float, free_around_s: float) -> None:
        pieces = max(int(np.ceil((to_s - from_s) / spacing_s)), 4)
        inner = np.linspace(from_s, to_s, pieces + 1)
        self._spacing_s = (to_s - from_s) / pieces
        middles = (inner[:-1, None] + np.diff(inner)[:, None] * np.arange(1, FINER) / FINER).ravel()
        near = middles[np.abs(middles - free_around_s) < FREE_REACH_S]
        inner = np.sort(np.concatenate([inner, near]))
        outside = self._spacing_s * np.arange(1, DEGREE + 1)
        self._knots_s = np.concatenate([from_s - outside[::-1], inner, to_s + outside])
        self.size = inner.size + DEGREE - 1
        self._from_s, self._to_s, self._free_around_s = from_s, to_s, free_around_s
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

    def penalty(self) -> Floats:
        """Integrated squared curvature (size x size) of the control polygon, in units of the usual spacing.

        Control points stand over the means of DEGREE knots (Greville); on even knots this is the sum of squared
        second differences.
        """
        centers_s = np.array([self._knots_s[j + 1 : j + 1 + DEGREE].mean() for j in range(self.size)])
        gaps = np.diff(centers_s)[:, None]
        slopes = np.diff(np.eye(self.size), axis=0) / gaps
        widths = (gaps[1:] + gaps[:-1]) / 2
        bends = np.diff(slopes, axis=0) / widths
        free = np.abs(centers_s[1:-1] - self._free_around_s) < FREE_REACH_S
        weights = np.where(free, FREED, 1.0)[:, None] * widths * self._spacing_s**3
        return np.asarray(bends.T @ (weights * bends))

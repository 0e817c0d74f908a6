"""Cubic B-splines with their integrals and roughness, as one table of polynomials a stretch between knots.

Written with numpy alone: importing a spline library costs more than fitting a run (de Boor 1978 for the recursion).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
DEGREE = 3
FACTORIALS = np.array([1.0, 1.0, 2.0, 6.0, 24.0, 120.0])


class Spline:
    """Basis functions over the inner knots (m, ascending); m + 2 of them."""

    def __init__(self, inner_s: Floats) -> None:
        self.inner_s = inner_s
        self.size = inner_s.size + DEGREE - 1
        first, last = inner_s[1] - inner_s[0], inner_s[-1] - inner_s[-2]
        outside = np.arange(1, DEGREE + 1)
        knots = np.concatenate([inner_s[0] - first * outside[::-1], inner_s, inner_s[-1] + last * outside])
        self._widths_s = np.diff(inner_s)
        self._terms = _terms(knots, inner_s)
        self._speed_0, self._distance_0 = self._starts()

    def _starts(self) -> tuple[Floats, Floats]:
        """First and second integral from the first knot to the start of every stretch (m - 1 x size)."""
        speeds, distances = np.zeros((2, self._widths_s.size, self.size))
        for piece, width_s in enumerate(self._widths_s[:-1]):
            terms = self._terms[piece]
            speeds[piece + 1] = speeds[piece] + _powers(np.array([width_s]), 1)[0] @ terms
            gained = speeds[piece] * width_s + _powers(np.array([width_s]), 2)[0] @ terms
            distances[piece + 1] = distances[piece] + gained
        return speeds, distances

    def rows(self, at_s: Floats) -> tuple[Floats, Floats, Floats]:
        """The basis and its first and second integral from the first knot, each (n x size)."""
        piece = np.clip(np.searchsorted(self.inner_s, at_s, side="right") - 1, 0, self._widths_s.size - 1)
        since_s, terms = at_s - self.inner_s[piece], self._terms[piece]
        values, speeds, distances = (np.matmul(_powers(since_s, n)[:, None], terms)[:, 0] for n in range(3))
        speeds += self._speed_0[piece]
        distances += self._distance_0[piece] + since_s[:, None] * self._speed_0[piece]
        return values, speeds, distances

    def polynomial(self) -> Floats:
        """Taylor terms (4 x size) of the basis in the first stretch: row i times t^i / i! from the first knot."""
        return np.asarray(self._terms[0])

    def roughness(self, stiffness: Floats) -> Floats:
        """Integral of the squared third derivative (size x size), weighted by one stiffness a stretch (m - 1)."""
        jump = self._terms[:, 3]
        return jump.T @ (jump * (self._widths_s * stiffness)[:, None])


def _powers(since_s: Floats, integrated: int) -> Floats:
    """t^i / i! for i from `integrated` on, four columns (n x 4)."""
    degrees = np.arange(integrated, integrated + DEGREE + 1)
    return np.asarray(since_s[:, None] ** degrees / FACTORIALS[degrees])


def _terms(knots: Floats, inner_s: Floats) -> Floats:
    """Value and three derivatives of every basis function at the start of every stretch (m - 1 x 4 x size)."""
    widths_s = np.diff(inner_s)
    shares = np.array([0.1, 0.35, 0.65, 0.9])
    at_s = (inner_s[:-1, None] + widths_s[:, None] * shares).ravel()
    values = _basis(knots, at_s).reshape(widths_s.size, 4, -1)
    to_terms = np.linalg.inv(shares[:, None] ** np.arange(4))
    scale = FACTORIALS[:4, None] / widths_s[:, None, None] ** np.arange(4)[:, None]
    return np.asarray(np.matmul(to_terms, values) * scale)


def _basis(knots: Floats, at_s: Floats) -> Floats:
    """Cubic B-splines at points inside the knots, by the recursion of Cox and de Boor (n x basis)."""
    at = at_s[:, None]
    basis = ((knots[:-1] <= at) & (at < knots[1:])).astype(np.float64)
    for degree in range(1, DEGREE + 1):
        rise = (at - knots[: -degree - 1]) / (knots[degree:-1] - knots[: -degree - 1])
        fall = (knots[degree + 1 :] - at) / (knots[degree + 1 :] - knots[1:-degree])
        basis = rise * basis[:, :-1] + fall * basis[:, 1:]
    return basis

"""Cubic B-splines with their integrals and derivatives, as one table of polynomials a stretch between knots.

Written with numpy alone: importing a spline library costs more than fitting a run (de Boor 1978 for the recursion).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
DEGREE = 3
WIDENING = 0.1  # knots are further apart as the run goes on
FACTORIALS = np.array([1.0, 1.0, 2.0, 6.0, 24.0, 120.0])
# Gauss-Legendre's three nodes on -1..1 and their weights, which add up to one.
GAUSS_AT, GAUSS_WEIGHT = np.sqrt(0.6) * np.array([-1.0, 0.0, 1.0]), np.array([5.0, 8.0, 5.0]) / 18.0


@dataclass(frozen=True)
class Nodes:
    """Quadrature over a spline: times and widths (q each), the basis there and its two derivatives (q x size each)."""

    at_s: Floats
    width_s: Floats
    basis: Floats
    first: Floats
    second: Floats


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
        each = np.matmul(_powers(self._widths_s, 1)[:, None], self._terms)[:, 0]
        speeds = np.cumsum(each, axis=0) - each
        each = speeds * self._widths_s[:, None] + np.matmul(_powers(self._widths_s, 2)[:, None], self._terms)[:, 0]
        return speeds, np.cumsum(each, axis=0) - each

    def curve(self, coefficients: Floats, at_s: Floats) -> tuple[Floats, Floats, Floats]:
        """What `rows` times the coefficients would be (n each), in far fewer steps."""
        piece = self._piece(at_s)
        since_s, terms = at_s - self.inner_s[piece], (self._terms @ coefficients)[piece]
        value, speed, distance = ((_powers(since_s, n) * terms).sum(axis=1) for n in range(3))
        begun_mps = (self._speed_0 @ coefficients)[piece]
        return value, speed + begun_mps, distance + (self._distance_0 @ coefficients)[piece] + since_s * begun_mps

    def rows(self, at_s: Floats) -> tuple[Floats, Floats, Floats]:
        """The basis and its first and second integral from the first knot, each (n x size)."""
        piece = self._piece(at_s)
        since_s, terms = at_s - self.inner_s[piece], self._terms[piece]
        values, speeds, distances = (np.matmul(_powers(since_s, n)[:, None], terms)[:, 0] for n in range(3))
        speeds += self._speed_0[piece]
        distances += self._distance_0[piece] + since_s[:, None] * self._speed_0[piece]
        return values, speeds, distances

    def _piece(self, at_s: Floats) -> NDArray[np.intp]:
        return np.clip(np.searchsorted(self.inner_s, at_s, side="right") - 1, 0, self._widths_s.size - 1)

    def polynomial(self) -> Floats:
        """Taylor terms (4 x size) of the basis in the first stretch: row i times t^i / i! from the first knot."""
        return np.asarray(self._terms[0])

    def nodes(self) -> Nodes:
        """Where an integral over all stretches is worked out."""
        since_s = self._widths_s[:, None] * (1.0 + GAUSS_AT) / 2.0
        powers = _powers(since_s.ravel(), 0).reshape(*since_s.shape, 4)
        derivatives = [np.matmul(powers[..., : 4 - n], self._terms[:, n:]).reshape(-1, self.size) for n in range(3)]
        at_s = (self.inner_s[:-1, None] + since_s).ravel()
        return Nodes(at_s, (self._widths_s[:, None] * GAUSS_WEIGHT).ravel(), *derivatives)


def _powers(since_s: Floats, integrated: int) -> Floats:
    """t^i / i! for i from `integrated` on, four columns (n x 4)."""
    powers = np.empty((since_s.size, DEGREE + 1))
    powers[:, 0] = since_s**integrated / FACTORIALS[integrated]
    for column in range(1, DEGREE + 1):
        powers[:, column] = powers[:, column - 1] * since_s / (integrated + column)
    return powers


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


def knots_between(from_s: float, to_s: float, spacing_s: float, launch_s: float) -> list[float]:
    """Knots that are further apart as the run goes on, the last one at or after `to_s`."""
    knots = [from_s]
    while knots[-1] < to_s or len(knots) < 3:
        knots.append(knots[-1] + max(spacing_s, WIDENING * (knots[-1] - launch_s)))
    return knots

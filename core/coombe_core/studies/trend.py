"""A straight line through values in order, within series that each have a level of their own."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.uncertainty import Value, coverage_95

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Trend:
    """The change per step of x with its 95 % interval, and what is left beside the line (1 sigma, with its dof)."""

    per_step: Value
    left: float
    dof: int


def trend(series: Sequence[tuple[Sequence[float], Sequence[float]]]) -> Trend | None:
    """Fit one slope to several series of x and y, each with an intercept of its own, by least squares.

    Parameters
    ----------
    series : sequence of (sequence of float, sequence of float)
        The x and y of each.

    Returns
    -------
    Trend or None
        None without degrees of freedom, or where x is the same throughout each.
    """

    pairs = [(np.asarray(x, dtype=np.float64), np.asarray(y, dtype=np.float64)) for x, y in series if len(x)]
    x = np.concatenate([x - x.mean() for x, _ in pairs]) if pairs else np.zeros(0)
    y = np.concatenate([y - y.mean() for _, y in pairs]) if pairs else np.zeros(0)
    dof, spread = x.size - len(pairs) - 1, float(x @ x)
    if dof < 1 or spread <= 0.0:
        return None
    slope = float(x @ y) / spread
    left = math.sqrt(float(((y - slope * x) ** 2).sum()) / dof)
    return Trend(Value(slope, coverage_95(dof) * left / math.sqrt(spread)), left, dof)

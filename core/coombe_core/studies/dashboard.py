"""Dashboard speed: what an indicated speed truly is."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from coombe_core.studies.problem import StudyError
from coombe_core.uncertainty import Value, coverage_95

LEAST_PAIRS = 4
LEAST_SPREAD_MPS = 3.0


@dataclass(frozen=True)
class Dashboard:
    """True speed over indicated: ratio and offset (m/s) of a line, each with its u95."""

    ratio: Value
    offset_mps: Value
    mean_mps: float
    spread: float
    left_mps: float
    pairs: int

    def true_mps(self, indicated_mps: float) -> Value:
        """What an indicated speed truly is, in the mean of many readings."""

        error = self.left_mps * math.sqrt(1.0 / self.pairs + (indicated_mps - self.mean_mps) ** 2 / self.spread)
        quantile = coverage_95(self.pairs - 2)
        return Value(self.offset_mps.value + self.ratio.value * indicated_mps, quantile * error)


def dashboard(indicated_mps: Sequence[float], true_mps: Sequence[float]) -> Dashboard:
    """Fit true speed against indicated by least squares.

    Parameters
    ----------
    indicated_mps, true_mps : sequence of float, length n
        Readings at steady speeds, or of CAN data against the receiver.

    Returns
    -------
    Dashboard

    Raises
    ------
    StudyError
        With fewer than four pairs, or all at about one speed.
    """
    from scipy import stats

    x, y = np.asarray(indicated_mps, dtype=np.float64), np.asarray(true_mps, dtype=np.float64)
    if x.size < LEAST_PAIRS:
        raise StudyError("too few", {"runs": x.size, "least": LEAST_PAIRS})
    if np.ptp(x) < LEAST_SPREAD_MPS:
        raise StudyError("one speed", {"low": float(x.min()), "high": float(x.max()), "least": LEAST_SPREAD_MPS})
    found = stats.linregress(x, y)
    quantile = coverage_95(x.size - 2)
    left = math.sqrt(float(((y - found.intercept - found.slope * x) ** 2).sum()) / (x.size - 2))
    return Dashboard(
        Value(float(found.slope), quantile * float(found.stderr)),
        Value(float(found.intercept), quantile * float(found.intercept_stderr)),
        float(x.mean()),
        float(((x - x.mean()) ** 2).sum()),
        left,
        x.size,
    )

"""Two receivers on the same passes: how well they agree (Bland and Altman 1986)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from coombe_core.studies.problem import StudyError
from coombe_core.uncertainty import Value, coverage_95

LEAST_PASSES = 3
LIMITS = 1.96  # standard deviations, as the paper has it


@dataclass(frozen=True)
class Agreement:
    """Second less first receiver: the bias, and the limits between which 95 of 100 passes differ; each with its u95."""

    passes: int
    bias: Value
    sd: float
    lower: Value
    upper: Value

    @property
    def biased(self) -> bool:
        """Whether the bias is clear."""
        return abs(self.bias.value) > self.bias.u95


def agreement(first: Sequence[float], second: Sequence[float]) -> Agreement:
    """Work out how two receivers agree in one measure.

    Parameters
    ----------
    first, second : sequence of float, length n
        What either says of the same passes.

    Returns
    -------
    Agreement
        The standard error of a limit is sqrt(3 / n) times the standard deviation.

    Raises
    ------
    StudyError
        With fewer than three passes.

    References
    ----------
    Bland & Altman (1986), Statistical methods for assessing agreement between two methods of clinical measurement.
    """

    apart = np.asarray(second, dtype=np.float64) - np.asarray(first, dtype=np.float64)
    if apart.size < LEAST_PASSES:
        raise StudyError("too few", {"runs": apart.size, "least": LEAST_PASSES})
    mean, sd = float(apart.mean()), float(apart.std(ddof=1))
    t = coverage_95(apart.size - 1)
    error = sd / math.sqrt(apart.size)
    lower, upper = (Value(mean + sign * LIMITS * sd, t * math.sqrt(3.0) * error) for sign in (-1.0, 1.0))
    return Agreement(apart.size, Value(mean, t * error), sd, lower, upper)

"""A group of values in a nutshell."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from coombe_core.uncertainty import Value, coverage_95


@dataclass(frozen=True)
class Sample:
    """One group's values in a nutshell; `sd` is None for a single value."""

    n: int
    mean: float
    sd: float | None
    best: float


def sample(values: Sequence[float], smaller_is_better: bool = True) -> Sample:
    """Summarize at least one value: count, mean, standard deviation (n - 1) and best."""
    array = np.asarray(values, dtype=np.float64)
    sd = float(array.std(ddof=1)) if array.size > 1 else None
    return Sample(array.size, float(array.mean()), sd, float(array.min() if smaller_is_better else array.max()))


def mean_of(values: Sequence[float]) -> Value:
    """Average two values or more, with Student's 95 % interval of the mean."""

    array = np.asarray(values, dtype=np.float64)
    half = coverage_95(array.size - 1) * float(array.std(ddof=1)) / math.sqrt(array.size)
    return Value(float(array.mean()), half)

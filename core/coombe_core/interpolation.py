"""Where a sampled quantity passes a level: the one crossing function."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

SHORT_BY = 1e-9  # of a level, by which the last sample may miss it for rounding


def crossing(
    level: float, levels: NDArray[np.float64] | Sequence[float], at: NDArray[np.float64] | Sequence[float]
) -> float | None:
    """Find where samples first rise to a level, in a straight line between the two that enclose it.

    Parameters
    ----------
    level : float
        What is passed, in the unit of `levels`.
    levels : array of float, shape (n,)
        The sampled quantity, such as speed.
    at : array of float, shape (n,)
        What it was sampled over, such as time.

    Returns
    -------
    float or None
        The place in the unit of `at`; None where the first sample is above the level already, or none reaches it.

    Examples
    --------
    >>> crossing(15.0, [0.0, 10.0, 20.0], [0.0, 1.0, 2.0])
    1.5
    >>> crossing(30.0, [0.0, 10.0, 20.0], [0.0, 1.0, 2.0]) is None
    True
    """
    levels, at = np.asarray(levels, dtype=np.float64), np.asarray(at, dtype=np.float64)
    if level < levels[0]:
        return None
    past = levels >= level
    if not past.any():
        return float(at[-1]) if levels[-1] * (1 + SHORT_BY) >= level else None
    last = max(int(np.argmax(past)), 1)
    return float(np.interp(level, levels[last - 1 : last + 1], at[last - 1 : last + 1]))


def median(values: NDArray[np.float64]) -> float:
    """Give the median of some values (n); numpy's own would import its masked arrays, at a cost to every start.

    >>> median(np.array([3.0, 1.0, 2.0, 10.0]))
    2.5
    """
    ordered = np.sort(values)
    return float(ordered[(values.size - 1) // 2] + ordered[values.size // 2]) / 2.0

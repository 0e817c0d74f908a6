"""Moments at which a pull falters and goes on, as while a gear is changed or a wheel slips: speed lost at once.

Each is a step in speed that no smooth pull makes: about every fix a parabola with such a step is fitted to the fixes
near it, and the step counts where it is far beyond what noise makes of it.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from coombe_core.fitting.fixes import Fixes
from coombe_core.interpolation import median

Floats = NDArray[np.float64]
AROUND_S = 0.5
LASTS_S = (0.1, 0.18)  # how long speed is lost
FAR_BEYOND = 5.5  # times the standard error of the step
LEAST_LOST_MPS = 0.15
LEAST_NEAR = 9  # fixes
USUAL_MEDIAN = 0.9  # of the size of such steps where fixes are 0.04 s apart; 0.67 if their noise did not last
LEAST_NOISE_MPS = 0.01


def dips(fixes: Fixes, from_s: float, to_s: float) -> list[tuple[float, float]]:
    """Find where a pull falters between two times.

    Parameters
    ----------
    fixes : Fixes
        Evenly spaced, but for gaps, near which nothing is found.
    from_s, to_s : float
        Where the pull is at full power.

    Returns
    -------
    list of (float, float)
        Where each begins and ends, in seconds, in the order of time.
    """
    near = 2 * round(AROUND_S / fixes.step_s) + 1
    if near < LEAST_NEAR or fixes.time_s.size < near:
        return []
    middle = near // 2
    centers_s = fixes.time_s[middle : fixes.time_s.size - middle]
    even = np.ptp(sliding_window_view(fixes.time_s, near), axis=1) < (near - 0.5) * fixes.step_s
    sought = even & (centers_s - AROUND_S / 2 > from_s) & (centers_s + AROUND_S / 2 < to_s)
    seen = sliding_window_view(fixes.speed_mps, near)[sought]
    if not seen.size:
        return []
    fitted = [_steps(seen, np.arange(near - 0.0) - middle, lasts_s / fixes.step_s) for lasts_s in LASTS_S]
    lost, beyond = (np.array(each) for each in zip(*fitted, strict=True))
    strongest = np.argmax(np.where(lost > LEAST_LOST_MPS, beyond, 0.0), axis=0)
    places = np.arange(strongest.size)
    clear = (beyond[strongest, places] > FAR_BEYOND) & (lost[strongest, places] > LEAST_LOST_MPS)
    scores = np.where(clear, beyond[strongest, places], 0.0)
    lasts_s = np.array(LASTS_S)[strongest]
    return sorted(_apart(centers_s[sought], scores, lasts_s))


def _steps(seen: Floats, at: Floats, lasts: float) -> tuple[Floats, Floats]:
    """Speed lost about the middle of each window (n), and that over its standard error."""
    step = -np.clip(at / lasts + 0.5, 0.0, 1.0)
    x = np.column_stack([np.ones_like(at), at, at**2, at**3, step])
    inverse = np.linalg.inv(x.T @ x)
    solved = seen @ x @ inverse
    variances = ((seen - solved @ x.T) ** 2).sum(axis=1) / (at.size - x.shape[1])
    usual = median(variances)
    beyond = solved[:, -1] / np.sqrt(np.maximum(usual, LEAST_NOISE_MPS**2) * inverse[-1, -1])
    # Noise that lasts from fix to fix makes more of a step than its variance says: all windows show how much.
    return solved[:, -1], beyond / max(median(np.abs(beyond)) / USUAL_MEDIAN, 1.0)


def _apart(centers_s: Floats, scores: Floats, lasts_s: Floats) -> Iterator[tuple[float, float]]:
    """The strongest first, and what stands clear of those before."""
    scores = scores.copy()
    while scores.any():
        best = int(np.argmax(scores))
        yield float(centers_s[best] - lasts_s[best] / 2), float(centers_s[best] + lasts_s[best] / 2)
        scores[np.abs(centers_s - centers_s[best]) < AROUND_S] = 0.0

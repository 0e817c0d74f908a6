"""A braking series: stops in order, whose distance may grow as brakes and tires warm."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from coombe_core.studies.trend import trend
from coombe_core.uncertainty import Value, coverage_95

LEAST_STOPS = 3
Fading = Literal["fades", "no clear fade", "too few stops"]


@dataclass(frozen=True)
class BrakingSeries:
    """Best, mean and last distance (m), the fade per stop (m) and what it amounts to."""

    best_m: float
    mean_m: float
    last_m: float
    fade_per_stop_m: Value | None
    verdict: Fading


def braking_series(series: Sequence[Sequence[float]]) -> BrakingSeries:
    """Work out the fade of one or more series of stops.

    Parameters
    ----------
    series : sequence of sequences of float
        For every series the distances in m, corrected to the nominal speed, in the order of driving. Each has a level
        of its own; they share the fade.

    Returns
    -------
    BrakingSeries
        It fades where the 95 % interval of the fade is above zero.
    """
    found = trend([(range(len(stops)), stops) for stops in series])
    values = [distance for stops in series for distance in stops]
    verdict: Fading = "too few stops"
    if found is not None and max(map(len, series)) >= LEAST_STOPS:
        verdict = "fades" if found.per_step.value > found.per_step.u95 else "no clear fade"
    fade = found.per_step if found else None
    return BrakingSeries(min(values), float(np.mean(values)), values[-1], fade, verdict)


def power_to_find_fade(stops: int, fade: float, scatter: float) -> float:
    """How likely a series is to show a true fade.

    Parameters
    ----------
    stops : int
    fade : float
        Per stop.
    scatter : float
        Of a stop, 1 sigma, in the same unit.

    Returns
    -------
    float
        By the noncentral t distribution; 0 with fewer stops than a verdict needs.
    """
    from scipy import stats

    if stops < LEAST_STOPS:
        return 0.0
    spread = stops * (stops**2 - 1) / 12.0
    noncentrality = fade * np.sqrt(spread) / scatter
    return float(stats.nct.sf(coverage_95(stops - 2), stops - 2, noncentrality))

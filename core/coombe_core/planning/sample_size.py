"""How many runs per group a question needs, and the reverse: what a number of runs could show.

A two-sided 5 % t test of two groups of equal size, its power from the noncentral t (Cohen 1988, chapter 2). Groups that
can't be driven on the same days carry the car's scatter from day to day on top, which more runs a day do not lessen.
"""

from __future__ import annotations

import math
from bisect import bisect_left
from dataclasses import dataclass, replace
from typing import Any

from coombe_core.comparing.statistics.power import ALPHA, POWER, detectable_ratio, power
from coombe_core.comparing.statistics.scatter import Scatter

MOST_RUNS = 60
MOST_DAYS = 12


@dataclass(frozen=True)
class Design:
    """Runs and days of each group. Interleaved groups share their days, whose scatter then cancels."""

    runs: int
    days: int = 1
    interleaved: bool = True

    def __post_init__(self) -> None:
        if self.runs < self.days:
            raise ValueError(f"{self.days} days need at least {self.days} runs per group")


def power_to_find(difference: float, design: Design, scatter: Scatter) -> float:
    """Calculate the chance that a design finds a true difference.

    Days of their own never find more than shared ones: that their scatter counts as known is not put to their credit.

    Parameters
    ----------
    difference : float
        In the measure's unit.
    design : Design
    scatter : Scatter
        Of the car's values, in the measure's unit.

    Returns
    -------
    float
        0 to 1.

    Raises
    ------
    ValueError
        With fewer than two runs per group.

    References
    ----------
    Cohen (1988), Statistical Power Analysis for the Behavioral Sciences, chapter 2.
    """
    found = _found(difference, design, scatter)
    return found if design.interleaved else min(found, _found(difference, replace(design, interleaved=True), scatter))


def _found(difference: float, design: Design, scatter: Scatter) -> float:
    error, dof = _error(design, scatter)
    if error == 0.0:
        return 1.0 if difference else ALPHA
    return power(difference / error, dof)


def _error(design: Design, scatter: Scatter) -> tuple[float, float]:
    """Standard error of the difference and its degrees of freedom (Welch-Satterthwaite; a known day part has none)."""
    if design.runs < 2:
        raise ValueError("a test needs at least two runs per group")
    runs_part = 2.0 * scatter.run_sd**2 / design.runs
    days_part = 0.0 if design.interleaved else 2.0 * scatter.day_sd**2 / design.days
    variance = runs_part + days_part
    own = 2.0 * design.runs - 2.0
    return math.sqrt(variance), own * (variance / runs_part) ** 2 if runs_part else own


def detectable_difference(design: Design, scatter: Scatter, wanted: float = POWER) -> float:
    """Find the least true difference that a design finds with the power that is wanted.

    Parameters
    ----------
    design : Design
    scatter : Scatter
        Of the car's values, in the measure's unit.
    wanted : float
        0 to 1.

    Returns
    -------
    float
        In the measure's unit.
    """
    error, _ = _error(design, scatter)
    return (
        error * detectable_ratio(lambda ratio: power_to_find(ratio * error, design, scatter), wanted) if error else 0.0
    )


def runs_needed(
    difference: float, scatter: Scatter, wanted: float = POWER, days: int = 1, interleaved: bool = True
) -> int | None:
    """Find the fewest runs per group that show a difference.

    Parameters
    ----------
    difference : float
        In the measure's unit.
    scatter : Scatter
        Of the car's values, in the measure's unit.
    wanted : float
        The power, 0 to 1.
    days : int
        Days per group.
    interleaved : bool
        Whether the groups share their days.

    Returns
    -------
    int or None
        None where no number up to 60 does on a number of days.
    """
    counts = range(max(2, days), MOST_RUNS + 1)

    def found(runs: int) -> float:
        return power_to_find(difference, Design(runs, days, interleaved), scatter)

    if found(MOST_RUNS) < wanted:
        return None
    return counts[bisect_left(counts, wanted, key=found)]


def days_needed(difference: float, scatter: Scatter, wanted: float = POWER) -> tuple[int, int] | None:
    """Find the fewest days per group, and runs on them, for a change that can't be undone.

    Returns
    -------
    (int, int) or None
        Days and runs per group, at least two days; None where 12 days do not suffice.
    """
    for days in range(2, MOST_DAYS + 1):
        runs = runs_needed(difference, scatter, wanted, days, interleaved=False)
        if runs is not None:
            return days, runs
    return None


def power_curve(scatter: Scatter, days: int, interleaved: bool, most: int = 16) -> list[dict[str, Any]]:
    """For 2 runs per group up to `most`: the least difference found with 80 % power."""
    counts = range(max(2, days), most + 1)
    return [{"runs": n, "smallest": detectable_difference(Design(n, days, interleaved), scatter)} for n in counts]

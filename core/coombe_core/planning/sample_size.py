"""How many runs an arm a question needs, and the reverse: what a number of runs could show.

A two-sided 5 % t test of two arms of equal size, its power from the noncentral t (Cohen 1988, chapter 2). Arms that
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
    """Runs and days of each arm. Interleaved arms share their days, whose scatter then cancels."""

    runs: int
    days: int = 1
    interleaved: bool = True

    def __post_init__(self) -> None:
        if self.runs < self.days:
            raise ValueError(f"{self.days} days need at least {self.days} runs an arm")


def power_to_find(difference: float, design: Design, scatter: Scatter) -> float:
    """The chance that this design finds a true difference, 0..1. Raises ValueError with fewer than two runs an arm.

    Days of their own never find more than shared ones: that their scatter counts as known is not put to their credit.
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
        raise ValueError("a test needs at least two runs an arm")
    runs_part = 2.0 * scatter.run_sd**2 / design.runs
    days_part = 0.0 if design.interleaved else 2.0 * scatter.day_sd**2 / design.days
    variance = runs_part + days_part
    own = 2.0 * design.runs - 2.0
    return math.sqrt(variance), own * (variance / runs_part) ** 2 if runs_part else own


def detectable_difference(design: Design, scatter: Scatter, wanted: float = POWER) -> float:
    """The least true difference that this design finds with the chosen power, in the measure's unit."""
    error, _ = _error(design, scatter)
    return (
        error * detectable_ratio(lambda ratio: power_to_find(ratio * error, design, scatter), wanted) if error else 0.0
    )


def runs_needed(
    difference: float, scatter: Scatter, wanted: float = POWER, days: int = 1, interleaved: bool = True
) -> int | None:
    """Fewest runs an arm that find a difference; None where no number up to 60 does on so many days."""
    counts = range(max(2, days), MOST_RUNS + 1)

    def found(runs: int) -> float:
        return power_to_find(difference, Design(runs, days, interleaved), scatter)

    if found(MOST_RUNS) < wanted:
        return None
    return counts[bisect_left(counts, wanted, key=found)]


def days_needed(difference: float, scatter: Scatter, wanted: float = POWER) -> tuple[int, int] | None:
    """Fewest days an arm, and runs an arm on them, for a change that can't be undone; at least two days."""
    for days in range(2, MOST_DAYS + 1):
        runs = runs_needed(difference, scatter, wanted, days, interleaved=False)
        if runs is not None:
            return days, runs
    return None


def power_curve(scatter: Scatter, days: int, interleaved: bool, most: int = 16) -> list[dict[str, Any]]:
    """For 2 runs an arm up to `most`: the least difference found with 80 % power."""
    counts = range(max(2, days), most + 1)
    return [{"runs": n, "smallest": detectable_difference(Design(n, days, interleaved), scatter)} for n in counts]

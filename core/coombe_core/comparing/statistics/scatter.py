"""A car's scatter: how its values vary from run to run within a day, and from one day to the next.

From its own history if it has one, else a stated default. Each part carries its degrees of freedom, so that what
rests on a few days, or on a default, makes intervals wider.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from coombe_core.learned import between_variance

Origin = Literal["assumed", "history", "these runs"]
LEAST_DOF = 4  # fewer than these, and the car's own scatter says less than the stated default
ASSUMED_RUN_SHARE = 0.010
# Shares of a time by which days differ, where nothing was noted and where charge, battery temperature and weather were
# and count no more: derived in `validation.day_scatter`.
ASSUMED_DAY_SHARE, NOTED_DAY_SHARE = 0.006, 0.004
# From one run to the next; and from one stop to the next, since brakes and tires get hot: about half of the foot in 110
# by which stops from 60 mph may fade (common practice).
ASSUMED_DRIFT_SHARE, ASSUMED_FADE_SHARE = 0.0015, 0.005
# Of a default: as sure as five days would make it, for cars that differ by a third; a drift's is on the high side.
ASSUMED_DOF, DRIFT_DOF = 4.0, 16.0


@dataclass(frozen=True)
class Assumed:
    """Shares of a value by which days differ, and a run from the one before, where the car's own runs do not say."""

    day_share: float = ASSUMED_DAY_SHARE
    drift_share: float = ASSUMED_DRIFT_SHARE


ASSUMED = Assumed()


@dataclass(frozen=True)
class Scatter:
    """Standard deviation of one run within a day and of one day from the next, in the measure's unit.

    `origin` says where they come from; `days` and `runs` count the car's history where that is it.
    """

    run_sd: float
    day_sd: float
    origin: Origin = "history"
    run_assumed: bool = False
    day_assumed: bool = False
    run_dof: float = ASSUMED_DOF
    day_dof: float = ASSUMED_DOF
    days: int = 0
    runs: int = 0

    def scaled(self, factor: float) -> Scatter:
        """The same share of another value, as of a shorter measure of the same runs."""
        return replace(self, run_sd=factor * self.run_sd, day_sd=factor * self.day_sd)


def assumed_scatter(typical: float) -> Scatter:
    """Take the stated default: 1.0 % of the value from run to run and 0.6 % from day to day."""
    return Scatter(ASSUMED_RUN_SHARE * typical, ASSUMED_DAY_SHARE * typical, "assumed", True, True)


def own_scatter(setups: Sequence[Sequence[Sequence[float]]], typical: float) -> Scatter:
    """Estimate a car's scatter from its history.

    Pooled within days, and between the days of one setup by the method of moments. Falls back on the stated default for
    either part that has fewer than four degrees of freedom.

    Parameters
    ----------
    setups : nested sequences of float
        For every setup its days, for every day the values of its runs.
    typical : float
        A typical value, for the default.

    Returns
    -------
    Scatter
    """
    days = [np.asarray(day, dtype=np.float64) for setup in setups for day in setup if len(day)]
    dof = sum(day.size - 1 for day in days)
    default = assumed_scatter(typical)
    if dof < LEAST_DOF:
        return default
    run_variance = sum(float(((day - day.mean()) ** 2).sum()) for day in days) / dof
    between = _day_sd(setups, run_variance)
    counts = {"days": len(days), "runs": sum(day.size for day in days)}
    run_sd = math.sqrt(run_variance)
    if between is None:
        return Scatter(run_sd, default.day_sd, "history", False, True, dof, **counts)
    return Scatter(run_sd, between[0], "history", False, False, dof, between[1], **counts)


def _day_sd(setups: Sequence[Sequence[Sequence[float]]], run_variance: float) -> tuple[float, float] | None:
    """Standard deviation between days and its degrees of freedom; None where they are too few."""
    groups = [[np.asarray(day, dtype=np.float64) for day in setup if len(day)] for setup in setups]
    means = [
        (np.array([day.mean() for day in days]), np.array([float(day.size) for day in days]))
        for days in groups
        if len(days) > 1
    ]
    found = between_variance(means, run_variance)
    return None if found is None or found[1] < LEAST_DOF else (math.sqrt(max(found[0], 0.0)), float(found[1]))

"""The torque ramp of a setup, pooled over its runs: a car has one ramp, and one run alone hardly shows it.

Each run says how likely every ramp is and where it would put first movement. The product of what the runs say gives one
ramp for all of them; what is left of doubt about it is common to their times and does not shrink with their number.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.uncertainty import COVERAGE_95

Floats = NDArray[np.float64]
LEAST_WEIGHT = 1e-6  # no single run rules a ramp out
BETWEEN_RAMPS_S = 0.006  # ramps are 0.04 s apart; half of that is what first movement moves


@dataclass(frozen=True, eq=False)
class LaunchRamps:
    """What one run says of every ramp (K): its weight, and how much later than published it puts first movement."""

    weights: Floats
    later_s: Floats


@dataclass(frozen=True, eq=False)
class RampPool:
    """The weight of every ramp (K) by all runs of a setup together."""

    weights: Floats

    @classmethod
    def of(cls, runs: Sequence[LaunchRamps], prior: Floats | None = None) -> RampPool:
        """The pool of one run or more; every run's weights have the prior in them, if there was one, the pool once."""
        scores = np.sum([np.log(np.maximum(run.weights, LEAST_WEIGHT)) for run in runs], axis=0)
        if prior is not None:
            scores = scores - (len(runs) - 1) * np.log(prior)
        weights = np.exp(scores - scores.max())
        return cls(weights / weights.sum())

    def longer_s(self, run: LaunchRamps) -> float:
        """What the pool adds to a run's times from first movement."""
        return -float(self.weights @ run.later_s)

    def u95_s(self, runs: Sequence[LaunchRamps]) -> float:
        """Half-width of the 95 % interval of what the mean of these runs' times shares."""
        later_s = np.mean([run.later_s for run in runs], axis=0)
        spread = float(self.weights @ (later_s - self.weights @ later_s) ** 2)
        return COVERAGE_95 * float(np.sqrt(spread + BETWEEN_RAMPS_S**2))

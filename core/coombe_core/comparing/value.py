"""A difference against the manufacturer's claims, and its cost per tenth."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from coombe_core.comparing.statistics.interval import Difference
from coombe_core.comparing.statistics.scatter import Scatter, assumed_scatter
from coombe_core.uncertainty import coverage_95

TENTH_S = 0.1


@dataclass(frozen=True)
class Against:
    """A measured value less a stated one, with its 95 % half-width, in seconds.

    Above zero a time is slower than claimed, and a gain larger than claimed.
    """

    value: float
    u95: float
    stated_s: float

    @property
    def agrees(self) -> bool:
        """Whether the stated value is inside the interval."""
        return abs(self.value) <= self.u95


def against_claim(values: Sequence[float], claim_s: float, scatter: Scatter | None, days: int = 1) -> Against | None:
    """Compare a group's mean time with a claimed one on the same clock.

    The interval is Student's t of the runs and carries the scatter from day to day, since a claim is for any day.

    Parameters
    ----------
    values : sequence of float
        Seconds.
    claim_s : float
    scatter : Scatter or None
        The car's; the stated default where it is None.
    days : int
        On which the runs were driven.

    Returns
    -------
    Against or None
        None for an empty group.
    """

    if not values:
        return None
    known = scatter or assumed_scatter(float(np.mean(values)))
    own = float(np.var(values, ddof=1)) if len(values) > 2 else known.run_sd**2
    dof = len(values) - 1 if len(values) > 2 else known.run_dof
    error = math.sqrt(own / len(values) + known.day_sd**2 / max(days, 1))
    half = coverage_95(dof) * error
    apart = float(np.mean(values)) - claim_s
    return Against(apart, half, claim_s)


def against_claimed_gain(found: Difference, claimed_gain_s: float) -> Against:
    """Compare a measured gain with a claimed one (s, positive is quicker)."""
    return Against(-found.value - claimed_gain_s, (found.high95 - found.low95) / 2, claimed_gain_s)


@dataclass(frozen=True)
class PricePerTenth:
    """What a tenth of a second costs, from the least to the most; `most` is None where the gain may be none."""

    value: float
    least: float
    most: float | None


def price_per_tenth(price: float, found: Difference) -> PricePerTenth | None:
    """Say what a tenth of a second cost; None where nothing was gained."""
    if found.value >= 0:
        return None
    most = price * TENTH_S / -found.high95 if found.high95 < 0 else None
    return PricePerTenth(price * TENTH_S / -found.value, price * TENTH_S / -found.low95, most)

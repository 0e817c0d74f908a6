"""The split table: time on both clocks and distance at every ten mph and every ten km/h."""

from __future__ import annotations

from dataclasses import dataclass

from coombe_core.fitting.speed_fit import SpeedFit
from coombe_core.timing.clocks import Clock
from coombe_core.uncertainty import Estimate, Value
from coombe_core.units import SPEED_UNITS_MPS, speed_mps

STEP = 10
HIGHEST = 400
UNITS = ("mph", "km/h")
SPLIT_SPEEDS_MPS = [speed_mps(speed, unit) for unit in UNITS for speed in range(STEP, HIGHEST, STEP)]


@dataclass(frozen=True)
class Split:
    """When a speed was reached on each clock and how far from the staged position. `unit` is mph or km/h."""

    speed: int
    unit: str
    first_movement_s: Value
    rollout_s: Value | None
    distance_m: Value

    @property
    def speed_mps(self) -> float:
        """The speed in m/s."""
        return speed_mps(self.speed, self.unit)

    def time_s(self, clock: Clock) -> Value | None:
        """The time on a clock that starts from rest; on `speed`, from first movement, for differences only."""
        return self.rollout_s if clock == "rollout" else self.first_movement_s


def splits_of(fit: SpeedFit, launch: Estimate, rollout: Estimate | None, peak_mps: float) -> list[Split]:
    """List every split that a fitted pull reached.

    Parameters
    ----------
    fit : SpeedFit
    launch : Estimate
        The instant of first movement.
    rollout : Estimate or None
        The instant at which the first foot was covered.
    peak_mps : float
        The highest speed.

    Returns
    -------
    list of Split
        Every 10 mph, then every 10 km/h.
    """
    found: list[Split] = []
    for unit in UNITS:
        for speed in range(STEP, min(HIGHEST, int(peak_mps / SPEED_UNITS_MPS[unit]) + 1), STEP):
            reached = fit.reaches_speed(speed_mps(speed, unit))
            if reached is None:
                break
            after = (reached.instant - rollout).value if rollout else None
            first = (reached.instant - launch).value
            found.append(Split(speed, unit, first, after, reached.distance.value))
    return found

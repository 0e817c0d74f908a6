"""What timing a run gives: measures with their uncertainty, splits, and the fitted curve."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from coombe_core.curve import Curve
from coombe_core.detection.runs import Kind
from coombe_core.fitting.ramp_pool import LaunchRamps
from coombe_core.timing.clocks import Clock
from coombe_core.timing.splits import Split
from coombe_core.uncertainty import Value


@dataclass(frozen=True)
class Measured:
    """One measure of one run on one clock, in SI units; what does not apply is None.

    `distance_m` of a stop is through the nominal speed to rest; `onset_distance_m` is from brake onset, corrected
    to the nominal speed.
    """

    name: str
    clock: Clock
    time_s: Value | None = None
    distance_m: Value | None = None
    corrected_time_s: Value | None = None
    line_speed_mps: Value | None = None
    trap_speed_mps: Value | None = None
    onset_distance_m: Value | None = None
    initial_speed_mps: Value | None = None
    mfdd_mps2: Value | None = None


QUANTITIES = (
    *("time_s", "distance_m", "corrected_time_s", "line_speed_mps", "trap_speed_mps"),
    *("onset_distance_m", "initial_speed_mps", "mfdd_mps2"),
)


@dataclass(frozen=True)
class Untimed:
    """A run that was found and could not be timed, with the reason; `start_s` as of a timed one, roughly."""

    kind: Kind
    start_s: float
    reason: Literal["too few fixes", "fit failed", "no number"]


@dataclass(frozen=True)
class SpeedPassed:
    """A speed that a measure begins at, and how soon after full braking or full power began it was passed."""

    speed_mps: float
    since_s: float


@dataclass(frozen=True)
class TimedRun:
    """A run found and timed. `start_s` is seconds after the log's first fix, of first movement or brake onset.

    `first_passed` is the first speed of a measure that a stop passed after brake onset, or a roll-on after full power.
    `rise_s` is how long torque took to come up, or braking to end at rest, as the fixes show it.
    """

    kind: Kind
    start_s: float
    end_s: float
    complete: bool
    slope_percent: Value | None
    peak_acceleration_g: Value
    rollout_s: Value | None
    measures: list[Measured]
    splits: list[Split]
    curve: Curve
    noise_mps: float
    mean_acceleration_g: Value | None = None
    corrected_parts: tuple[str, ...] = ()
    uncorrected_because: Literal["", "slope unknown", "heading unknown"] = ""
    launch_ramps: LaunchRamps | None = None
    first_passed: SpeedPassed | None = None
    rise_s: float | None = None

    def passed_s(self, clock: Clock, unit: str) -> dict[float, float]:
        """When it passed the speeds (m/s) of its splits in a unit, on a clock that starts from rest."""
        times = {split.speed_mps: split.time_s(clock) for split in self.splits if split.unit == unit}
        return {speed_mps: at_s.value for speed_mps, at_s in times.items() if at_s}

    def measured(self, name: str, clock: Clock) -> Measured | None:
        """The measure of that name on that clock, or None where the run did not reach it."""
        return next((m for m in self.measures if m.name == name and m.clock == clock), None)

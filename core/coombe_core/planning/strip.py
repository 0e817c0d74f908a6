"""Whether a strip is long enough to reach a target, react and stop; if not, what would fit."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.physics.road_load import RoadLoad
from coombe_core.planning.friction import Friction, stopping_distance_m
from coombe_core.units import STANDARD_GRAVITY_MPS2

Floats = NDArray[np.float64]
REACTION_S = 2.5  # brake reaction time of AASHTO, A Policy on Geometric Design of Highways and Streets
MARGIN_SHARE = 0.25
LEAST_MARGIN_M = 30.0
POWER_SHARE = 0.8  # of the stated power that may be missing: less power means a longer way to the target
STEP_MPS = 0.05
ASSUMED_LAUNCH_G = 0.6


@dataclass(frozen=True)
class Reach:
    """How far a car goes until a speed: distances (m) at rising speeds (m/s).

    They are of the car's own `runs` or, where those are 0, worked out from `launch_g` and `power_w`.
    """

    speed_mps: tuple[float, ...]
    distance_m: tuple[float, ...]
    runs: int = 0
    launch_g: float = 0.0
    power_w: float = 0.0

    @property
    def fastest_mps(self) -> float:
        """The highest speed that it covers."""
        return self.speed_mps[-1]

    def distance_to(self, speed_mps: float) -> float | None:
        """Distance to a speed in meters; None beyond what it covers."""
        if speed_mps > self.fastest_mps + 1e-6:
            return None
        return float(np.interp(speed_mps, self.speed_mps, self.distance_m))

    def speed_at(self, distance_m: float) -> float | None:
        """Speed at a distance in m/s; None beyond what it covers."""
        if distance_m > self.distance_m[-1]:
            return None
        return float(np.interp(distance_m, self.distance_m, self.speed_mps))


def reach_from_runs(splits: Sequence[tuple[float, float, float]], runs: int) -> Reach | None:
    """Take the farthest distance to each speed from a car's own splits.

    Parameters
    ----------
    splits : sequence of (float, float, float)
        Speed (m/s), distance (m) and its u95 (m), which is added on top.
    runs : int
        How many runs they are of.

    Returns
    -------
    Reach or None
        None without splits.
    """
    farthest: dict[float, float] = {}
    for speed, distance, u95 in splits:
        farthest[speed] = max(farthest.get(speed, 0.0), distance + u95)
    if not farthest:
        return None
    speeds = sorted(farthest)
    distances = np.maximum.accumulate([farthest[speed] for speed in speeds])
    return Reach((0.0, *speeds), (0.0, *map(float, distances)), runs)


def reach_from_power(
    power_w: float, load: RoadLoad, to_mps: float, launch_g: float = ASSUMED_LAUNCH_G, slope_percent: float = 0.0
) -> Reach:
    """Work out how far a car goes to each speed from its mass and power.

    The lesser of a launch at `launch_g` and 80 % of the stated power pulls, less what holds back; dx = v dv / a. It
    ends at the highest speed that this power reaches on the slope.

    Parameters
    ----------
    power_w : float
        Stated.
    load : RoadLoad
    to_mps : float
    launch_g : float
    slope_percent : float
        Positive uphill.

    Returns
    -------
    Reach
    """
    speeds = np.arange(0.0, to_mps + STEP_MPS, STEP_MPS)
    pull = np.minimum(
        launch_g * STANDARD_GRAVITY_MPS2,
        POWER_SHARE * power_w / (load.rotating_mass_factor * load.mass_kg * np.maximum(speeds, 0.1)),
    )
    rolling = load.rolling_coefficient * STANDARD_GRAVITY_MPS2 / load.rotating_mass_factor
    slope = load.slope_mps2(np.full(speeds.size, slope_percent))
    net = pull - load.drag_mps2(speeds, 1.225, 0.0) - slope - rolling
    stalled = np.flatnonzero(net <= 0.02)
    end = int(stalled[0]) if stalled.size else speeds.size
    slowness = speeds[:end] / net[:end]
    distances = np.concatenate([[0.0], np.cumsum((slowness[1:] + slowness[:-1]) / 2 * STEP_MPS)])
    return Reach(tuple(map(float, speeds[:end])), tuple(map(float, distances)), launch_g=launch_g, power_w=power_w)


@dataclass(frozen=True)
class StripCheck:
    """What a run to a target needs of a strip, part by part in meters, and whether the strip has it."""

    target_mps: float
    pull_m: float
    reaction_m: float
    stopping_m: float
    margin_m: float
    available_m: float
    friction: Friction
    reach: Reach
    highest_mps: float

    @property
    def needed_m(self) -> float:
        """All parts together."""
        return self.pull_m + self.reaction_m + self.stopping_m + self.margin_m

    @property
    def shortfall_m(self) -> float:
        """What is missing; 0 where the strip is long enough."""
        return max(self.needed_m - self.available_m, 0.0)

    @property
    def fits(self) -> bool:
        """Whether the run may be planned."""
        return self.shortfall_m == 0.0


def check_strip(
    target_mps: float, available_m: float, reach: Reach, grip: Friction, slope_percent: float = 0.0
) -> StripCheck:
    """Check whether a run to a speed fits a strip.

    Pull, 2.5 s of reaction at the target, stop and a margin are needed.

    Parameters
    ----------
    target_mps : float
    available_m : float
        Length of the strip with its runout.
    reach : Reach
        How far the car goes to each speed.
    grip : Friction
    slope_percent : float
        Positive uphill.

    Returns
    -------
    StripCheck

    Raises
    ------
    ValueError
        Where it is not known how far the car goes to the target.

    References
    ----------
    AASHTO, A Policy on Geometric Design of Highways and Streets, for the reaction time.
    """
    pull = reach.distance_to(target_mps)
    if pull is None:
        raise ValueError(
            f"how far this car goes to {target_mps:.1f} m/s is not known, only up to {reach.fastest_mps:.1f} m/s; "
            "state its mass and power"
        )
    reaction, stopping, margin = _to_rest(target_mps, grip, slope_percent)
    highest = _highest(available_m, reach, grip, slope_percent)
    return StripCheck(target_mps, pull, reaction, stopping, margin, available_m, grip, reach, highest)


def check_strip_to_distance(
    target_m: float, available_m: float, reach: Reach, grip: Friction, slope_percent: float = 0.0
) -> StripCheck:
    """Check the same for a distance such as a quarter mile.

    Raises
    ------
    ValueError
        Where the speed at its end is not known.
    """
    speed = reach.speed_at(target_m)
    if speed is None:
        raise ValueError(
            f"how fast this car is after {target_m:.0f} m is not known, only up to {reach.distance_m[-1]:.0f} m; "
            "state its mass and power"
        )
    return check_strip(speed, available_m, reach, grip, slope_percent)


def _to_rest(speed_mps: float, grip: Friction, slope_percent: float) -> tuple[float, float, float]:
    stopping = stopping_distance_m(speed_mps, grip.coefficient, slope_percent)
    return REACTION_S * speed_mps, stopping, max(MARGIN_SHARE * stopping, LEAST_MARGIN_M)


def _highest(available_m: float, reach: Reach, grip: Friction, slope_percent: float) -> float:
    """The highest speed (m/s) whose parts fit; 0 where none does."""
    speeds = np.arange(0.0, reach.fastest_mps + STEP_MPS, STEP_MPS)
    speeds = speeds[speeds <= reach.fastest_mps]
    stopping = stopping_distance_m(1.0, grip.coefficient, slope_percent) * speeds**2
    margin = np.maximum(MARGIN_SHARE * stopping, LEAST_MARGIN_M)
    needed = np.interp(speeds, reach.speed_mps, reach.distance_m) + REACTION_S * speeds + stopping + margin
    fitting = speeds[needed <= available_m]
    return float(fitting[-1]) if fitting.size else 0.0

"""Many launches of simulated cars at once: the physics of `car` and `drive`, an array in place of each number."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from coombe_core.curve import Curve
from coombe_core.simulating.car import FULL_PERCENT, LOST_BY_KELVIN, LOST_BY_POINT, SimulatedCar
from coombe_core.timing.clocks import ROLLOUT_M
from coombe_core.timing.measures import DISTANCES_M
from coombe_core.units import KMH_MPS, MPH_MPS, STANDARD_GRAVITY_MPS2

Floats = NDArray[np.float64]
STEP_S = 0.002
LONGEST_S = 40.0
CURVE_EVERY = 10
CAR = SimulatedCar()  # what all of them have in common
SPEEDS_MPS = np.array(sorted([k * 10 * KMH_MPS for k in range(1, 21)] + [k * 10 * MPH_MPS for k in range(1, 13)]))
WAYS_M = np.array([ROLLOUT_M, *(way for way in DISTANCES_M.values() if way < 500)])


@dataclass(frozen=True, eq=False)
class Launches:
    """What decides each of n launches; SI units. `far_up` multiplies the power above 130 km/h."""

    mass_kg: Floats
    grip: Floats
    power_w: Floats
    cda_m2: Floats
    ramp_s: Floats
    charge_percent: Floats
    battery_temp_c: Floats
    slope_percent: Floats
    head_wind_mps: Floats
    density_kg_m3: Floats
    far_up: Floats

    def changed(self, **arrays: Floats) -> Launches:
        """The same with some arrays replaced."""
        return replace(self, **arrays)

    def of(self, chosen: NDArray[np.intp] | slice) -> Launches:
        """Some of them."""
        return Launches(**{name: getattr(self, name)[chosen] for name in self.__dataclass_fields__})


@dataclass(frozen=True, eq=False)
class Passings:
    """When each launch passed every speed (n x speeds) and distance (n x distances), in s, or nan."""

    at_speed_s: Floats
    at_distance_s: Floats

    def time_s(self, to_mps: float) -> Floats:
        """Times to a speed of the table, from first movement."""
        return np.asarray(self.at_speed_s[:, int(np.argmin(np.abs(SPEEDS_MPS - to_mps)))])

    def rollout_s(self) -> Floats:
        """Times over the first foot."""
        return np.asarray(self.at_distance_s[:, 0])


def launch_all(
    many: Launches, to_mps: float, curves: int = 0, to_m: float = ROLLOUT_M, far_up_mps: float = 130 * KMH_MPS
) -> tuple[Passings, list[Curve]]:
    """Drive every launch until it passed a speed and a distance; the fitted-like curves of the first few."""
    size = many.mass_kg.size
    speed, way = np.zeros(size), np.zeros(size)
    at_speed, at_distance = np.full((size, SPEEDS_MPS.size), np.nan), np.full((size, WAYS_M.size), np.nan)
    kept: list[tuple[Floats, Floats]] = []
    share = _power_share(many)
    top = max(to_mps, 1.0)
    for step in range(int(LONGEST_S / STEP_S)):
        since_s = step * STEP_S
        if curves and step % CURVE_EVERY == 0:
            kept.append((speed[:curves].copy(), way[:curves].copy()))
        pull = _pull(many, speed, since_s + STEP_S / 2, share, far_up_mps)
        faster = np.maximum(speed + pull * STEP_S, 0.0)
        further = way + (speed + faster) * (STEP_S / 2)
        _mark(at_speed, SPEEDS_MPS, speed, faster, since_s)
        _mark(at_distance, WAYS_M, way, further, since_s)
        speed, way = faster, further
        if speed.min() > top and way.min() > to_m:
            break
    return Passings(at_speed, at_distance), _curves(kept)


def _power_share(many: Launches) -> Floats:
    by_charge = 1.0 - LOST_BY_POINT * np.maximum(FULL_PERCENT - many.charge_percent, 0.0)
    return np.asarray(
        by_charge * (1.0 - LOST_BY_KELVIN * np.maximum(CAR.best_battery_temp_c - many.battery_temp_c, 0.0))
    )


def _pull(many: Launches, speed: Floats, since_s: float, share: Floats, far_up_mps: float) -> Floats:
    effective_kg = many.mass_kg * CAR.rotating_mass_factor
    x = np.minimum(since_s / many.ramp_s, 1.0)
    taper = np.maximum(1.0 - CAR.taper_per_mps * np.maximum(speed - CAR.taper_from_mps, 0.0), 0.1)
    power = many.power_w * share * taper * np.where(speed > far_up_mps, many.far_up, 1.0)
    full = np.minimum(
        many.grip * STANDARD_GRAVITY_MPS2 / CAR.rotating_mass_factor, power / (effective_kg * np.maximum(speed, 0.5))
    )
    air = speed + many.head_wind_mps
    weight = many.mass_kg * STANDARD_GRAVITY_MPS2
    held = 0.5 * many.density_kg_m3 * many.cda_m2 * air * np.abs(air) + weight * (
        CAR.rolling_coefficient + many.slope_percent / 100.0
    )
    driven = full * x * x * (3.0 - 2.0 * x)
    return np.where((speed > 0.02) | (driven > 0.3), driven - held / effective_kg, driven)


def _mark(table: Floats, levels: Floats, before: Floats, after: Floats, since_s: float) -> None:
    """Record what was passed in this step, between its ends in proportion."""
    low, high = np.searchsorted(levels, [float(before.min()), float(after.max())])
    for column in range(int(low), min(int(high) + 1, levels.size)):
        passed = (before < levels[column]) & (after >= levels[column])
        if passed.any():
            share = (levels[column] - before[passed]) / (after[passed] - before[passed])
            table[passed, column] = since_s + share * STEP_S


def _curves(kept: list[tuple[Floats, Floats]]) -> list[Curve]:
    if not kept:
        return []
    speeds = np.array([speed for speed, _ in kept])
    ways = np.array([way for _, way in kept])
    since_s = np.arange(len(kept), dtype=np.float64) * (STEP_S * CURVE_EVERY)
    return [
        Curve(since_s, speed, way, np.asarray(np.gradient(speed, since_s), dtype=np.float64))
        for speed, way in zip(speeds.T, ways.T, strict=True)
    ]

"""What a driver does, as a list of acts, and the motion that the simulated car makes of it."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from coombe_core.simulating.car import (
    STEP_S,
    Conditions,
    SimulatedCar,
    braking_mps2,
    full_drive_mps2,
    ramp_share,
    resistance_mps2,
)

Floats = NDArray[np.float64]
LIFT_S = 0.12  # torque fades over this when the driver lifts
ROLLING_MPS = 1.0
SPIN_S, SPIN_GRIP = (0.45, 0.95), 0.45  # when a spin happens, and what it leaves of the pull


@dataclass(frozen=True)
class Act:
    """One thing that the driver does: until a speed, a distance or a time, whichever is named."""

    kind: Literal["rest", "launch", "coast", "gentle", "hold", "brake", "turn"]
    seconds: float = 0.0
    to_mps: float = 0.0
    to_m: float = 0.0
    pace_mps2: float = 1.5
    spins: bool = False  # the driven wheels lose their grip for a moment after a launch


TrueKind = Literal["standing", "rolling", "stop"]


@dataclass(frozen=True)
class TrueRun:
    """A run as it really was: `start_s` is first movement, or the instant at which braking begins."""

    kind: TrueKind
    start_s: float
    end_s: float


@dataclass
class Motion:
    """The car's true motion at 1 kHz, seconds from the drive's start; `heading_deg` from true north."""

    elapsed_s: Floats
    speed_mps: Floats
    distance_m: Floats
    altitude_m: Floats
    heading_deg: Floats
    runs: list[TrueRun] = field(default_factory=list)


@dataclass
class CarState:
    """Where a car stands in its drive."""

    elapsed_s: float = 0.0
    speed_mps: float = 0.0
    heading_deg: float = 0.0
    acceleration_mps2: float = 0.0
    distance_m: float = 0.0
    shifted_s: float = 0.0  # for how long the gear under way has been changed


def drive(car: SimulatedCar, conditions: Conditions, acts: list[Act], heading_deg: float = 0.0) -> Motion:
    """Carry out the acts one after the other, from rest. Slope and wind are stated for the first heading."""
    state = CarState(heading_deg=heading_deg)
    speeds: list[float] = []
    headings: list[float] = []
    runs: list[TrueRun] = []
    for act in acts:
        begun_s, begun_mps = state.elapsed_s, state.speed_mps
        for _ in steps(act, state, car, facing(conditions, state.heading_deg - heading_deg)):
            speeds.append(state.speed_mps)
            headings.append(state.heading_deg)
            state.elapsed_s += STEP_S
            state.distance_m += state.speed_mps * STEP_S
        if act.kind in ("launch", "brake"):
            runs.append(TrueRun(_kind_of(act, begun_mps), begun_s, state.elapsed_s))
    return _motion(np.array(speeds), np.array(headings), conditions, heading_deg, runs)


def _kind_of(act: Act, begun_mps: float) -> TrueKind:
    if act.kind == "brake":
        return "stop"
    return "rolling" if begun_mps > ROLLING_MPS else "standing"


def facing(conditions: Conditions, turned_deg: float) -> Conditions:
    """The conditions as a car meets them that has turned: on the way back, uphill is downhill."""
    along = float(np.cos(np.radians(turned_deg)))
    slope, wind = conditions.slope_percent * along, conditions.head_wind_mps * along
    return replace(conditions, slope_percent=slope, head_wind_mps=wind)


def _motion(speeds: Floats, headings: Floats, conditions: Conditions, out_deg: float, runs: list[TrueRun]) -> Motion:
    elapsed_s = np.arange(speeds.size, dtype=np.float64) * STEP_S
    steps_m = np.concatenate([[0.0], (speeds[1:] + speeds[:-1]) * (STEP_S / 2)])
    along = np.cos(np.radians(headings - out_deg))
    distance_m: Floats = np.cumsum(steps_m)
    climbed_m = np.cumsum(steps_m * along) * (conditions.slope_percent / 100.0)
    if conditions.undulation_percent:
        wave_m = conditions.undulation_m / (2 * np.pi)
        climbed_m = climbed_m - conditions.undulation_percent / 100.0 * wave_m * np.cos(
            distance_m / wave_m + conditions.undulation_from
        )
    return Motion(elapsed_s, speeds, distance_m, 120.0 + climbed_m, headings, runs)


def steps(act: Act, state: CarState, car: SimulatedCar, conditions: Conditions) -> Iterator[None]:
    """Advance the state by one step at a time until the act is done."""
    if act.kind in ("rest", "hold", "turn"):
        return _unhurried(act, state)
    if act.kind == "gentle":
        return _gently(act, state)
    return _driven(act, state, car, conditions)


def _unhurried(act: Act, state: CarState) -> Iterator[None]:
    """At rest, at a steady speed or in a turn, for a time."""
    since_s, turned_from = 0.0, state.heading_deg
    while since_s < act.seconds:
        yield
        since_s += STEP_S
        state.acceleration_mps2 = 0.0
        if act.kind == "rest":
            state.speed_mps = 0.0
        elif act.kind == "turn":
            state.heading_deg = turned_from + 180.0 * min(since_s / act.seconds, 1.0)


def _gently(act: Act, state: CarState) -> Iterator[None]:
    """To a speed at a steady pace."""
    near_mps = abs(act.pace_mps2) * STEP_S
    while abs(state.speed_mps - act.to_mps) >= near_mps:
        yield
        state.acceleration_mps2 = act.pace_mps2 if act.to_mps > state.speed_mps else -act.pace_mps2
        state.speed_mps = max(state.speed_mps + state.acceleration_mps2 * STEP_S, 0.0)


def _driven(act: Act, state: CarState, car: SimulatedCar, conditions: Conditions) -> Iterator[None]:
    """A launch, a coasting or a braking, by the forces on the car."""
    since_s, covered_m = 0.0, 0.0
    before_mps2 = state.acceleration_mps2
    while not _done(act, state, since_s, covered_m):
        yield
        since_s += STEP_S
        state.acceleration_mps2 = _demand(act, state, car, conditions, since_s, before_mps2)
        faster = max(state.speed_mps + state.acceleration_mps2 * STEP_S, 0.0)
        covered_m += (state.speed_mps + faster) * (STEP_S / 2)
        state.speed_mps = faster


def _done(act: Act, state: CarState, since_s: float, covered_m: float) -> bool:
    if act.kind == "brake":
        return state.speed_mps <= 0.0 and since_s > 0.05
    if act.to_m:
        return covered_m >= act.to_m
    if act.to_mps:
        return state.speed_mps >= act.to_mps if act.kind == "launch" else state.speed_mps <= act.to_mps
    return since_s >= act.seconds


def _demand(
    act: Act, state: CarState, car: SimulatedCar, conditions: Conditions, since_s: float, before_mps2: float
) -> float:
    speed = state.speed_mps
    if act.kind == "launch":
        full = full_drive_mps2(car, conditions, speed) * ramp_share(car.ramp_shape, since_s, car.ramp_s)
        if speed >= car.shift_at_mps and state.shifted_s < car.shift_s:
            state.shifted_s += STEP_S
            full *= car.shift_share
        if act.spins and SPIN_S[0] < since_s < SPIN_S[1]:
            full *= SPIN_GRIP
        return full - resistance_mps2(car, conditions, speed, state.distance_m) if speed > 0.02 or full > 0.3 else full
    if act.kind == "brake":
        share = min(since_s / car.brake_ramp_s, 1.0)
        braking = braking_mps2(car, speed, since_s)
        full = braking + resistance_mps2(car, conditions, speed, state.distance_m)
        if 2.0 * speed < braking * car.halt_ramp_s:
            full *= math.sqrt(2.0 * speed / (braking * car.halt_ramp_s))
    else:
        share = min(since_s / LIFT_S, 1.0)
        full = car.coasting_mps2 + resistance_mps2(car, conditions, speed, state.distance_m)
    return before_mps2 * (1 - share) - share * full

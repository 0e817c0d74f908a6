"""Named scenarios of the simulated car: what it is, in what state, and what the driver does."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from coombe_core.simulating.car import STEP_S, Conditions, SimulatedCar
from coombe_core.simulating.drive import ROLLING_MPS, Act, Motion, drive
from coombe_core.simulating.receiver import Receiver, receive
from coombe_core.timing.braking import NEAR_NOMINAL
from coombe_core.timing.clocks import ROLLOUT_M
from coombe_core.timing.measures import DISTANCES_M, STANDARD_MEASURES, TRAP_M, Measure
from coombe_core.trace import Trace
from coombe_core.units import KMH_MPS, MPH_MPS

Series = np.ndarray
QUARTER_M = DISTANCES_M["1/4 mile"]
Acts = list[Act]


def clean_run(to_m: float = QUARTER_M + 10) -> Acts:
    """Stage, pull to a distance, lift, stop hard."""
    return [Act("rest", 4), Act("launch", to_m=to_m), Act("coast", 0.8), Act("brake"), Act("rest", 3)]


def pull(to_mps: float, slow_to_mps: float = 8.0) -> Acts:
    """Stage, pull to a speed, slow down gently, turn round."""
    slow = Act("gentle", to_mps=slow_to_mps, pace_mps2=1.8)
    return [Act("rest", 4), Act("launch", to_mps=to_mps), Act("coast", 0.8), slow, *turn_round()]


def turn_round() -> Acts:
    """A U-turn at walking pace from 8 m/s, ending at rest."""
    slow, halt = Act("gentle", to_mps=3.0, pace_mps2=1.2), Act("gentle", to_mps=0.0, pace_mps2=1.2)
    return [slow, Act("turn", 9.0), halt]


FALSE_START: Acts = [Act("rest", 4), Act("launch", seconds=0.7), Act("brake"), Act("rest", 5)]
CREEP: Acts = [Act("gentle", to_mps=1.5, pace_mps2=0.5), Act("hold", 3), Act("gentle", pace_mps2=0.6), Act("rest", 4)]
TRAFFIC: Acts = [
    *(Act("rest", 3), Act("gentle", to_mps=14, pace_mps2=1.4), Act("hold", 8), Act("gentle", to_mps=20, pace_mps2=1.1)),
    *(Act("hold", 12), Act("gentle", to_mps=7, pace_mps2=1.6), Act("hold", 4), Act("gentle", pace_mps2=1.8)),
]
LIFTED: Acts = [Act("rest", 4), Act("launch", to_mps=18), Act("coast", 1.5), Act("gentle", pace_mps2=2), Act("rest", 3)]
STOP_SERIES: Acts = [
    act
    for _ in range(3)
    for act in (
        *(Act("rest", 4), Act("gentle", to_mps=101.5 * KMH_MPS, pace_mps2=1.7), Act("hold", 2)),
        *(Act("coast", 0.3), Act("brake"), Act("rest", 4)),
    )
]


@dataclass(frozen=True)
class Scenario:
    """One log's worth of driving."""

    about: str
    acts: Acts
    car: SimulatedCar = field(default_factory=SimulatedCar)
    conditions: Conditions = field(default_factory=Conditions)
    receiver: Receiver = field(default_factory=Receiver)


SCENARIOS = {
    "clean-run": Scenario("one standing quarter mile and the stop after it", clean_run()),
    "five-runs": Scenario("five pulls to 70 mph with a U-turn after each", pull(70 * MPH_MPS) * 5),
    "after-update": Scenario(
        "the same five pulls with six percent more power",
        pull(70 * MPH_MPS) * 5,
        car=SimulatedCar(power_w=SimulatedCar.power_w * 1.06),
    ),
    "stop-series": Scenario("three stops from just over 100 km/h", STOP_SERIES),
    "mixed-drive": Scenario(
        "traffic, a creep, a false start, a pull that is lifted, one clean run",
        [*TRAFFIC, *CREEP, *FALSE_START, *LIFTED, *clean_run()],
    ),
}


@dataclass(frozen=True)
class Simulated:
    """A trace and the motion behind it; `offset_s` is the drive's time at the trace's first fix."""

    trace: Trace
    motion: Motion
    offset_s: float


def simulate(scenario: Scenario, seed: int) -> Simulated:
    """Drive a scenario and receive it, phase of the fixes and noise drawn from the seed."""
    return received(drive(scenario.car, scenario.conditions, scenario.acts), scenario.receiver, seed)


def received(motion: Motion, receiver: Receiver, seed: int) -> Simulated:
    """Receive a motion, phase of the fixes and noise drawn from the seed."""
    phase_s = float(np.random.default_rng(seed).uniform(0, 1 / receiver.rate_hz))
    return Simulated(receive(motion, replace(receiver, phase_s=phase_s), seed), motion, phase_s)


def truth(simulated: Simulated, named: Sequence[Measure] = ()) -> dict[str, Any]:
    """Every real run with its true measures, in the terms of the analysis: times after the log's first fix.

    `named` measures are given beside the standard ones.
    """
    measures = [*STANDARD_MEASURES, *named]
    return {
        "schema": "coombe.truth/1",
        "runs": [_true_run(simulated, index, measures) for index in range(len(simulated.motion.runs))],
    }


def _true_run(simulated: Simulated, index: int, measures: Sequence[Measure]) -> dict[str, object]:
    motion, run = simulated.motion, simulated.motion.runs[index]
    first, last = (int(np.searchsorted(motion.elapsed_s, at_s)) for at_s in (run.start_s, run.end_s))
    t = motion.elapsed_s[first:last] - motion.elapsed_s[first]
    v, s = motion.speed_mps[first:last], motion.distance_m[first:last] - motion.distance_m[first]
    start_s = float(motion.elapsed_s[first] - simulated.offset_s)
    return {"start_s": start_s, **_true_facts(run.kind == "stop", t, v, s, measures)}


def true_pull(braked: bool, speed_mps: Sequence[float], distance_m: Sequence[float]) -> dict[str, object]:
    """The true measures of one launch or braking, from its speed and distance at 1 kHz."""
    v, s = np.array(speed_mps), np.array(distance_m)
    return _true_facts(braked, np.arange(v.size) * STEP_S, v, s, STANDARD_MEASURES)


def _true_facts(braked: bool, t: Series, v: Series, s: Series, measures: Sequence[Measure]) -> dict[str, object]:
    if braked:
        return {"kind": "stop", "initial_speed_mps": float(v[0]), "measures": _true_stops(t, v, s, measures)}
    rolling = v[0] > ROLLING_MPS
    rollout_s = None if rolling else _when(s, t, ROLLOUT_M)
    rows = _true_measures(t, v, s, rollout_s, [m for m in measures if not (rolling and m.from_rest)])
    return {"kind": "rolling" if rolling else "standing", "rollout_s": rollout_s, "measures": rows}


def _when(levels: Series, t: Series, level: float) -> float | None:
    above = int(np.argmax(levels >= level))
    if levels[above] < level:
        return None
    return float(np.interp(level, levels[max(above - 1, 0) : above + 1], t[max(above - 1, 0) : above + 1]))


def _true_measures(
    t: Series, v: Series, s: Series, rollout_s: float | None, measures: Sequence[Measure]
) -> list[dict[str, object]]:
    rows: list[dict[str, object]] = []
    for measure in measures:
        reached = _when(s, t, measure.to_m) if measure.to_m else _when(v, t, measure.to_mps)
        if measure.basis == "stop" or reached is None:
            continue
        zeros = {"first_movement": 0.0, "rollout": rollout_s, "speed": _when(v, t, measure.from_mps)}
        for clock in measure.clocks:
            zero = zeros[clock]
            if zero is not None:
                rows.append({"name": measure.name, "clock": clock, "time_s": reached - zero} | _line(measure, t, v, s))
    return rows


def _line(measure: Measure, t: Series, v: Series, s: Series) -> dict[str, object]:
    if not measure.to_m:
        return {}
    end_s, from_s = _when(s, t, measure.to_m), _when(s, t, measure.to_m - TRAP_M)
    assert end_s is not None
    trap = TRAP_M / (end_s - from_s) if from_s else None
    return {"line_speed_mps": float(np.interp(end_s, t, v)), "trap_speed_mps": trap}


def _true_stops(t: Series, v: Series, s: Series, measures: Sequence[Measure]) -> list[dict[str, object]]:
    """Stops from at most 3 % under their nominal speed; through it only where it was reached."""
    rows: list[dict[str, object]] = []
    initial_mps = float(v[0])
    for measure in measures:
        if measure.basis != "stop" or initial_mps < measure.from_mps * (1 - NEAR_NOMINAL):
            continue
        row: dict[str, object] = {"name": measure.name, "clock": "speed", "time_s": None, "distance_m": None}
        if initial_mps >= measure.from_mps:
            passed = _when(-v, t, -measure.from_mps) or 0.0
            row |= {"time_s": float(t[-1]) - passed, "distance_m": float(s[-1] - np.interp(passed, t, s))}
        rows.append(row | {"onset_distance_m": float(s[-1]) * (measure.from_mps / initial_mps) ** 2})
    return rows

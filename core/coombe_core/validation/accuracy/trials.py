"""Runs with known truth: simulated cars and receivers, timed by Coombe and by plain interpolation."""

from __future__ import annotations

import os
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from coombe_core.analysis import Request, time_runs
from coombe_core.detection.runs import Kind
from coombe_core.fitting.torque_ramp import SHAPES, Shape
from coombe_core.interpolation import crossing
from coombe_core.simulating.car import Conditions, SimulatedCar
from coombe_core.simulating.drive import Act, Motion, drive
from coombe_core.simulating.receiver import Receiver
from coombe_core.simulating.scenarios import Simulated, clean_run, received, truth
from coombe_core.timing.clocks import ROLLOUT_M, Clock
from coombe_core.timing.measures import parse_measure
from coombe_core.timing.results import TimedRun
from coombe_core.trace import AT_REST_MPS, Trace
from coombe_core.uncertainty import Value
from coombe_core.units import KMH_MPS, MPH_MPS
from coombe_core.validation.accuracy.variants import VARIANTS, World

Floats = NDArray[np.float64]
RAMPS_S = ((0.05, 0.1), (0.1, 0.15), (0.15, 0.2), (0.2, 0.25))


@dataclass(frozen=True)
class Quantity:
    """One published number: a measure on a clock, and which of its values."""

    measure: str
    clock: Clock
    field: str = "time_s"

    @property
    def key(self) -> tuple[str, str, str]:
        """What names it in a trial."""
        return self.measure, self.clock, self.field


QUANTITIES = (
    Quantity("0-30 mph", "rollout"),
    Quantity("0-60 mph", "first_movement"),
    Quantity("0-60 mph", "rollout"),
    Quantity("0-100 km/h", "first_movement"),
    Quantity("0-100 km/h", "rollout"),
    Quantity("0-100 mph", "rollout"),
    Quantity("60-90 mph", "speed"),
    Quantity("30-70 mph", "speed"),
    Quantity("60 ft", "rollout"),
    Quantity("1/8 mile", "rollout"),
    Quantity("1/4 mile", "rollout"),
    Quantity("1/4 mile", "rollout", "line_speed_mps"),
    Quantity("1/4 mile", "rollout", "trap_speed_mps"),
    Quantity("100-0 km/h", "speed", "distance_m"),
    Quantity("100-0 km/h", "speed", "onset_distance_m"),
    Quantity("100-0 km/h", "speed", "time_s"),
)
NAMED = parse_measure("60-90 mph")
# Flags that say that a run's numbers are less sure than they state.
LESS_SURE = {"held_at_rest", "soft_start", "soft_end", "passed_in_the_bite", "passed_as_torque_rose"}


@dataclass(frozen=True)
class Setting:
    """A receiver's rate and noise."""

    rate_hz: float = 25.0
    noise_mps: float = 0.05

    def of(self, receiver: Receiver) -> Receiver:
        """A receiver at this rate, and as much noisier or quieter than this as it is than the usual one."""
        noise_mps = self.noise_mps * receiver.speed_noise_mps / Receiver.speed_noise_mps
        return replace(receiver, rate_hz=self.rate_hz, speed_noise_mps=noise_mps)


Errors = dict[tuple[str, str, str], tuple[float, float, float]]


@dataclass(frozen=True)
class Trial:
    """One simulated car: its ramp, and by quantity the error, the stated u95 and the error of interpolation.

    `flagged` are the quantities of runs with a flag that says that they are less sure.
    """

    shape: str
    ramp_s: float
    errors: Errors
    flagged: frozenset[tuple[str, str, str]] = frozenset()

    def unflagged(self) -> Trial:
        """The same without them."""
        return replace(self, errors={key: row for key, row in self.errors.items() if key not in self.flagged})


def trials(count: int, setting: Setting, seed: int) -> list[Trial]:
    """A number of trials, shapes and durations of the ramp in turn; the same for the same seed."""
    return variant_trials(count, [setting], seed)[0]


def variant_trials(count: int, settings: Sequence[Setting], seed: int, variant: str = "") -> list[list[Trial]]:
    """Trials for each of several receivers that are driven over at once.

    `variant`, one of VARIANTS, changes the world they are driven in; there they have a roll-on beside start and stop.
    """
    jobs = [(number, settings, seed, variant) for number in range(count)]
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        made = pool.map(_trial, jobs, chunksize=4)
        return [list(of_setting) for of_setting in zip(*made, strict=True)]


@dataclass(frozen=True)
class Drive:
    """A start, a stop or a roll-on of a trial, and what the noise of its receiver is drawn from."""

    kind: Kind
    motion: Motion
    noise_seed: int


@dataclass(frozen=True)
class Driven:
    """What one trial is driven in, and its drives."""

    shape: Shape
    world: World
    drives: Sequence[Drive]


def driven(number: int, seed: int, variant: str = "") -> Driven:
    """The car of a trial and its drives: a start and a stop, and a roll-on too beyond the usual cars."""
    draw = np.random.default_rng([seed, number])
    shape = SHAPES[number % len(SHAPES)]
    car = _car(draw, shape, RAMPS_S[number // len(SHAPES) % len(RAMPS_S)])
    pull_seed = int(draw.integers(1 << 31))
    world = World(car, Conditions(), Receiver(), draw.uniform(103.5, 112.0) * KMH_MPS)
    coasted_s = draw.uniform(0.2, 0.8)
    stop_seed = int(draw.integers(1 << 31))
    if variant:
        world = VARIANTS[variant](world, draw)
    drives: list[tuple[Kind, list[Act], int]] = [
        ("standing", clean_run(), pull_seed),
        ("stop", _stop(world.brake_from_mps, coasted_s), stop_seed),
    ]
    if variant:
        drives.append(("rolling", _roll_on(draw), int(draw.integers(1 << 31))))
    made = [Drive(kind, drive(world.car, world.conditions, acts), noise_seed) for kind, acts, noise_seed in drives]
    return Driven(shape, world, made)


def _car(draw: np.random.Generator, shape: Shape, ramps_s: tuple[float, float]) -> SimulatedCar:
    ramp_s = draw.uniform(*ramps_s)
    mass_kg = draw.uniform(1600, 2400)
    return SimulatedCar(
        mass_kg=mass_kg,
        power_w=mass_kg * draw.uniform(115, 200),
        grip=draw.uniform(0.75, 1.05),
        taper_from_mps=draw.uniform(35, 55),
        ramp_shape=shape,
        ramp_s=ramp_s,
        brake_grip=draw.uniform(0.85, 1.1),
        brake_ramp_s=draw.uniform(0.08, 0.3),
        halt_ramp_s=draw.uniform(0.0, 0.03),
    )


def _trial(job: tuple[int, Sequence[Setting], int, str]) -> list[Trial]:
    """One simulated car, as each receiver saw it."""
    number, settings, seed, variant = job
    made = driven(number, seed, variant)
    return [_as_seen(made, setting.of(made.world.receiver)) for setting in settings]


def _as_seen(made: Driven, receiver: Receiver) -> Trial:
    errors: Errors = {}
    flagged: set[tuple[str, str, str]] = set()
    for each in made.drives:
        seen = received(each.motion, receiver, each.noise_seed)
        found, less_sure = _errors(seen, each.kind, made.world.registered_s)
        errors |= found
        flagged |= found.keys() if less_sure else set()
    return Trial(made.shape, made.world.car.ramp_s, errors, frozenset(flagged))


def _stop(from_mps: float, coasted_s: float) -> list[Act]:
    """A stop from a little over 100 km/h, out of steady speed or regeneration."""
    entered = Act("gentle", to_mps=from_mps, pace_mps2=1.7)
    return [Act("rest", 3), entered, Act("hold", 2), Act("coast", coasted_s), Act("brake"), Act("rest", 3)]


def _roll_on(draw: np.random.Generator) -> list[Act]:
    """Full power from a steady 24 to 29 mph to past 70 mph."""
    steady = Act("gentle", to_mps=draw.uniform(24, 29) * MPH_MPS, pace_mps2=1.2)
    slow = Act("gentle", to_mps=0.0, pace_mps2=1.8)
    return [Act("rest", 2), steady, Act("hold", 3), Act("launch", to_mps=73 * MPH_MPS), Act("coast", 0.8), slow]


def _errors(made: Simulated, kind: Kind, registered_s: Value | None) -> tuple[Errors, bool]:
    """Error, u95 and interpolation's error of every quantity that the run of a kind reached, and if it is flagged."""
    request = Request([NAMED], smoothing_s=registered_s)
    run = next((run for run in time_runs(made.trace, request) if run.kind == kind), None)
    if run is None:
        return {}, False
    real = _real(made, kind)
    found = {}
    for quantity in QUANTITIES:
        row = run.measured(quantity.measure, quantity.clock)
        value = getattr(row, quantity.field) if row else None
        if value is not None and quantity.key in real:
            plain = _interpolated(made.trace, run, quantity) if kind == "standing" else None
            error = np.nan if plain is None else plain - real[quantity.key]
            found[quantity.key] = (value.value - real[quantity.key], value.u95, error)
    return found, bool(LESS_SURE & {flag.code for flag in run.flags})


def _real(made: Simulated, kind: str) -> dict[tuple[str, str, str], float]:
    """The true quantities of the first run of a kind."""
    number = next(index for index, run in enumerate(made.motion.runs) if run.kind == kind)
    rows = truth(made, [NAMED])["runs"][number]["measures"]
    fields = ("time_s", "distance_m", "onset_distance_m", "line_speed_mps", "trap_speed_mps")
    return {
        (row["name"], row["clock"], field): row[field] for row in rows for field in fields if row.get(field) is not None
    }


def _interpolated(trace: Trace, run: TimedRun, quantity: Quantity) -> float | None:
    """What a tester has today: the first fix over 0.5 m/s as the start, and straight lines between fixes."""
    fixes = trace.between(run.start_s - 1.0, run.end_s + 0.3)
    t, v = fixes.elapsed_s, fixes.speed_mps
    begun = crossing(AT_REST_MPS, v, t)
    if begun is None:
        return None
    way = np.concatenate([[0.0], np.cumsum(np.diff(t) * (v[1:] + v[:-1]) / 2)])
    way = way - np.interp(begun, t, way)
    measure = parse_measure(quantity.measure)
    end = crossing(measure.to_m, way, t) if measure.to_m else crossing(measure.to_mps, v, t)
    zero = {"first_movement": begun, "rollout": crossing(ROLLOUT_M, way, t)}.get(quantity.clock) or crossing(
        measure.from_mps, v, t
    )
    if end is None or zero is None:
        return None
    if quantity.field == "line_speed_mps":
        return float(np.interp(end, t, v))
    return end - zero if quantity.field == "time_s" else None


@dataclass(frozen=True)
class Summary:
    """What many trials say of a quantity: how many, RMS and bias of the error, coverage, median u95, interpolation."""

    count: int
    rms: float
    bias: float
    covered: float
    u95: float
    interpolated_rms: float
    interpolated_bias: float


def summed_up(made: Sequence[Trial], quantity: Quantity) -> Summary | None:
    """The summary of a quantity over trials; None where no trial has it."""
    rows = np.array([trial.errors[quantity.key] for trial in made if quantity.key in trial.errors])
    if not rows.size:
        return None
    error, half, plain = rows.T
    plain = plain[np.isfinite(plain)]
    return Summary(
        len(rows),
        float(np.sqrt(np.mean(error**2))),
        float(error.mean()),
        float(np.mean(np.abs(error) <= half)),
        float(np.median(half)),
        float(np.sqrt(np.mean(plain**2))) if plain.size else float("nan"),
        float(plain.mean()) if plain.size else float("nan"),
    )


def by_ramp(made: Sequence[Trial], quantity: Quantity) -> dict[tuple[str, tuple[float, float]], float]:
    """Mean error of a quantity for every shape of the ramp and every range of its duration."""
    return {
        (shape, ramps_s): float(np.mean(errors))
        for shape in SHAPES
        for ramps_s in RAMPS_S
        if (errors := [t.errors[quantity.key][0] for t in made if t.shape == shape and _within(t.ramp_s, ramps_s)])
    }


def _within(ramp_s: float, ramps_s: tuple[float, float]) -> bool:
    return ramps_s[0] <= ramp_s < ramps_s[1]

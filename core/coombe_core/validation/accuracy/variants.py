"""Cars, brakes, receivers and courses beyond the usual ones: each changes one thing of a trial's world.

Their sizes are drawn anew for every trial, so that no constant of the fit can be made to suit one of them.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from coombe_core.simulating.car import Conditions, SimulatedCar
from coombe_core.simulating.receiver import Receiver
from coombe_core.uncertainty import Value
from coombe_core.units import KMH_MPS, KNOT_MPS


@dataclass(frozen=True)
class World:
    """What a trial is driven in.

    `brake_from_mps` is the speed at which its stop begins, `registered_s` the smoothing that the receiver is stated to
    have.
    """

    car: SimulatedCar
    conditions: Conditions
    receiver: Receiver
    brake_from_mps: float
    registered_s: Value | None = None


Draw = np.random.Generator
Variant = Callable[[World, Draw], World]


def _of_car(**drawn: Callable[[Draw], float]) -> Variant:
    def changed(world: World, draw: Draw) -> World:
        changes: dict[str, Any] = {name: of(draw) for name, of in drawn.items()}
        return replace(world, car=replace(world.car, **changes))

    return changed


def _of_receiver(**drawn: Callable[[Draw], float]) -> Variant:
    def changed(world: World, draw: Draw) -> World:
        changes: dict[str, Any] = {name: of(draw) for name, of in drawn.items()}
        return replace(world, receiver=replace(world.receiver, **changes))

    return changed


def _registered(smoothing_s: float) -> Variant:
    """A receiver that smooths by what its maker states, within a tenth of it either way."""

    def changed(world: World, draw: Draw) -> World:
        receiver = replace(world.receiver, filter_s=smoothing_s * draw.normal(1.0, 0.05))
        return replace(world, receiver=receiver, registered_s=Value(smoothing_s, 0.1 * smoothing_s))

    return changed


def _between(low: float, high: float) -> Callable[[Draw], float]:
    return lambda draw: draw.uniform(low, high)


def _exactly(value: float) -> Callable[[Draw], float]:
    return lambda _: value


def _undulating(world: World, draw: Draw) -> World:
    wave = {"undulation_percent": draw.uniform(0.8, 1.6), "undulation_m": draw.uniform(70, 180)}
    return replace(world, conditions=replace(world.conditions, **wave, undulation_from=draw.uniform(0, 2 * np.pi)))


def _windy(world: World, draw: Draw) -> World:
    wind = {"head_wind_mps": draw.uniform(-5, 5), "slope_percent": draw.uniform(-1.5, 1.5)}
    return replace(world, conditions=replace(world.conditions, **wind))


def _without_resistance(world: World, draw: Draw) -> World:
    return replace(world, car=replace(world.car, cda_m2=0.0, rolling_coefficient=0.0))


def _near_nominal(*others: Variant) -> Variant:
    """A stop that begins near its nominal speed, so that its distance from brake onset is published, and others."""

    def changed(world: World, draw: Draw) -> World:
        for other in others:
            world = other(world, draw)
        return replace(world, brake_from_mps=draw.uniform(97.5, 102.5) * KMH_MPS)

    return changed


VARIANTS: Mapping[str, Variant] = {
    "torque within 15-45 ms": _of_car(ramp_s=_between(0.015, 0.045)),
    "torque over 0.3-0.6 s": _of_car(ramp_s=_between(0.3, 0.6)),
    "a gear shift": _of_car(shift_at_mps=_between(8, 32), shift_s=_between(0.1, 0.2), shift_share=_between(0.0, 0.5)),
    "little power, much grip": _of_car(power_w=_between(110_000, 190_000), grip=_between(1.0, 1.15)),
    "much power, early taper": _of_car(
        power_w=_between(380_000, 600_000), taper_from_mps=_between(22, 34), taper_per_mps=_between(0.01, 0.02)
    ),
    "brakes eased a little at the end": _of_car(halt_ramp_s=_between(0.03, 0.15)),
    "brakes eased at the end": _of_car(halt_ramp_s=_between(0.1, 0.5)),
    "regeneration blends out": _of_car(blended_share=_between(0.1, 0.3)),
    "ABS ripple": _of_car(brake_ripple=_between(0.05, 0.2), brake_ripple_hz=_between(8, 15)),
    "braking force drifts": _of_car(brake_drift=lambda draw: float(draw.choice([-1, 1])) * draw.uniform(0.02, 0.06)),
    "regeneration before the bite": _near_nominal(_of_car(coasting_mps2=_between(1.2, 2.5))),
    "slow bite": _of_car(brake_ramp_s=_between(0.3, 0.6)),
    "no drag at all": _without_resistance,
    "entered near nominal": _near_nominal(),
    "undulating course": _undulating,
    "slope and wind": _windy,
    "holds zero below 0.3-0.7 m/s": _of_receiver(held_below_mps=_between(0.3, 0.7)),
    "holds zero below 1-1.5 m/s": _of_receiver(held_below_mps=_between(1.0, 1.5)),
    "smooths over 0.05 s": _of_receiver(filter_s=_exactly(0.05)),
    "smooths over 0.1 s": _of_receiver(filter_s=_exactly(0.1)),
    "smooths over 0.2 s": _of_receiver(filter_s=_exactly(0.2)),
    "smooths over 0.1 s, as registered": _registered(0.1),
    "smooths over 0.2 s, as registered": _registered(0.2),
    "correlation 0.8": _of_receiver(correlation_at_25_hz=_between(0.75, 0.85)),
    "correlation 0.9": _of_receiver(correlation_at_25_hz=_between(0.87, 0.93)),
    "noise grows with acceleration": _of_receiver(noise_by_g=_between(0.5, 2.0)),
    "noise of 0.15-0.3 m/s": _of_receiver(speed_noise_mps=_between(0.15, 0.3)),
    "bursts of noise": _of_receiver(bursts_per_minute=_between(4, 12), burst_factor=_between(3, 6)),
    "quiet, in steps of 0.1 knot": _near_nominal(
        _of_receiver(speed_noise_mps=_between(0.008, 0.02), step_mps=_exactly(0.1 * KNOT_MPS))
    ),
    "in steps of 1 km/h": _of_receiver(step_mps=_exactly(KMH_MPS)),
    "one fix says zero": _of_receiver(zero_fixes=_exactly(1)),
    "a fix is far off": _of_receiver(spikes=_exactly(1)),
}

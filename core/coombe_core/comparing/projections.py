"""Projections: times that nobody drove, from what was, each with its interval, or refused where it is too far out."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from coombe_core.comparing.sensitivity import Sensitivity
from coombe_core.curve import Curve
from coombe_core.physics.road_load import RoadLoad
from coombe_core.timing.clocks import Clock, zero_s
from coombe_core.timing.measures import Measure
from coombe_core.uncertainty import COVERAGE_95, Value

FARTHEST = 1.3  # times the speed that was reached
FARTHEST = 1.6  # times the way
TAPER_U95 = 0.12  # of the power beyond what was seen: nobody knows where it tapers
SEEN_S = 1.5
STEP_S = 0.01


class TooFarError(ValueError):
    """A projection that would rest on too little; its text is a sentence."""


@dataclass(frozen=True)
class Projection:
    """A projected value, and from what: a learned sensitivity, or a pull carried on from a speed at a power."""

    value: Value
    sensitivity: Sensitivity | None = None
    from_mps: float = 0.0
    power_w: float = 0.0


def at_condition(mean: Value, at: float, to: float, sensitivity: Sensitivity | None) -> Projection:
    """Bring a mean from one condition, such as a charge, to another.

    Parameters
    ----------
    mean : Value
    at, to : float
        In the factor's unit.
    sensitivity : Sensitivity or None

    Returns
    -------
    Projection

    Raises
    ------
    TooFarError
        Where it was not learned from runs, or not that far.
    """
    if sensitivity is None or sensitivity.kind != "learned":
        raise TooFarError("Projecting takes runs of this car in which it varies, such as a charge sweep.")
    name, unit = sensitivity.factor.name, sensitivity.factor.unit
    if not sensitivity.covers(to) or not sensitivity.covers(at):
        raise TooFarError(f"The runs that tell cover {sensitivity.low:.0f} to {sensitivity.high:.0f} {unit} of {name}.")
    shift = to - at
    half = float(np.hypot(mean.u95, COVERAGE_95 * sensitivity.error * shift))
    return Projection(Value(mean.value + sensitivity.per_unit * shift, half), sensitivity)


def to_target(curve: Curve, measure: Measure, clock: Clock, load: RoadLoad, u95_s: float) -> Projection:
    """Project the time to a target that a pull did not reach.

    Power at the wheels is taken to stay as it was over the last 1.5 s, and its interval to widen with what a taper may
    take; drag and rolling grow as the road load says.

    Parameters
    ----------
    curve : Curve
    measure : Measure
    clock : Clock
    load : RoadLoad
    u95_s : float
        Of the times that the run has.

    Returns
    -------
    Projection

    Raises
    ------
    TooFarError
        Where the target is too far, or out of reach.
    """
    end_mps, end_m = float(curve.speed_mps.max()), float(curve.distance_m[-1])
    if measure.basis == "stop" or clock == "speed":
        raise TooFarError("Only a pull from rest can be carried on.")
    if measure.to_mps > FARTHEST * end_mps or measure.to_m > FARTHEST * end_m:
        raise TooFarError(
            f"The pull ended at {end_mps:.1f} m/s after {end_m:.0f} m; that is too far from {measure.name}."
        )
    last = int(np.argmax(curve.speed_mps))
    seen = (curve.since_s <= curve.since_s[last]) & (curve.since_s >= curve.since_s[last] - SEEN_S)
    watts = load.wheel_power_w(curve.speed_mps[seen], curve.acceleration_mps2[seen])
    steady = float(np.median(watts))
    times = [
        _carried_on(curve, last, measure, load, steady * share) for share in (1.0, 1.0 - TAPER_U95, 1.0 + TAPER_U95)
    ]
    half = float(np.hypot(u95_s, max(abs(times[1] - times[0]), abs(times[2] - times[0]))))
    return Projection(Value(times[0] - (zero_s(curve, clock) or 0.0), half), from_mps=end_mps, power_w=steady)


def _carried_on(curve: Curve, last: int, measure: Measure, load: RoadLoad, watts: float) -> float:
    """When the target is reached (s from first movement) at constant power at the wheels."""
    at_s, speed, way = float(curve.since_s[last]), float(curve.speed_mps[last]), float(curve.distance_m[last])
    effective_kg = load.rotating_mass_factor * load.mass_kg
    while speed < measure.to_mps or way < measure.to_m:
        held_w = float(load.wheel_power_w(np.array([speed]), np.zeros(1))[0])
        pull = (watts - held_w) / (effective_kg * speed)
        if pull < 0.05:
            raise TooFarError(f"At that power the car would not reach {measure.name}.")
        speed, way, at_s = speed + pull * STEP_S, way + (speed + pull * STEP_S / 2) * STEP_S, at_s + STEP_S
    return at_s

"""Timing a stop: the same fit with time reversed, and the brake onset as the departure from coasting."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from coombe_core.runs.finding import FoundRun
from coombe_core.timing.estimate import COVERAGE_95, Estimate, Value
from coombe_core.timing.flags import flags_of
from coombe_core.timing.launch import HALT_RAMPS_S
from coombe_core.timing.measure import Measure
from coombe_core.timing.result import Curve, Measured, TimedRun
from coombe_core.timing.slope import slope_percent
from coombe_core.timing.speed_fit import SpeedFit
from coombe_core.trace import Trace
from coombe_core.units import STANDARD_GRAVITY_MPS2

Floats = NDArray[np.float64]
BEFORE_S = 0.6
AFTER_S = 1.0
CURVE_STEP_S = 0.05
NEAR_NOMINAL = 0.03
ONSET_STEP_S = 0.005
ONSET_REACH_S = 0.6
RIDGE = 1e-9  # keeps an onset at the window's very end solvable
BITE_S = (0.05, 0.1, 0.15, 0.2, 0.3)


def time_stop(trace: Trace, found: FoundRun, measures: Iterable[Measure], surveyed: Value | None = None) -> TimedRun:
    """Time a stop of the trace. Raises TooFewFixesError where it has too few fixes to fit."""
    window = trace.between(found.start_s - BEFORE_S, found.end_s + AFTER_S)
    onset = brake_onset(window.elapsed_s, window.speed_mps, found.start_s)
    fit = SpeedFit(-window.elapsed_s[::-1], window.speed_mps[::-1], -onset.value, HALT_RAMPS_S)
    rest = fit.launch()
    rest_s = -rest.summed_up().value
    braking = window.between(onset.value, rest_s)
    slope = surveyed or slope_percent(-fit.curve(-braking.elapsed_s)[2], braking, window)
    at_s = np.arange(onset.value, rest_s, CURVE_STEP_S)
    acceleration, speed, to_rest = fit.curve(-at_s)
    curve = Curve(at_s - onset.value, speed, to_rest[0] - to_rest, -acceleration)
    hardest_s = -float(at_s[np.argmax(acceleration)])
    peak = fit.acceleration_at(hardest_s).summed_up().scaled(-1 / STANDARD_GRAVITY_MPS2)
    return TimedRun(
        kind="stop",
        start_s=onset.value,
        end_s=rest_s,
        complete=found.complete,
        flags=flags_of(trace, found, slope),
        slope_percent=slope,
        peak_acceleration_g=peak,
        rollout_s=None,
        measures=list(_measured(fit, measures, rest, onset)),
        splits=[],
        curve=curve,
        noise_mps=fit.noise_mps,
    )


def brake_onset(time_s: Floats, speed_mps: Floats, rough_s: float) -> Value:
    """The instant at which deceleration departs from coasting, on the caller's time axis.

    Least squares of a line that is left by a ramp of deceleration; the ramp's duration is averaged over and the
    spread of the likelihood gives the interval.
    """
    near = np.abs(time_s - rough_s) < ONSET_REACH_S
    t, v = time_s[near] - rough_s, speed_mps[near]
    if t.size < 6:
        return Value(rough_s, COVERAGE_95 * float(np.median(np.diff(time_s))) / np.sqrt(12))
    instants = np.arange(-ONSET_REACH_S + 0.15, ONSET_REACH_S - 0.15, ONSET_STEP_S)
    costs = _onset_costs(t, v, instants)
    variance = max(float(costs.min()) / max(t.size - 5, 1), 1e-6)
    weights = np.exp(-0.5 * (costs - costs.min()) / variance).sum(axis=1)
    weights /= weights.sum()
    mean = float(weights @ instants)
    spread = float(np.sqrt(weights @ (instants - mean) ** 2 + ONSET_STEP_S**2 / 12))
    return Value(rough_s + mean, COVERAGE_95 * spread)


def _onset_costs(t: Floats, v: Floats, instants: Floats) -> Floats:
    """Least squares for every onset and every bite (onsets x bites): a line, left by a ramp of deceleration."""
    since = np.maximum(t - instants[:, None, None], 0.0)
    bite = np.array(BITE_S)[:, None]
    lost = np.where(since < bite, since**2 / (2 * bite), since - bite / 2)
    columns = np.broadcast_arrays(np.ones_like(t), t, lost, lost * since)
    design = np.stack(columns, axis=-1)
    gram = np.einsum("abni,abnj->abij", design, design) + RIDGE * np.eye(design.shape[-1])
    moment = np.einsum("abni,n->abi", design, v)
    solution = np.linalg.solve(gram, moment[..., None])[..., 0]
    residuals = v - np.einsum("abni,abi->abn", design, solution)
    return np.asarray((residuals**2).sum(axis=-1))


def _at_onset(rest: Estimate, onset: Value) -> Estimate:
    """The onset as an instant of the reversed fit; its own uncertainty is added where it matters."""
    return Estimate(rest.posterior, np.full(rest.values.size, -onset.value), np.zeros_like(rest.gradients))


def _measured(fit: SpeedFit, measures: Iterable[Measure], rest: Estimate, onset: Value) -> Iterable[Measured]:
    """The stops on the clock `speed`, but for those that began more than 3 % under their nominal speed."""
    speed, to_rest = fit.motion_at(_at_onset(rest, onset))
    initial = speed.summed_up()
    mfdd = _mfdd(fit, initial.value)
    for measure in measures:
        nominal = measure.from_mps
        if measure.basis != "stop" or initial.value < nominal * (1 - NEAR_NOMINAL):
            continue
        near = initial.value <= nominal * (1 + NEAR_NOMINAL)
        passed = fit.reaches_speed(nominal) if initial.value >= nominal else None
        yield Measured(
            measure.name,
            "speed",
            time_s=(passed - rest).summed_up() if passed else None,
            distance_m=fit.motion_at(passed)[1].summed_up() if passed else None,
            onset_distance_m=_onset_distance(to_rest, speed, nominal, onset) if near else None,
            initial_speed_mps=initial,
            mfdd_mps2=mfdd,
        )


def _onset_distance(to_rest: Estimate, initial: Estimate, nominal: float, onset: Value) -> Value:
    """s (v_nominal / v_initial)^2, with the onset's own uncertainty: an earlier onset is a longer way."""
    corrected = to_rest.product(initial.square().inverse()).times(nominal**2).summed_up()
    return Value(corrected.value, float(np.hypot(corrected.u95, nominal * onset.u95)))


def _mfdd(fit: SpeedFit, initial_mps: float) -> Value | None:
    """Mean fully developed deceleration, (vb^2 - ve^2) / (2 (se - sb)), vb = 0.8 v, ve = 0.1 v (UN R13-H, Annex 3)."""
    begin, end = fit.reaches_speed(0.8 * initial_mps), fit.reaches_speed(0.1 * initial_mps)
    if begin is None or end is None:
        return None
    way = fit.motion_at(begin)[1] - fit.motion_at(end)[1]
    return way.inverse().times(((0.8 * initial_mps) ** 2 - (0.1 * initial_mps) ** 2) / 2).summed_up()

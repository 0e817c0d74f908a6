"""Timing a stop: the same fit with time reversed, and the brake onset as the departure from coasting."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

import numpy as np

from coombe_core.curve import Curve
from coombe_core.detection.runs import FoundRun
from coombe_core.fitting.brake_onset import Onset, brake_onset
from coombe_core.fitting.fixes import Fixes
from coombe_core.fitting.motion import BRAKING
from coombe_core.fitting.speed_fit import SpeedFit, fit_speed
from coombe_core.fitting.steps import STEP_FADE_S
from coombe_core.fitting.torque_ramp import HALT_RAMPS
from coombe_core.timing.acceleration import fixes_of
from coombe_core.timing.measures import Measure
from coombe_core.timing.results import Measured, SpeedPassed, TimedRun
from coombe_core.timing.slope import slope_percent
from coombe_core.trace import Trace
from coombe_core.uncertainty import Estimate, Value
from coombe_core.units import STANDARD_GRAVITY_MPS2

BEFORE_S = 1.0
AFTER_S = 1.0
CURVE_STEP_S = 0.05
COASTED_S = 0.5  # about so long before the brakes the driver lifted
NEAR_NOMINAL = 0.03
MFDD_FROM, MFDD_TO = 0.8, 0.1


def time_stop(
    trace: Trace,
    found: FoundRun,
    measures: Sequence[Measure],
    surveyed: Value | None = None,
    pedal_s: Value | None = None,
) -> TimedRun:
    """Time a stop, from brake onset and through each nominal speed to rest.

    Parameters
    ----------
    trace : Trace
        The fixes of the log, or enough of them around the run.
    found : FoundRun
        Where the run is, as detection found it.
    measures : sequence of Measure
        What to time; measures that the run did not reach are left out.
    surveyed : Value, optional
        The course's slope in percent, positive uphill; it wins over the log's altitude.
    pedal_s : Value, optional
        When CAN data saw the brake pedal go down, on the trace's time axis.

    Returns
    -------
    TimedRun

    Raises
    ------
    TooFewFixesError
        Where the run has too few fixes in motion to fit.

    References
    ----------
    UN Regulation No. 13-H, Annex 3, for the mean fully developed deceleration.
    """
    window = trace.between(found.start_s - BEFORE_S, found.end_s + AFTER_S)
    fast_mps, slow_mps = MFDD_FROM * found.peak_mps, MFDD_TO * found.peak_mps
    speeds = [fast_mps, slow_mps, *(measure.from_mps for measure in measures if measure.basis == "stop")]
    steps_s = [-found.start_s - STEP_FADE_S, -found.start_s + COASTED_S]
    fit = fit_speed(_reversed(window), steps_s, HALT_RAMPS, speeds, drive=BRAKING)
    onset = brake_onset(fixes_of(window), found.start_s, fit.noise_mps, fit.noise_correlation)
    if pedal_s is not None:
        onset = onset.at_pedal(pedal_s)
    onset_s = onset.instant_s.value
    rest = fit.launch()
    rest_s = -rest.number
    braking = window.between(onset_s, rest_s)
    slope = surveyed or slope_percent(-fit.curve(-braking.elapsed_s)[2], braking, window)
    at_s = np.arange(onset_s, rest_s, CURVE_STEP_S)
    acceleration, speed, to_rest = fit.curve(-at_s)
    curve = Curve(at_s - onset_s, speed, to_rest[0] - to_rest, -acceleration)
    return TimedRun(
        kind="stop",
        start_s=onset_s,
        end_s=rest_s,
        complete=found.complete,
        slope_percent=slope,
        peak_acceleration_g=_peak_g(fit, -float(at_s[np.argmax(acceleration)])),
        rollout_s=None,
        measures=list(_measured(fit, measures, rest, onset, _mfdd(fit, fast_mps, slow_mps))),
        splits=[],
        curve=curve,
        noise_mps=fit.noise_mps,
        mean_acceleration_g=onset.mean_deceleration_mps2(rest.times(-1.0).value).scaled(-1 / STANDARD_GRAVITY_MPS2),
        first_passed=_first_passed(fit, measures, onset_s),
        rise_s=fit.rise_s,
    )


def _first_passed(fit: SpeedFit, measures: Iterable[Measure], onset_s: float) -> SpeedPassed | None:
    """The fastest nominal speed that was passed after brake onset."""
    speeds = sorted((measure.from_mps for measure in measures if measure.basis == "stop"), reverse=True)
    passed = ((speed_mps, reached) for speed_mps in speeds if (reached := fit.reaches_speed(speed_mps)))
    since = (SpeedPassed(speed_mps, -reached.instant.number - onset_s) for speed_mps, reached in passed)
    return next((each for each in since if each.since_s >= 0.0), None)


def _peak_g(fit: SpeedFit, hardest_s: float) -> Value:
    """The hardest braking, at its instant on the reversed time axis."""
    return fit.acceleration_at(hardest_s).value.scaled(-1 / STANDARD_GRAVITY_MPS2)


def _reversed(window: Trace) -> Fixes:
    """The window's fixes with time running backwards, so that the stop is a start."""
    fixes = fixes_of(window)
    return replace(fixes, time_s=-fixes.time_s[::-1], speed_mps=fixes.speed_mps[::-1], weight=fixes.weight[::-1])


def _measured(
    fit: SpeedFit, measures: Iterable[Measure], rest: Estimate, onset: Onset, mfdd: Value | None
) -> Iterable[Measured]:
    """The stops on the clock `speed`, but for those that began more than 3 % under their nominal speed."""
    to_rest = fit.at(fit.constant(-onset.instant_s.value)).distance.value
    initial = onset.speed_mps
    for measure in measures:
        nominal = measure.from_mps
        if measure.basis != "stop" or initial.value < nominal * (1 - NEAR_NOMINAL):
            continue
        near = initial.value <= nominal * (1 + NEAR_NOMINAL)
        passed = fit.reaches_speed(nominal) if initial.value >= nominal else None
        yield Measured(
            measure.name,
            "speed",
            time_s=(passed.instant - rest).value if passed else None,
            distance_m=passed.distance.value if passed else None,
            onset_distance_m=onset.corrected_distance_m(to_rest, nominal) if near else None,
            initial_speed_mps=initial,
            mfdd_mps2=mfdd,
        )


def _mfdd(fit: SpeedFit, from_mps: float, to_mps: float) -> Value | None:
    """Mean fully developed deceleration, (vb^2 - ve^2) / (2 (se - sb)) (UN Regulation No. 13-H, Annex 3).

    vb is 0.8 of the initial speed and ve 0.1 of it, taken of the fastest fix of the stop.
    """
    begin, end = fit.reaches_speed(from_mps), fit.reaches_speed(to_mps)
    if begin is None or end is None:
        return None
    return (begin.distance - end.distance).inverse().times((from_mps**2 - to_mps**2) / 2).value

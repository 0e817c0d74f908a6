"""Flags of a run from its fixes and its fit: codes with their numbers.

A flag of severity void proposes to void every measure of the run; `excludes` names measures that a lesser one keeps out
of comparisons unless a person admits them.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.curve import Curve
from coombe_core.detection.runs import COMPLETE_MPS, FoundRun
from coombe_core.fitting.smoothing import RISE_SHOWN_WITHIN, SMOOTHED_RISE, SOFT_S, taken_out_s
from coombe_core.flags.flag import Flag, Severity
from coombe_core.physics.course import flat_track
from coombe_core.timing.results import TimedRun
from coombe_core.trace import AT_REST_MPS, Trace
from coombe_core.uncertainty import Value
from coombe_core.units import MPH_MPS

SLOPE_LIMIT_PERCENT = -1.0
LEAST_RATE_HZ = 5.0
LEAST_SATELLITES = 8
MOST_HDOP = 2.0
SETTLED_S = 1.0
STAGING_S = 5.0
JUMP_MPS, JUMP_MPS2, JUMP_OVER_S = 1.0, 2.0, 0.33
UNEVEN_SHARE = 0.2
REPEATED_FIXES = 3
HELD_MPS = 0.25
SOFT_END_S, SMOOTHED_END = 0.075, 3.0  # a filter draws an end out over so many time constants more (95 %)
SMOOTHED_S = 0.02  # less than this is within what a start scatters by
BITTEN_S = 0.2  # so long after their onset usual brakes have bitten
WIND_LIMIT_MPS = 5 * MPH_MPS
MOVED_M = 4.0
MOVED_OVER_S = 1.0
COURSE_MPS = 5.0  # a receiver's course means little below this
SPIN_DIP = 0.15
SPIN_UNTIL_S = 2.0
SPIN_SLIP = 0.12
SPIN_RATE_HZ = 8.0  # slower receivers can't show a dip
GRIP_LIMIT_G = 1.5
POWER_MARGIN = 1.25
DAY_S = 86_400.0
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Surroundings:
    """What is known of a run beside its fixes. `wheel_slip` is the most that CAN data showed; None where it did not."""

    slope: Value | None = None
    head_wind_mps: float | None = None
    asked_from_rest: bool = False
    stated_power_w: float | None = None
    wheel_slip: float | None = None


@dataclass(frozen=True)
class Judged:
    """A run as the flags look at it: the fixes near it, its own fixes, as it was found and timed, its surroundings.

    `left_out` counts the fixes that no car could follow.
    """

    near: Trace
    fixes: Trace
    left_out: int
    found: FoundRun
    timed: TimedRun
    peak_power_w: float | None
    around: Surroundings


def flags_of(run: Judged) -> list[Flag]:
    """Raise every flag that a run's fixes, fit and surroundings give cause for, in the order of JUDGES."""
    return [flag for judge in JUDGES if (flag := judge(run))]


def _driving(run: Judged) -> Flag | None:
    return None if run.found.full_power else Flag("ordinary_driving", "note")


def _aborted(run: Judged) -> Flag | None:
    if run.found.kind == "stop" or run.found.complete or not run.found.full_power:
        return None
    if run.found.peak_mps < COMPLETE_MPS:
        return Flag("aborted", "note", at_s=run.found.end_s)
    return Flag("lifted_early", "caution", at_s=run.found.eased_s)


def _rolling(run: Judged) -> Flag | None:
    if run.found.kind != "rolling" or not run.around.asked_from_rest:
        return None
    return Flag("rolling", "void")


def _staging(run: Judged) -> Flag | None:
    if run.found.kind != "standing":
        return None
    before = run.near.between(run.timed.start_s - STAGING_S, run.found.start_s - 0.1)
    if float(before.speed_mps.max(initial=0.0)) > JUMP_MPS and _hardest_mps2(before) > JUMP_MPS2:
        return Flag("jumped", "caution", {"staging_s": STAGING_S})
    if run.found.rest_before_s < SETTLED_S:
        return Flag("crept_before_start", "caution", {"rest_s": run.found.rest_before_s})
    return None


def _hardest_mps2(fixes: Trace) -> float:
    """The hardest pull over a third of a second."""
    step = max(round(JUMP_OVER_S * fixes.rate_hz), 1)
    if len(fixes) <= step:
        return 0.0
    gains = fixes.speed_mps[step:] - fixes.speed_mps[:-step]
    return float(np.max(gains / (fixes.elapsed_s[step:] - fixes.elapsed_s[:-step])))


def _gap(run: Judged) -> Flag | None:
    steps, rate_hz = np.diff(run.fixes.elapsed_s), run.near.rate_hz
    if not steps.size or steps.max() * rate_hz < 2.5:
        return None
    missing = int(np.round(steps * rate_hz - 1).clip(0).sum())
    severity: Severity = "void" if steps.max() > max(0.5, 4 / rate_hz) else "caution"
    numbers = {"missing": missing, "longest_s": float(steps.max())}
    return Flag("gap", severity, numbers, at_s=float(run.fixes.elapsed_s[int(np.argmax(steps))]))


def _duplicates(run: Judged) -> Flag | None:
    fixes = run.fixes
    same = (np.diff(fixes.speed_mps) == 0) & (np.diff(fixes.latitude_deg) == 0) & (np.diff(fixes.longitude_deg) == 0)
    same &= fixes.speed_mps[1:] > AT_REST_MPS
    if same.sum() < REPEATED_FIXES:
        return None
    numbers = {"repeated": int(same.sum())}
    return Flag("duplicate_fixes", "caution", numbers, at_s=float(fixes.elapsed_s[1 + int(np.argmax(same))]))


def _left_out(run: Judged) -> Flag | None:
    return Flag("fixes_left_out", "note", {"count": run.left_out}) if run.left_out else None


def _held(run: Judged) -> Flag | None:
    """A receiver that writes zero until the car is well in motion hides how it left or came to rest."""
    if run.found.kind == "rolling":
        return None
    at_rest = run.near.speed_mps[run.near.speed_mps < AT_REST_MPS]
    slowest = run.near.speed_mps[run.near.speed_mps > 0.0].min(initial=np.inf)
    if not at_rest.size or at_rest.any() or not HELD_MPS < slowest < np.inf:
        return None
    return Flag("held_at_rest", "note", {"slowest_mps": float(slowest)})


def _soft(run: Judged) -> Flag | None:
    """A launch or an end that may be softer than usual may be the receiver's smoothing: the fixes look the same."""
    rise_s, stop = run.timed.rise_s, run.found.kind == "stop"
    soft_s = None if rise_s is None else rise_s + RISE_SHOWN_WITHIN / run.near.rate_hz
    known_s = taken_out_s(run.near.smoothing_s)
    if stop and soft_s is not None and soft_s > SOFT_END_S + SMOOTHED_END * known_s:
        return Flag("soft_end", "note", {"rise_s": soft_s})
    if run.near.smoothing_s is not None:
        return Flag("unsmoothed", "note", {"smoothing_s": known_s}) if known_s >= SMOOTHED_S else None
    if stop or soft_s is None or soft_s <= SOFT_S:
        return None
    return Flag("soft_start", "note", {"rise_s": soft_s})


def _passed_early(run: Judged) -> Flag | None:
    """A speed that is passed before brakes or torque are up is passed at an instant that hangs on little."""
    first, stop = run.timed.first_passed, run.found.kind == "stop"
    bitten_s = BITTEN_S + SMOOTHED_RISE * taken_out_s(run.near.smoothing_s)
    if first is None or first.since_s >= (bitten_s if stop else run.timed.rise_s or 0.0):
        return None
    numbers = {"speed_mps": first.speed_mps, "since_s": first.since_s}
    return Flag("passed_in_the_bite" if stop else "passed_as_torque_rose", "note", numbers)


def _rate(run: Judged) -> Flag | None:
    if run.near.rate_hz >= LEAST_RATE_HZ:
        return None
    return Flag("rate_low", "caution", {"rate_hz": run.near.rate_hz}, excludes="from rest")


def _uneven(run: Judged) -> Flag | None:
    steps = np.diff(run.fixes.elapsed_s) * run.near.rate_hz
    steps = steps[steps < 1.5]
    if steps.size < 5 or float(np.mean(np.abs(steps - 1.0) > UNEVEN_SHARE)) < UNEVEN_SHARE:
        return None
    return Flag("rate_uneven", "caution")


def _geometry(run: Judged) -> Flag | None:
    fixes = run.fixes
    few = np.isfinite(fixes.satellites).any() and np.nanmin(fixes.satellites) < LEAST_SATELLITES
    poor = np.isfinite(fixes.hdop).any() and np.nanmax(fixes.hdop) > MOST_HDOP
    if not (few or poor):
        return None
    return Flag("poor_geometry", "caution")


def _differential(run: Judged) -> Flag | None:
    quality = run.fixes.fix_quality
    lost = quality < 2
    if not quality.size or not quality[0] >= 2 or not lost.any():
        return None
    return Flag("differential_lost", "caution", at_s=float(run.fixes.elapsed_s[int(np.argmax(lost))]))


def _slope(run: Judged) -> Flag | None:
    slope = run.around.slope
    if slope is None:
        return Flag("slope_unknown", "note")
    if slope.value + slope.u95 < SLOPE_LIMIT_PERCENT or (slope.value < SLOPE_LIMIT_PERCENT and slope.u95 < 0.5):
        return Flag("slope_beyond_limit", "caution", {"slope_percent": slope.value})
    if slope.value - slope.u95 < SLOPE_LIMIT_PERCENT:
        return Flag("slope_uncertain", "note", {"slope_percent": slope.value, "u95_percent": slope.u95})
    return None


def _wind(run: Judged) -> Flag | None:
    wind = run.around.head_wind_mps
    if wind is None or abs(wind) <= WIND_LIMIT_MPS:
        return None
    return Flag("wind_beyond_limit", "caution", {"head_wind_mps": wind})


def _spin(run: Judged) -> Flag | None:
    if run.found.kind != "standing":
        return None
    slip = run.around.wheel_slip
    if slip is not None:
        if slip <= SPIN_SLIP:
            return None
        return Flag("wheel_spin", "caution", {"slip": slip})
    dip, dipped_s = _early_dip(run.timed.curve)
    if dip <= SPIN_DIP or run.near.rate_hz < SPIN_RATE_HZ:
        return None
    return Flag("wheel_spin", "caution", {"dip": dip}, at_s=run.timed.start_s + dipped_s)


def _early_dip(curve: Curve) -> tuple[float, float]:
    """The deepest early valley of acceleration, as a share of the lesser of the peaks beside it, and when it was."""
    early = (curve.since_s > 0.15) & (curve.since_s < SPIN_UNTIL_S)
    pull = curve.acceleration_mps2[early]
    if pull.size < 5:
        return 0.0, 0.0
    before, after = np.maximum.accumulate(pull), np.maximum.accumulate(pull[::-1])[::-1]
    shoulders = np.minimum(before, after)
    dips = (shoulders - pull) / np.maximum(shoulders, 1e-3)
    deepest = int(np.argmax(dips))
    return float(dips[deepest]), float(curve.since_s[early][deepest])


def _moved(run: Judged) -> Flag | None:
    """A receiver that moves in the car shows positions that leave the way that its Doppler speed drives."""
    from_m, moved_s = _off_the_course(run.fixes)
    if from_m <= MOVED_M:
        return None
    return Flag("receiver_moved", "void", {"apart_m": from_m}, at_s=moved_s)


def _off_the_course(fixes: Trace) -> tuple[float, float]:
    """The most by which a second's change of position differs from what Doppler drives (m), and when that was (s)."""
    fast = fixes.speed_mps > COURSE_MPS
    placed = np.isfinite(fixes.latitude_deg) & np.isfinite(fixes.longitude_deg)
    known = placed & np.isfinite(fixes.course_deg) & fast
    step = max(round(MOVED_OVER_S * fixes.rate_hz), 1)
    if known.sum() <= step:
        return 0.0, 0.0
    east_m, north_m = flat_track(fixes.latitude_deg[known], fixes.longitude_deg[known])
    driven = fixes.speed_mps[known] * np.exp(1j * np.radians(fixes.course_deg[known]))  # north + i east
    gained = np.diff(fixes.elapsed_s[known]) * (driven[1:] + driven[:-1]) / 2
    apart = north_m + 1j * east_m - np.concatenate([[0.0], np.cumsum(gained)])
    changes = np.abs(apart[step:] - apart[:-step])
    widest = int(np.argmax(changes))
    return float(changes[widest]), float(fixes.elapsed_s[known][widest])


def _implausible(run: Judged) -> Flag | None:
    peak = run.timed.peak_acceleration_g
    if abs(peak.value) - peak.u95 > GRIP_LIMIT_G:
        return Flag("implausible", "void", {"peak_g": abs(peak.value)})
    stated_w, peak_w = run.around.stated_power_w, run.peak_power_w
    if stated_w and peak_w and peak_w > POWER_MARGIN * stated_w:
        return Flag("implausible", "caution", {"peak_w": peak_w, "stated_w": stated_w})
    return None


def _midnight(run: Judged) -> Flag | None:
    first, last = (run.near.utc_at(at_s).date() for at_s in (run.timed.start_s, run.found.end_s))
    if first == last:
        return None
    return Flag("midnight", "note")


def _date(run: Judged) -> Flag | None:
    if run.near.date_known:
        return None
    return Flag("date_missing", "note")


def _positions(run: Judged) -> Flag | None:
    if not run.near.speed_from_positions:
        return None
    return Flag("speed_from_positions", "caution", excludes="from rest")


JUDGES: tuple[Callable[[Judged], Flag | None], ...] = (
    *(
        _driving,
        _aborted,
        _rolling,
        _staging,
        _gap,
        _duplicates,
        _left_out,
        _held,
        _soft,
        _passed_early,
        _rate,
        _uneven,
    ),
    *(_geometry, _differential, _slope, _wind, _spin, _moved, _implausible, _midnight, _date, _positions),
)

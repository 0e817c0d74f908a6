"""Flags of a run: each has a code, a severity and a sentence that says what to do."""

from __future__ import annotations

import numpy as np

from coombe_core.runs.finding import COMPLETE_MPS, FoundRun
from coombe_core.timing.estimate import Value
from coombe_core.timing.result import Flag, Severity
from coombe_core.trace import Trace

SLOPE_LIMIT_PERCENT = -1.0
LEAST_RATE_HZ = 5.0
LEAST_SATELLITES = 8
MOST_HDOP = 2.0
SETTLED_S = 1.0


def flags_of(trace: Trace, found: FoundRun, slope: Value | None) -> list[Flag]:
    """Every flag that the run's own fixes and slope raise."""
    fixes = trace.between(found.start_s, found.end_s)
    flags = [
        _aborted(found),
        _staging(found),
        _gap(fixes, trace.rate_hz),
        _rate(trace),
        _geometry(fixes),
        _slope(slope),
    ]
    if not trace.date_known:
        flags.append(Flag("date_missing", "note", "The log has no date; enter the day of the run by hand."))
    return [flag for flag in flags if flag]


def _aborted(found: FoundRun) -> Flag | None:
    if found.kind != "standing" or found.complete:
        return None
    if found.peak_mps < COMPLETE_MPS:
        return Flag("aborted", "note", "Lifted before 60 mph; the measures that were reached stand.")
    return Flag("lifted_early", "caution", "Eased off on the way to 60 mph; keep it out of full-power comparisons.")


def _staging(found: FoundRun) -> Flag | None:
    if found.kind != "standing" or found.rest_before_s >= SETTLED_S:
        return None
    message = f"Only {found.rest_before_s:.1f} s at rest before the launch; the car may have crept or jumped."
    return Flag("crept_before_start", "caution", message)


def _gap(fixes: Trace, rate_hz: float) -> Flag | None:
    steps = np.diff(fixes.elapsed_s)
    if not steps.size or steps.max() * rate_hz < 2.5:
        return None
    missing = int(np.round(steps * rate_hz - 1).clip(0).sum())
    severity: Severity = "void" if steps.max() > max(0.5, 4 / rate_hz) else "caution"
    message = f"{missing} fixes missing, the longest gap {steps.max():.2f} s; check the receiver's cable and sky view."
    return Flag("gap", severity, message)


def _rate(trace: Trace) -> Flag | None:
    if trace.rate_hz >= LEAST_RATE_HZ:
        return None
    message = f"Only {trace.rate_hz:.1f} fixes a second; left out of comparisons from rest unless you admit it."
    return Flag("rate_low", "caution", message)


def _geometry(fixes: Trace) -> Flag | None:
    few = np.isfinite(fixes.satellites).any() and np.nanmin(fixes.satellites) < LEAST_SATELLITES
    poor = np.isfinite(fixes.hdop).any() and np.nanmax(fixes.hdop) > MOST_HDOP
    if not (few or poor):
        return None
    return Flag(
        "poor_geometry", "caution", "Few satellites or poor geometry; mount the receiver where it sees the sky."
    )


def _slope(slope: Value | None) -> Flag | None:
    if slope is None:
        return Flag("slope_unknown", "note", "No altitude in the log; enter the course's slope.")
    if slope.value + slope.u95 < SLOPE_LIMIT_PERCENT or (slope.value < SLOPE_LIMIT_PERCENT and slope.u95 < 0.5):
        message = f"Downhill by {-slope.value:.1f} %, over the limit of 1 %; quote the time corrected to level."
        return Flag("slope_beyond_limit", "caution", message)
    if slope.value - slope.u95 < SLOPE_LIMIT_PERCENT:
        message = (
            f"Slope {slope.value:+.1f} ± {slope.u95:.1f} % can't rule out more than 1 % downhill; survey the course."
        )
        return Flag("slope_uncertain", "note", message)
    return None

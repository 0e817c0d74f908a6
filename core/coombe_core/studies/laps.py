"""Laps: times between crossings of a start line, and how hard the car corners."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import mode

import numpy as np
from numpy.typing import NDArray

from coombe_core.physics.course import flat_track
from coombe_core.studies.problem import StudyError
from coombe_core.trace import Trace
from coombe_core.uncertainty import COVERAGE_95, Value
from coombe_core.units import STANDARD_GRAVITY_MPS2

Floats = NDArray[np.float64]
HALF_WIDTH_M = 12.0  # of a start line, where it is not stated
LEAST_LAP_S = 5.0
POSITION_NOISE_M = 0.1  # from one crossing to the next, 1 sigma, across the line: what a receiver wanders in a lap
CORNERING_OVER_S = 1.0  # shorter than any corner; heading is noisy
FAST_MPS = 5.0
SEARCHED = 60  # a start line is sought among about so many places of a drive


@dataclass(frozen=True)
class StartLine:
    """Where it is, in degrees, the heading in which it is crossed, and how far it reaches to either side."""

    latitude_deg: float
    longitude_deg: float
    heading_deg: float
    half_width_m: float = HALF_WIDTH_M


@dataclass(frozen=True)
class Lap:
    """One lap: when it began (s on the trace's axis), its time, its distance and its hardest cornering."""

    begun_s: float
    time_s: Value
    distance_m: float
    peak_lateral_g: float


@dataclass(frozen=True)
class Laps:
    """All laps in their order, the place of the quickest among them, and their mean time."""

    laps: Sequence[Lap]
    best: int
    mean_s: float


def laps(trace: Trace, line: StartLine) -> Laps:
    """Time every lap of a drive.

    A crossing is where the way between two fixes meets the line in its direction; its instant is that of their straight
    connection. A lap's u95 is of both crossings: position noise over the speed there.

    Parameters
    ----------
    trace : Trace
    line : StartLine

    Returns
    -------
    Laps

    Raises
    ------
    StudyError
        Where the line was crossed fewer than twice.
    """
    crossings = _crossings(trace, line)
    steps_m = np.diff(trace.elapsed_s) * (trace.speed_mps[1:] + trace.speed_mps[:-1]) / 2
    distance_m = np.concatenate([[0.0], np.cumsum(steps_m)])
    cornering = lateral_g(trace)
    made = []
    for (begun_s, begun_mps), (ended_s, ended_mps) in itertools.pairwise(crossings):
        inside = (trace.elapsed_s >= begun_s) & (trace.elapsed_s <= ended_s)
        u95_s = COVERAGE_95 * POSITION_NOISE_M * math.hypot(1.0 / begun_mps, 1.0 / ended_mps)
        ends_m = np.interp([begun_s, ended_s], trace.elapsed_s, distance_m)
        peak = float(np.nanmax(np.abs(cornering[inside]), initial=0.0))
        made.append(Lap(begun_s, Value(ended_s - begun_s, u95_s), float(ends_m[1] - ends_m[0]), peak))
    if not made:
        raise StudyError("no lap", {"crossings": len(crossings)})
    times_s = [lap.time_s.value for lap in made]
    return Laps(made, int(np.argmin(times_s)), float(np.mean(times_s)))


def find_start_line(trace: Trace) -> StartLine:
    """Seek a start line where nobody set one: among places that are passed as often as most are, the fastest.

    Where a course crosses itself a place is passed twice a lap: that is more often than most.

    Raises
    ------
    StudyError
        Where hardly any place is passed twice.
    """
    moving = np.flatnonzero(trace.speed_mps > FAST_MPS)
    places = moving[:: max(moving.size // SEARCHED, 1)]
    columns = trace.latitude_deg[places], trace.longitude_deg[places], trace.course_deg[places]
    lines = [StartLine(*map(float, each)) for each in zip(*columns, strict=True)]
    passed = [len(_crossings(trace, line)) for line in lines]
    often = [count for count in passed if count > 1]
    if len(often) < len(lines) / 2 or not often:
        raise StudyError("no lap", {"crossings": max(passed, default=0)})
    usual = mode(often)
    speeds = np.where(np.array(passed) == usual, trace.speed_mps[places], 0.0)
    return lines[int(np.argmax(speeds))]


def speed_along(trace: Trace, lap: Lap) -> tuple[Floats, Floats]:
    """The distance since the line (m) and the speed (m/s) at every fix of a lap (n each)."""
    inside = (trace.elapsed_s >= lap.begun_s) & (trace.elapsed_s <= lap.begun_s + lap.time_s.value)
    at_s, speed_mps = trace.elapsed_s[inside], trace.speed_mps[inside]
    steps_m = np.diff(at_s) * (speed_mps[1:] + speed_mps[:-1]) / 2
    return np.concatenate([[0.0], np.cumsum(steps_m)]), speed_mps


def _crossings(trace: Trace, line: StartLine) -> list[tuple[float, float]]:
    """When the line was crossed, and how fast; none sooner than a lap may be after the one before."""
    latitudes = np.append(trace.latitude_deg, line.latitude_deg)
    longitudes = np.append(trace.longitude_deg, line.longitude_deg)
    east_m, north_m = flat_track(latitudes, longitudes)
    east_m, north_m = east_m[:-1] - east_m[-1], north_m[:-1] - north_m[-1]
    heading = math.radians(line.heading_deg)
    ahead_m = east_m * math.sin(heading) + north_m * math.cos(heading)
    aside_m = east_m * math.cos(heading) - north_m * math.sin(heading)
    found: list[tuple[float, float]] = []
    for n in np.flatnonzero((ahead_m[:-1] < 0.0) & (ahead_m[1:] >= 0.0)):
        share = -ahead_m[n] / (ahead_m[n + 1] - ahead_m[n])
        if abs(aside_m[n] + share * (aside_m[n + 1] - aside_m[n])) > line.half_width_m:
            continue
        at_s = float(trace.elapsed_s[n] + share * (trace.elapsed_s[n + 1] - trace.elapsed_s[n]))
        if not found or at_s - found[-1][0] >= LEAST_LAP_S:
            found.append((at_s, float(max(trace.speed_mps[n], 1.0))))
    return found


def lateral_g(trace: Trace) -> Floats:
    """Speed times the rate at which the heading turns, in g, at every fix (n): positive to the right."""
    heading = np.unwrap(np.radians(np.nan_to_num(trace.course_deg)))
    half = max(round(CORNERING_OVER_S * trace.rate_hz / 2), 1)
    places = np.arange(len(trace))
    after, before = np.minimum(places + half, places[-1]), np.maximum(places - half, 0)
    over_s = np.maximum(trace.elapsed_s[after] - trace.elapsed_s[before], 1e-9)
    return np.asarray(trace.speed_mps * (heading[after] - heading[before]) / over_s / STANDARD_GRAVITY_MPS2)

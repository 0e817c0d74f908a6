"""Where the time went: the difference of two arms split by bands of speed or of distance that add up to the whole."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from coombe_core.timing.measure import DISTANCES_M, Clock, Measure
from coombe_core.timing.result import Measured
from coombe_core.timing.splits import Split
from coombe_core.units import FOOT_M, KMH_MPS

Floats = NDArray[np.float64]
Character = Literal["launch", "power", "top end", "mixed"]
LAUNCH_TO_MPS = 50 * KMH_MPS
TOP_END_FROM_MPS = 130 * KMH_MPS
LAUNCH_TO_M = 330 * FOOT_M  # about where a quick car passes 60 mph
MOST_OF_IT = 0.6


@dataclass(frozen=True)
class Band:
    """One band, from and to a speed (m/s) or a distance (m), and the arms' difference in time within it (s)."""

    basis: Literal["speed", "distance"]
    start: float
    end: float
    difference_s: float


@dataclass(frozen=True)
class EdgeTimes:
    """One run's cumulative times at the edges of its bands; the first edge is the clock's zero."""

    edges: tuple[float, ...]
    times_s: tuple[float, ...]

    def with_zero_earlier(self, by_s: float) -> EdgeTimes:
        """The same run on a clock that starts earlier."""
        return EdgeTimes(self.edges, (self.times_s[0], *(at_s + by_s for at_s in self.times_s[1:])))


def edge_times(measure: Measure, clock: Clock, measured: Sequence[Measured], splits: Sequence[Split]) -> EdgeTimes:
    """The times at which a run passed the edges inside a measure, from its split table or its distance measures.

    Raises KeyError where the run has no such measure.
    """
    rows = {row.name: row.time_s.value for row in measured if row.clock == clock and row.time_s}
    whole_s = rows[measure.name]
    if measure.basis == "distance":
        inner = {to_m: rows[name] for name, to_m in DISTANCES_M.items() if to_m < measure.to_m and name in rows}
        return _ordered(0.0, inner, measure.to_m, whole_s)
    unit = "mph" if measure.name.endswith("mph") else "km/h"
    passed = {split.speed_mps: split.time_s(clock) for split in splits if split.unit == unit}
    times = {speed: value.value for speed, value in passed.items() if value}
    zero_s = 0.0 if measure.from_mps == 0 else times.get(measure.from_mps)
    inside = {s: t for s, t in times.items() if measure.from_mps + 1e-6 < s < measure.to_mps - 1e-6}
    inner = {} if zero_s is None else {speed: at_s - zero_s for speed, at_s in inside.items()}
    return _ordered(measure.from_mps, inner, measure.to_mps, whole_s)


def _ordered(start: float, inner: dict[float, float], end: float, whole_s: float) -> EdgeTimes:
    points = sorted(inner.items())
    return EdgeTimes((start, *(edge for edge, _ in points), end), (0.0, *(at_s for _, at_s in points), whole_s))


def bands(measure: Measure, before: Sequence[EdgeTimes], after: Sequence[EdgeTimes]) -> list[Band]:
    """The difference of the arms' means within each band; edges that any run lacks are left out."""
    if measure.basis == "stop":
        return []
    shared = sorted(set.intersection(*(set(run.edges) for run in (*before, *after))))
    means = [_mean_at(arm, shared) for arm in (before, after)]
    steps = np.diff(means[1] - means[0])
    basis: Literal["speed", "distance"] = "distance" if measure.basis == "distance" else "speed"
    return [Band(basis, start, end, float(step)) for start, end, step in zip(shared, shared[1:], steps, strict=False)]


def _mean_at(arm: Sequence[EdgeTimes], edges: Sequence[float]) -> Floats:
    table = [[dict(zip(run.edges, run.times_s, strict=True))[edge] for edge in edges] for run in arm]
    return np.asarray(np.mean(table, axis=0), dtype=np.float64)


def character(parts: Sequence[Band]) -> Character | None:
    """What kind of change it is, by where most of the gain lies between equal speeds or places.

    A gain that is there by 60 mph and stays to the line is of the launch, one that keeps growing is of power.
    """
    whole = sum(band.difference_s for band in parts)
    if not parts or whole == 0:
        return None
    shares: dict[Character, float] = {"launch": 0.0, "power": 0.0, "top end": 0.0}
    for band in parts:
        shares[_kind(band)] += band.difference_s / whole
    name, share = max(shares.items(), key=lambda item: item[1])
    return name if share >= MOST_OF_IT else "mixed"


def _kind(band: Band) -> Character:
    middle = (band.start + band.end) / 2
    if band.basis == "distance":
        return "launch" if middle < LAUNCH_TO_M else "power"
    return "launch" if middle < LAUNCH_TO_MPS else "top end" if middle > TOP_END_FROM_MPS else "power"

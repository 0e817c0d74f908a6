"""Where the time went: the difference of two groups by bands of speed or of distance, which add up to the whole."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, Protocol

import numpy as np

from coombe_core.comparing.statistics.contrast import Contrast, contrast
from coombe_core.comparing.statistics.interval import difference, shared_part
from coombe_core.comparing.statistics.layout import Floats, Layout
from coombe_core.timing.clocks import Clock
from coombe_core.timing.measures import DISTANCES_M, Measure
from coombe_core.timing.results import Measured


@dataclass(frozen=True)
class Band:
    """One band, from and to a speed (m/s) or a distance (m), and the groups' difference in time within it (s).

    `low95` and `high95` are its 95 % interval, None with single runs; `before_s` is the before group's mean time in it.
    """

    basis: Literal["speed", "distance"]
    start: float
    end: float
    difference_s: float
    low95: float | None = None
    high95: float | None = None
    before_s: float = 0.0


class Timed(Protocol):
    """A timed run: its measures, and when it passed the speeds (m/s) of its splits in a unit."""

    @property
    def measures(self) -> Sequence[Measured]: ...

    def passed_s(self, clock: Clock, unit: str) -> Mapping[float, float]: ...


@dataclass(frozen=True)
class EdgeTimes:
    """One run's cumulative times at the edges of its bands; the first edge is the clock's zero."""

    edges: tuple[float, ...]
    times_s: tuple[float, ...]

    def with_zero_earlier(self, by_s: float) -> EdgeTimes:
        """The same run on a clock that starts earlier."""
        return EdgeTimes(self.edges, (*self.times_s[:1], *(at_s + by_s for at_s in self.times_s[1:])))


def edge_times(measure: Measure, clock: Clock, run: Timed) -> EdgeTimes:
    """Find the times at which a run passed the edges inside a measure.

    Parameters
    ----------
    measure : Measure
    clock : Clock
    run : Timed

    Returns
    -------
    EdgeTimes

    Raises
    ------
    KeyError
        Where the run has no such measure.
    """
    rows = {row.name: row.time_s.value for row in run.measures if row.clock == clock and row.time_s}
    whole_s = rows[measure.name]
    if measure.basis == "distance":
        inner = {to_m: rows[name] for name, to_m in DISTANCES_M.items() if to_m < measure.to_m and name in rows}
        return _ordered(0.0, inner, measure.to_m, whole_s)
    unit = "mph" if measure.name.endswith("mph") else "km/h"
    times = run.passed_s(clock, unit)
    zero_s = 0.0 if measure.from_mps == 0 else times.get(measure.from_mps)
    inside = {s: t for s, t in times.items() if measure.from_mps + 1e-6 < s < measure.to_mps - 1e-6}
    inner = {} if zero_s is None else {speed: at_s - zero_s for speed, at_s in inside.items()}
    return _ordered(measure.from_mps, inner, measure.to_mps, whole_s)


def speed_times(measure: Measure, clock: Clock, run: Timed) -> EdgeTimes:
    """Find when a run passed every 10 km/h before the end of a distance measure; none for other measures."""
    row = next((row for row in run.measures if row.name == measure.name and row.clock == clock and row.time_s), None)
    if measure.basis != "distance" or row is None or row.time_s is None:
        return EdgeTimes((), ())
    inside = {s: t for s, t in run.passed_s(clock, "km/h").items() if t < row.time_s.value}
    points = sorted(inside.items())
    return EdgeTimes((0.0, *(speed for speed, _ in points)), (0.0, *(at_s for _, at_s in points)))


def _ordered(start: float, inner: dict[float, float], end: float, whole_s: float) -> EdgeTimes:
    points = sorted(inner.items())
    return EdgeTimes((start, *(edge for edge, _ in points), end), (0.0, *(at_s for _, at_s in points), whole_s))


@dataclass(frozen=True, eq=False)
class Passed:
    """The times (n runs x edges, s) at the edges that all runs of both groups passed, and how groups are weighed."""

    basis: Literal["speed", "distance"]
    edges: tuple[float, ...]
    times_s: Floats
    layout: Layout
    whole: Contrast
    common_u95: float

    @classmethod
    def of(
        cls,
        basis: Literal["speed", "distance"],
        runs: Sequence[EdgeTimes],
        layout: Layout,
        whole: Contrast,
        common_u95: float = 0.0,
    ) -> Passed | None:
        """None where the runs share no two edges. `common_u95` is of the clock's zero, which later times share."""
        shared = sorted(set.intersection(*(set(run.edges) for run in runs))) if runs else []
        if len(shared) < 2:
            return None
        tables = [dict(zip(run.edges, run.times_s, strict=True)) for run in runs]
        times = np.array([[table[edge] for edge in shared] for table in tables])
        return cls(basis, tuple(shared), times, layout, whole, common_u95)

    def bands(self) -> list[Band]:
        """The difference within each band; they add up to that of the last edge."""
        steps = np.diff(self.times_s, axis=1)
        firsts = [self.common_u95, *[0.0] * (steps.shape[1] - 1)]
        return [
            Band(self.basis, start, end, *self._interval(step, u95), float(step[~self.layout.after].mean()))
            for start, end, step, u95 in zip(self.edges, self.edges[1:], steps.T, firsts, strict=False)
        ]

    def halves(self, until: float) -> tuple[Band, Band] | None:
        """What was gained in the bands before an edge, and what after it; None where either has none."""
        middles = (np.array(self.edges[:-1]) + np.array(self.edges[1:])) / 2
        count = int((middles < until).sum())
        if not 0 < count < middles.size:
            return None
        first, second = self.times_s[:, count], self.times_s[:, -1] - self.times_s[:, count]
        joins = ((0, count, first, self.common_u95), (count, -1, second, 0.0))
        before = ~self.layout.after
        one, other = (
            Band(
                self.basis,
                self.edges[start],
                self.edges[end],
                *self._interval(gained, u95),
                float(gained[before].mean()),
            )
            for start, end, gained, u95 in joins
        )
        return one, other

    def parted_at(self) -> float | None:
        """The edge from which on the groups' times differ beyond doubt, to the end; None where they never do."""
        parted = None
        for edge, times in zip(self.edges[:0:-1], self.times_s.T[:0:-1], strict=True):
            _, low, high = self._interval(times, self.common_u95)
            if low is None or high is None or low <= 0 <= high:
                break
            parted = edge
        return parted

    def _interval(self, values: Floats, common_u95: float) -> tuple[float, float | None, float | None]:
        made = contrast(values, self.layout, weights=self.whole.weights)
        if made is None:
            return self.whole.of(values), None, None
        found = difference(made.of(values), [*made.parts, shared_part(common_u95)])
        return found.value, found.low95, found.high95

"""Two groups' motion on one sheet: mean curves with their bands, and how far one group is ahead of the other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from coombe_core.comparing.statistics.layout import Floats
from coombe_core.curve import Curve
from coombe_core.timing.clocks import Clock, zero_s
from coombe_core.timing.measures import Measure
from coombe_core.uncertainty import coverage_95

CAR_LENGTH_M = 4.7  # of a mid-size car, for the picture only
POINTS = 160
NEARLY = 0.003  # a mean curve ends a little below the speed that its runs reached
Axis = Literal["since_s", "distance_m", "speed_mps", "acceleration_mps2"]


@dataclass(frozen=True, eq=False)
class Drawn:
    """One run's curve on a comparison's clock (n each), up to the measure's end."""

    since_s: Floats
    speed_mps: Floats
    distance_m: Floats
    acceleration_mps2: Floats


def on_clock(curve: Curve, measure: Measure, clock: Clock) -> Drawn:
    """Cut a run's curve from the clock's zero to the measure's end."""
    begun_s = zero_s(curve, clock, measure.from_mps if measure.basis == "speed" else 0.0) or 0.0
    past = curve.speed_mps >= measure.to_mps if measure.basis == "speed" else curve.distance_m >= measure.to_m
    last = int(np.argmax(past)) if past.any() and measure.basis != "stop" else curve.since_s.size - 1
    grid = np.linspace(begun_s, float(curve.since_s[last]), POINTS)

    def at(column: Floats) -> Floats:
        return np.interp(grid, curve.since_s, column)

    return Drawn(grid - begun_s, at(curve.speed_mps), at(curve.distance_m), at(curve.acceleration_mps2))


@dataclass(frozen=True, eq=False)
class MeanCurve:
    """The mean of a group's curves (n) and the 95 % interval of that mean; without an interval for a single run."""

    x: Floats
    mean: Floats
    low95: Floats | None
    high95: Floats | None


def mean_curve(runs: Sequence[Drawn], x: Axis, y: Axis) -> MeanCurve | None:
    """Average one quantity against another over the stretch that every run covers; None without runs."""
    if not runs:
        return None
    columns = [(np.maximum.accumulate(getattr(run, x)), getattr(run, y)) for run in runs]
    grid = np.linspace(max(each[0][0] for each in columns), min(each[0][-1] for each in columns), POINTS)
    table = np.array([np.interp(grid, xs, ys) for xs, ys in columns])
    mean = table.mean(axis=0)
    if len(runs) < 2:
        return MeanCurve(grid, mean, None, None)

    half = coverage_95(len(runs) - 1) * table.std(axis=0, ddof=1) / np.sqrt(len(runs))
    return MeanCurve(grid, mean, mean - half, mean + half)


@dataclass(frozen=True, eq=False)
class Gap:
    """How far the after group is ahead (m, n each) at times since both left together, and at the distances driven."""

    since_s: Floats
    ahead_m: Floats
    distance_m: Floats
    ahead_s: Floats


def gap(before: Sequence[Drawn], after: Sequence[Drawn]) -> Gap | None:
    """Work out the gap between the groups' mean curves; None for an empty group."""
    paths = [mean_curve(group, "since_s", "distance_m") for group in (before, after)]
    if paths[0] is None or paths[1] is None:
        return None
    since_s = np.linspace(0.0, min(float(paths[0].x[-1]), float(paths[1].x[-1])), POINTS)
    meters = [np.interp(since_s, each.x, each.mean) for each in paths if each]
    distance_m = np.linspace(
        max(each.mean[0] for each in paths if each), min(each.mean[-1] for each in paths if each), POINTS
    )
    seconds = [np.interp(distance_m, np.maximum.accumulate(each.mean), each.x) for each in paths if each]
    return Gap(since_s, meters[1] - meters[0], distance_m, seconds[0] - seconds[1])


def leads(apart: Gap, after: Sequence[Drawn], speeds_mps: Sequence[float]) -> dict[float, float]:
    """Say how far (m) the after group is ahead at those of the speeds that it passes, both having left together."""
    speed = mean_curve(after, "since_s", "speed_mps")
    if speed is None:
        return {}
    fastest_mps = float(speed.mean.max()) * (1 + NEARLY)
    passed = [each for each in speeds_mps if speed.mean[0] <= each <= fastest_mps]
    at_s = np.interp(passed, np.maximum.accumulate(speed.mean), speed.x)
    ahead_m = np.interp(at_s, apart.since_s, apart.ahead_m)
    together = zip(passed, at_s, ahead_m, strict=True)
    return {each: float(ahead) for each, at, ahead in together if at <= apart.since_s[-1]}

"""Two cars at once: who was ahead by how much at each distance, each timed from its own first movement.

When a driver reacted plays no part in that: it is given by itself, against the start signal and against the other car.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from coombe_core.curve import Curve
from coombe_core.timing.measures import DISTANCES_M
from coombe_core.timing.results import Measured
from coombe_core.uncertainty import Value

CLOCK_U95_S = 0.1  # how well the computer that gives the signal knows the receivers' time


@dataclass(frozen=True)
class Lane:
    """One car's run: its measures, its curve since first movement, and the UTC second of that (seconds since 1970)."""

    measures: Sequence[Measured]
    curve: Curve
    start_s: Value


@dataclass(frozen=True)
class Ahead:
    """How the cars stood at a distance.

    `gap_s` is the second car's time less the first's, so that above zero the first was ahead; `gap_m` is how far the
    one ahead led when it got there, never below zero.
    """

    name: str
    distance_m: float
    gap_s: Value
    gap_m: float

    @property
    def shown(self) -> bool:
        """Whether the interval leaves no doubt who was ahead."""
        return abs(self.gap_s.value) > self.gap_s.u95


def standings(first: Lane, second: Lane) -> list[Ahead]:
    """List who was ahead at every distance that both cars reached, nearest first."""
    found = []
    for name, distance_m in DISTANCES_M.items():
        ours, theirs = (_time_at(lane, name) for lane in (first, second))
        if ours and theirs:
            gap = Value(theirs.value - ours.value, float(np.hypot(ours.u95, theirs.u95)))
            behind, at_s = (second, ours.value) if gap.value >= 0 else (first, theirs.value)
            led_m = distance_m - float(np.interp(at_s, behind.curve.since_s, behind.curve.distance_m))
            found.append(Ahead(name, distance_m, gap, max(led_m, 0.0)))
    return found


def left_first_s(first: Lane, second: Lane) -> Value:
    """Say how much later the second car moved than the first, by the receivers' time; below zero it was the earlier."""
    apart_s = second.start_s.value - first.start_s.value
    return Value(apart_s, float(np.hypot(first.start_s.u95, second.start_s.u95)))


def reaction_s(lane: Lane, signal_s: float) -> Value:
    """Time a reaction from the signal (s since 1970, by the computer that gave it) to first movement."""
    return Value(lane.start_s.value - signal_s, float(np.hypot(lane.start_s.u95, CLOCK_U95_S)))


def _time_at(lane: Lane, name: str) -> Value | None:
    return next((row.time_s for row in lane.measures if row.name == name and row.clock == "first_movement"), None)

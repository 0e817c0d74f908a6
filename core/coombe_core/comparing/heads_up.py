"""Two cars at once: who was ahead by how much at each distance, each timed from its own first movement.

When a driver reacted plays no part in that: it is given by itself, against the start signal and against the other car.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from coombe_core.comparing.curves import CAR_LENGTH_M
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
    def gap_lengths(self) -> float:
        """The lead in car lengths."""
        return self.gap_m / CAR_LENGTH_M

    @property
    def shown(self) -> bool:
        """Whether the interval leaves no doubt who was ahead."""
        return abs(self.gap_s.value) > self.gap_s.u95


def standings(first: Lane, second: Lane, also_m: float | None = None) -> list[Ahead]:
    """List who was ahead at every distance that both cars reached, nearest first.

    `also_m` is one more distance (m) to say it of; that one has no name.
    """
    found = []
    for name, distance_m in DISTANCES_M.items():
        ours, theirs = (_time_at(lane, name) for lane in (first, second))
        if ours and theirs:
            found.append(_ahead(name, distance_m, (first, ours), (second, theirs)))
    if also_m is not None:
        ours, theirs = (_time_between(lane, also_m) for lane in (first, second))
        if ours and theirs:
            found.append(_ahead("", also_m, (first, ours), (second, theirs)))
    return sorted(found, key=lambda each: each.distance_m)


def _ahead(name: str, distance_m: float, first: tuple[Lane, Value], second: tuple[Lane, Value]) -> Ahead:
    """How two lanes stood at a distance that each reached at a time of its own."""
    gap = Value(second[1].value - first[1].value, float(np.hypot(first[1].u95, second[1].u95)))
    behind, at_s = (second[0], first[1].value) if gap.value >= 0 else (first[0], second[1].value)
    led_m = distance_m - float(np.interp(at_s, behind.curve.since_s, behind.curve.distance_m))
    return Ahead(name, distance_m, gap, max(led_m, 0.0))


def left_first_s(first: Lane, second: Lane) -> Value:
    """Say how much later the second car moved than the first, by the receivers' time; below zero it was the earlier."""
    apart_s = second.start_s.value - first.start_s.value
    return Value(apart_s, float(np.hypot(first.start_s.u95, second.start_s.u95)))


def reaction_s(lane: Lane, signal_s: float) -> Value:
    """Time a reaction from the signal (s since 1970, by the computer that gave it) to first movement."""
    return Value(lane.start_s.value - signal_s, float(np.hypot(lane.start_s.u95, CLOCK_U95_S)))


def _time_at(lane: Lane, name: str) -> Value | None:
    return next((row.time_s for row in lane.measures if row.name == name and row.clock == "first_movement"), None)


def _time_between(lane: Lane, distance_m: float) -> Value | None:
    """Any distance that the curve reaches; as sure as the distances around it that are measured."""
    curve = lane.curve
    known = [
        (DISTANCES_M[row.name], row.time_s)
        for row in lane.measures
        if row.clock == "first_movement" and row.name in DISTANCES_M and row.time_s
    ]
    if not known or not 0.0 < distance_m <= float(curve.distance_m[-1]):
        return None
    places, times = zip(*sorted(known, key=lambda each: each[0]), strict=True)
    at_s = float(np.interp(distance_m, curve.distance_m, curve.since_s))
    return Value(at_s, float(np.interp(distance_m, places, [time.u95 for time in times])))

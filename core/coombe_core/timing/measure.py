"""Measures: named intervals of a run, by speed, by distance from the staged position, or from a speed to rest."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from coombe_core.units import FOOT_M, MILE_M, speed_mps

Clock = Literal["first_movement", "rollout", "speed"]
Basis = Literal["speed", "distance", "stop"]
CLOCKS: tuple[Clock, ...] = ("first_movement", "rollout", "speed")
ROLLOUT_M = FOOT_M
TRAP_M = 66 * FOOT_M
DISTANCES_M = {
    "60 ft": 60 * FOOT_M,
    "330 ft": 330 * FOOT_M,
    "1/8 mile": MILE_M / 8,
    "1000 ft": 1000 * FOOT_M,
    "1/4 mile": MILE_M / 4,
    "1/2 mile": MILE_M / 2,
}
SPEED_INTERVALS = (
    *("0-30 mph", "0-40 mph", "0-60 mph", "0-100 mph", "0-130 mph"),
    *("0-50 km/h", "0-60 km/h", "0-100 km/h", "0-160 km/h", "0-200 km/h"),
    *("30-70 mph", "60-130 mph", "80-120 km/h", "100-200 km/h"),
)
STOP_INTERVALS = ("60-0 mph", "70-0 mph", "100-0 km/h", "130-0 km/h")
INTERVAL = re.compile(r"(\d+(?:\.\d+)?)-(\d+(?:\.\d+)?) (mph|km/h)")


@dataclass(frozen=True)
class Measure:
    """A named interval. `from_mps`/`to_mps` bound a speed interval or a stop, `to_m` a distance."""

    name: str
    basis: Basis
    from_mps: float = 0.0
    to_mps: float = 0.0
    to_m: float = 0.0

    @property
    def from_rest(self) -> bool:
        """Whether it begins at rest."""
        return self.basis == "distance" or (self.basis == "speed" and self.from_mps == 0)

    @property
    def clocks(self) -> tuple[Clock, ...]:
        """Where its time may start: both clocks from rest, the speed itself otherwise."""
        return ("first_movement", "rollout") if self.from_rest else ("speed",)


def parse_measure(name: str) -> Measure:
    """The measure of a name such as `0-60 mph`, `60-90 mph`, `100-0 km/h` or `1/4 mile`.

    Raises ValueError with a sentence for any other text.
    """
    if name in DISTANCES_M:
        return Measure(name, "distance", to_m=DISTANCES_M[name])
    match = INTERVAL.fullmatch(name)
    if not match or float(match[1]) == float(match[2]) or (float(match[2]) < float(match[1]) and float(match[2]) != 0):
        raise ValueError(f"no such measure: {name[:40]!r}; name one like 0-60 mph, 60-90 mph, 100-0 km/h or 1/4 mile")
    low, high = (speed_mps(float(match[part]), match[3]) for part in (1, 2))
    return Measure(name, "stop" if high < low else "speed", low, high)


STANDARD_MEASURES = tuple(parse_measure(name) for name in (*SPEED_INTERVALS, *DISTANCES_M, *STOP_INTERVALS))

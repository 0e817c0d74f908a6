"""Measures: named intervals of a run, by speed, by distance from the staged position, or from a speed to rest."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from coombe_core.curve import Curve
from coombe_core.interpolation import crossing
from coombe_core.timing.clocks import Clock, zero_s
from coombe_core.units import FOOT_M, MILE_M, speed_mps

Basis = Literal["speed", "distance", "stop"]
TRAP_M = 66 * FOOT_M
NEAR_THE_LINE = 0.9
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
    """Read the name of a measure, such as `0-60 mph`, `60-90 mph`, `100-0 km/h` or `1/4 mile`.

    Parameters
    ----------
    name : str

    Returns
    -------
    Measure

    Raises
    ------
    ValueError
        For any other text; its text is a sentence.

    Examples
    --------
    >>> parse_measure("0-60 mph").from_rest
    True
    """
    if name in DISTANCES_M:
        return Measure(name, "distance", to_m=DISTANCES_M[name])
    match = INTERVAL.fullmatch(name)
    if not match or float(match[1]) == float(match[2]) or (float(match[2]) < float(match[1]) and float(match[2]) != 0):
        raise ValueError(f"no such measure: {name[:40]!r}; name one like 0-60 mph, 60-90 mph, 100-0 km/h or 1/4 mile")
    low, high = (speed_mps(float(match[part]), match[3]) for part in (1, 2))
    return Measure(name, "stop" if high < low else "speed", low, high)


STANDARD_MEASURES = tuple(parse_measure(name) for name in (*SPEED_INTERVALS, *DISTANCES_M, *STOP_INTERVALS))


def time_on(curve: Curve, measure: Measure, clock: Clock) -> float | None:
    """Time a measure on the curve of a pull.

    A line that is a little beyond the curve's end, by less than a tenth of the distance, is reached at the last speed.

    Parameters
    ----------
    curve : Curve
    measure : Measure
    clock : {"first_movement", "rollout", "speed"}

    Returns
    -------
    float or None
        Seconds on that clock; None where the curve does not reach the measure's beginning or end.
    """
    end_s = _line_s(curve, measure.to_m) if measure.to_m else crossing(measure.to_mps, curve.speed_mps, curve.since_s)
    begun_s = zero_s(curve, clock, measure.from_mps)
    return None if end_s is None or begun_s is None else end_s - begun_s


def _line_s(curve: Curve, line_m: float) -> float | None:
    end_m = float(curve.distance_m[-1])
    if end_m >= line_m:
        return crossing(line_m, curve.distance_m, curve.since_s)
    beyond_s = (line_m - end_m) / float(curve.speed_mps[-1])
    return float(curve.since_s[-1]) + beyond_s if end_m > NEAR_THE_LINE * line_m else None

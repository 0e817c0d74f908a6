"""What kind of difference it is, by where between equal speeds it arises: launch, power or top end.

A gain that is there once the car no longer pulls at its full grip, and stays, is of the launch. One that keeps growing
is of power: each band gains in proportion to the time spent in it. One that only grows far up is of the top end.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from coombe_core.comparing.breakdown import Band
from coombe_core.units import FOOT_M, KMH_MPS

Name = Literal["launch", "power", "top end", "mixed"]
LAUNCH_LEAST_MPS = 40 * KMH_MPS
LAUNCH_MOST_MPS = 100 * KMH_MPS
TOP_END_FROM_MPS = 130 * KMH_MPS
LAUNCH_TO_M = 330 * FOOT_M  # about where a quick car passes 60 mph
MOST_OF_IT = 0.6
PLATEAU = 0.85  # of the hardest pull: below it power limits the car, no longer grip
STEEPER = 2.0  # a top-end gain takes this much more of the time spent there than lower down


@dataclass(frozen=True)
class Character:
    """The kind of a difference; `until` is where the launch ended: a speed (m/s) or, `by_distance`, a distance (m)."""

    name: Name
    until: float
    by_distance: bool


def character(parts: Sequence[Band]) -> Character | None:
    """Say of what kind a difference is, by where it arises; None without bands or without a difference."""
    whole = sum(band.difference_s for band in parts)
    if not parts or whole == 0:
        return None
    by_distance = parts[0].basis == "distance"
    until = LAUNCH_TO_M if by_distance else launch_until_mps(parts)
    launch = sum(band.difference_s for band in parts if (band.start + band.end) / 2 < until)
    name = _name(parts, launch / whole, until, by_distance)
    return Character(name, until, by_distance)


def _name(parts: Sequence[Band], launch_share: float, until: float, by_distance: bool) -> Name:
    if launch_share >= MOST_OF_IT:
        return "launch"
    if launch_share > 1 - MOST_OF_IT:
        return "mixed"
    return "power" if by_distance or not _far_up(parts, until) else "top end"


def _far_up(parts: Sequence[Band], until: float) -> bool:
    """Whether the time spent far up gained much more than its share of what was gained after the launch."""
    above = [band for band in parts if (band.start + band.end) / 2 > max(TOP_END_FROM_MPS, until)]
    between = [band for band in parts if until <= (band.start + band.end) / 2 <= max(TOP_END_FROM_MPS, until)]
    times = [sum(band.before_s for band in each) for each in (above, between)]
    gains = [sum(band.difference_s for band in each) for each in (above, between)]
    if not all(times):
        return False
    rest = sum(gains)
    return gains[0] / rest > STEEPER * times[0] / (STEEPER * times[0] + times[1]) if rest else False


def launch_until_mps(parts: Sequence[Band]) -> float:
    """Find the speed up to which the first group still pulls at nearly its hardest, 40 to 100 km/h; 0 for a roll-on."""
    if parts[0].start > LAUNCH_LEAST_MPS:
        return 0.0
    pulls = [(band.end - band.start) / band.before_s if band.before_s > 0 else 0.0 for band in parts]
    until = LAUNCH_LEAST_MPS
    for band, pull in list(zip(parts, pulls, strict=True))[1:]:  # the first band holds the torque ramp
        if pull < PLATEAU * max(pulls[1:]):
            break
        until = max(until, band.end)
    return min(until, LAUNCH_MOST_MPS)

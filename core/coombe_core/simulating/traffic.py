"""Ordinary driving, hours of it at once: lights, joins, overtakes, queues and firm stops, none of them a test."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

import numpy as np
from numpy.typing import NDArray

from coombe_core.trace import COLUMNS, Trace

Floats = NDArray[np.float64]
HOUR_S = 3600.0


@dataclass(frozen=True)
class Maneuver:
    """A change to a speed at a pace that is taken up over `rise_s` and eased before the end, then held for a time.

    `eased` is by how much the pace falls towards the speed that is wanted.
    """

    to_mps: float
    pace_mps2: float
    rise_s: float
    eased: float
    held_s: float


def ordinary_driving(hours: float, rate_hz: float, seed: int | Sequence[int], noise_mps: float = 0.05) -> Trace:
    """Drive in traffic.

    Parameters
    ----------
    hours : float
    rate_hz : float
        Fixes a second.
    seed : int, or several
        What is driven and the noise are drawn from it.
    noise_mps : float
        Of the speed, 1 sigma.

    Returns
    -------
    Trace
        Speeds alone; every other column is nan.
    """
    draw = np.random.default_rng(seed)
    size = int(hours * HOUR_S * rate_hz)
    speeds = np.zeros(size)
    at, speed = 0, 0.0
    while at < size:
        for maneuver in _scene(draw, speed):
            for next_mps in _driven(maneuver, speed, 1.0 / rate_hz):
                if at == size:
                    break
                speed = speeds[at] = next_mps
                at += 1
    noisy = np.maximum(speeds + draw.normal(scale=noise_mps, size=size), 0.0)
    nothing = np.full(size, np.nan)
    columns = dict.fromkeys(COLUMNS, nothing) | {"elapsed_s": np.arange(size) / rate_hz, "speed_mps": noisy}
    return Trace(start_utc=datetime(2026, 5, 9, 9, 0, tzinfo=UTC), **columns)


def _scene(draw: np.random.Generator, speed_mps: float) -> list[Maneuver]:
    """What comes next on the road."""
    kind = draw.choice(["lights", "queue", "join", "overtake", "town"], p=[0.3, 0.2, 0.2, 0.15, 0.15])
    hold = draw.uniform(2, 15)
    stop = Maneuver(0.0, draw.uniform(1.2, 5.2), draw.uniform(0.2, 1.0), draw.uniform(0.0, 0.7), draw.uniform(1, 20))
    if kind == "lights":
        return [_to(draw, draw.uniform(8, 20), draw.uniform(1.0, 3.4), hold), stop]
    if kind == "queue":
        return [_to(draw, draw.uniform(1, 5), draw.uniform(0.4, 1.5), draw.uniform(1, 5)), stop] * 3
    if kind == "join":
        slow = _to(draw, draw.uniform(8, 18), 1.8, draw.uniform(1.5, 6))
        return [slow, _to(draw, draw.uniform(25, 34), draw.uniform(2.0, 4.2), hold), _to(draw, 18, 1.5, 3)]
    if kind == "overtake":
        behind = _to(draw, draw.uniform(18, 24), 1.6, draw.uniform(3, 10))
        return [behind, _to(draw, draw.uniform(28, 36), draw.uniform(2.0, 4.2), draw.uniform(0.5, 4)), behind]
    return [_to(draw, float(np.clip(speed_mps + draw.normal(0, 4), 3, 20)), draw.uniform(0.5, 2.0), hold)]


def _to(draw: np.random.Generator, to_mps: float, pace_mps2: float, held_s: float) -> Maneuver:
    return Maneuver(to_mps, pace_mps2, draw.uniform(0.25, 1.5), draw.uniform(0.0, 0.8), held_s)


def _driven(maneuver: Maneuver, from_mps: float, step_s: float) -> Iterator[float]:
    """The speeds of a maneuver, step by step."""
    speed, since_s, gap = from_mps, 0.0, abs(maneuver.to_mps - from_mps)
    while abs(maneuver.to_mps - speed) > 1e-6:
        since_s += step_s
        left = abs(maneuver.to_mps - speed) / gap
        pace = maneuver.pace_mps2 * min(since_s / maneuver.rise_s, 1.0) * (1.0 - maneuver.eased * (1.0 - left))
        change = min(max(pace, 0.1) * step_s, abs(maneuver.to_mps - speed))
        speed += change if maneuver.to_mps > speed else -change
        yield speed
    for _ in range(int(maneuver.held_s / step_s)):
        yield speed

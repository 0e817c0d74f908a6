"""A simulated drive round a figure-eight of two circles, as a receiver sees it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from datetime import datetime

import numpy as np
from numpy.typing import NDArray

from coombe_core.simulating.receiver import meters_per_degree
from coombe_core.trace import Trace

Floats = NDArray[np.float64]
STEP_S = 0.01
PACE_MPS2 = 2.0
LEAD_M = 40.0  # straight before the first circle, and past the last


def figure_eight(
    speeds_mps: Sequence[float],
    radius_m: float,
    start_utc: datetime,
    rate_hz: float = 10.0,
    latitude_deg: float = 51.31,
    longitude_deg: float = -3.02,
    seed: int = 1,
) -> Trace:
    """The trace of one lap at each of some speeds: a circle to the right, then one to the left, from rest to rest."""
    lap_m = 4 * math.pi * radius_m
    end_m = LEAD_M + lap_m * len(speeds_mps)
    east, north, heading, speed, way = 0.0, 0.0, 0.0, 0.0, 0.0
    rows: list[tuple[float, float, float, float]] = [(0.0, 0.0, 0.0, 0.0)] * 200  # two seconds at rest
    while way < end_m + LEAD_M:
        lap = int(min(max(way - LEAD_M, 0.0) // lap_m, len(speeds_mps) - 1))
        ahead_m = end_m + LEAD_M - way
        wanted = min(speeds_mps[lap], math.sqrt(2 * PACE_MPS2 * max(ahead_m, 0.05)))
        speed += max(min(wanted - speed, PACE_MPS2 * STEP_S), -PACE_MPS2 * STEP_S)
        circling = LEAD_M <= way < end_m
        right = (way - LEAD_M) % lap_m < lap_m / 2
        heading += (1.0 if right else -1.0) * speed / radius_m * STEP_S if circling else 0.0
        east, north = east + speed * math.sin(heading) * STEP_S, north + speed * math.cos(heading) * STEP_S
        way += max(speed, 0.05) * STEP_S
        rows.append((east, north, math.degrees(heading) % 360.0, speed))
    return _received(
        np.array(rows)[:: round(1 / rate_hz / STEP_S)], start_utc, rate_hz, (latitude_deg, longitude_deg), seed
    )


def _received(rows: Floats, start_utc: datetime, rate_hz: float, place: tuple[float, float], seed: int) -> Trace:
    draw = np.random.default_rng(seed)
    count = len(rows)
    north_m, east_m = meters_per_degree(place[0])
    wander = np.cumsum(draw.normal(0.0, 0.01, (2, count)), axis=1)
    unknown = np.full(count, np.nan)
    return Trace(
        start_utc=start_utc,
        elapsed_s=np.arange(count) / rate_hz,
        speed_mps=np.maximum(rows[:, 3] + draw.normal(0.0, 0.05, count), 0.0),
        latitude_deg=place[0] + (rows[:, 1] + wander[0]) / north_m,
        longitude_deg=place[1] + (rows[:, 0] + wander[1]) / east_m,
        course_deg=(rows[:, 2] + draw.normal(0.0, 0.3, count)) % 360.0,
        altitude_m=np.full(count, 120.0),
        satellites=np.full(count, 17.0),
        hdop=np.full(count, 0.7),
        climb_mps=unknown,
        speed_accuracy_mps=unknown,
        fix_quality=np.full(count, 4.0),
    )

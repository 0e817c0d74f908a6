"""A simulated receiver: samples the true motion and adds noise."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from itertools import accumulate

import numpy as np
from numpy.typing import NDArray

from coombe_core.simulating.car import STEP_S
from coombe_core.simulating.drive import Motion
from coombe_core.trace import Trace
from coombe_core.units import STANDARD_GRAVITY_MPS2

Floats = NDArray[np.float64]
MOVING_MPS = 3.0  # faults of single fixes are simulated above this speed
SPIKE_MPS = 8.0


@dataclass(frozen=True)
class Receiver:
    """Rate, speed noise (1 sigma, with its lag-1 correlation at 25 Hz) and where and when the log begins.

    What receivers do beyond that: hold zero below `held_below_mps`; smooth the true speed over `filter_s`, the time
    constant of a first-order low-pass; make more noise, by `noise_by_g` of it for every g of acceleration; and make
    `burst_factor` times the noise in bursts, about `bursts_per_minute` of them, each 0.3 to 1 s long. `step_mps` is
    what speeds are rounded to. `zero_fixes` are single ones in motion that say zero, `spikes` single ones far off.
    """

    rate_hz: float = 25.0
    speed_noise_mps: float = 0.05
    correlation_at_25_hz: float = 0.3
    altitude_noise_m: float = 0.15
    latitude_deg: float = 51.0
    longitude_deg: float = -2.0
    start_utc: datetime = datetime(2026, 5, 9, 9, 0, tzinfo=UTC)
    phase_s: float = 0.0
    held_below_mps: float = 0.0
    filter_s: float = 0.0
    noise_by_g: float = 0.0
    bursts_per_minute: float = 0.0
    burst_factor: float = 4.0
    step_mps: float = 0.0
    zero_fixes: int = 0
    spikes: int = 0


def receive(motion: Motion, receiver: Receiver, seed: int) -> Trace:
    """The trace of a motion, with noise drawn from the seed; speeds under zero are held at zero, as receivers do."""
    draw = np.random.default_rng(seed)
    elapsed_s = np.arange(receiver.phase_s, motion.elapsed_s[-1], 1.0 / receiver.rate_hz)
    true_mps = np.interp(elapsed_s, motion.elapsed_s, motion.speed_mps)
    step = receiver.correlation_at_25_hz ** (25.0 / receiver.rate_hz)
    noise = receiver.speed_noise_mps * _correlated(draw, elapsed_s.size, step)
    drift = np.exp(-1.0 / (receiver.rate_hz * 60.0))
    east_m, north_m = _track(motion)
    east = np.interp(elapsed_s, motion.elapsed_s, east_m) + 0.3 * _correlated(draw, elapsed_s.size, drift)
    north = np.interp(elapsed_s, motion.elapsed_s, north_m) + 0.3 * _correlated(draw, elapsed_s.size, drift)
    height = np.interp(elapsed_s, motion.elapsed_s, motion.altitude_m)
    height += receiver.altitude_noise_m * _correlated(draw, elapsed_s.size, np.exp(-1.0 / (receiver.rate_hz * 10.0)))
    heading = np.interp(elapsed_s, motion.elapsed_s, motion.heading_deg)
    heading = (heading + draw.normal(size=elapsed_s.size) * 5.0 / np.maximum(true_mps, 0.1)) % 360.0
    north_m_per_deg, east_m_per_deg = meters_per_degree(receiver.latitude_deg)
    speed = _as_logged(motion, receiver, elapsed_s, noise, np.random.default_rng([seed, 1]))
    return Trace(
        start_utc=receiver.start_utc,
        elapsed_s=np.round(elapsed_s - elapsed_s[0], 6),
        speed_mps=speed,
        latitude_deg=receiver.latitude_deg + north / north_m_per_deg,
        longitude_deg=receiver.longitude_deg + east / east_m_per_deg,
        course_deg=heading,
        altitude_m=height,
        satellites=np.full(elapsed_s.size, 17.0),
        hdop=np.full(elapsed_s.size, 0.7),
        climb_mps=np.full(elapsed_s.size, np.nan),
        speed_accuracy_mps=np.full(elapsed_s.size, np.nan),
        fix_quality=np.full(elapsed_s.size, 4.0),
    )


def _as_logged(
    motion: Motion, receiver: Receiver, elapsed_s: Floats, noise_mps: Floats, draw: np.random.Generator
) -> Floats:
    """Speeds as the receiver writes them; it draws where its faults are from a source of its own."""
    speed = np.interp(elapsed_s, motion.elapsed_s, _smoothed(motion, receiver.filter_s))
    speed = speed + noise_mps * _noise_factor(motion, receiver, elapsed_s, draw)
    moving = np.flatnonzero(speed > MOVING_MPS)
    for number in range(min(receiver.zero_fixes + receiver.spikes, moving.size)):
        speed[draw.choice(moving)] += draw.choice([-1, 1]) * SPIKE_MPS if number >= receiver.zero_fixes else -np.inf
    speed = np.where(speed < receiver.held_below_mps, 0.0, np.maximum(speed, 0.0))
    return np.round(speed / receiver.step_mps) * receiver.step_mps if receiver.step_mps else speed


def _smoothed(motion: Motion, filter_s: float) -> Floats:
    """The true speed behind a first-order low-pass filter."""
    if not filter_s:
        return motion.speed_mps
    from scipy.signal import lfilter

    kept = float(np.exp(-STEP_S / filter_s))
    return np.asarray(lfilter([1.0 - kept], [1.0, -kept], motion.speed_mps))


def _noise_factor(motion: Motion, receiver: Receiver, elapsed_s: Floats, draw: np.random.Generator) -> Floats:
    """By what the noise of each fix is multiplied."""
    factor = np.ones(elapsed_s.size)
    if receiver.noise_by_g:
        pull_mps2 = np.abs(np.gradient(np.interp(elapsed_s, motion.elapsed_s, motion.speed_mps), elapsed_s))
        factor += receiver.noise_by_g * pull_mps2 / STANDARD_GRAVITY_MPS2
    for _ in range(draw.poisson(receiver.bursts_per_minute * float(np.ptp(elapsed_s)) / 60.0)):
        begun_s = draw.uniform(elapsed_s[0], elapsed_s[-1])
        factor[(elapsed_s >= begun_s) & (elapsed_s < begun_s + draw.uniform(0.3, 1.0))] = receiver.burst_factor
    return factor


def meters_per_degree(latitude_deg: float) -> tuple[float, float]:
    """How far a degree of latitude and of longitude reaches on the WGS 84 ellipsoid, near one latitude."""
    from pyproj import Geod

    step_deg = 0.01
    earth = Geod(ellps="WGS84")
    _, _, north = earth.inv(0.0, latitude_deg - step_deg / 2, 0.0, latitude_deg + step_deg / 2)
    _, _, east = earth.inv(0.0, latitude_deg, step_deg, latitude_deg)
    return float(north) / step_deg, float(east) / step_deg


def _correlated(draw: np.random.Generator, size: int, link: float) -> Floats:
    """First-order autoregressive noise of unit variance."""
    fresh = draw.normal(size=size)
    fresh[1:] *= np.sqrt(1.0 - link**2)
    return np.fromiter(accumulate(fresh.tolist(), lambda before, own: own + link * before), np.float64, size)


def _track(motion: Motion) -> tuple[Floats, Floats]:
    steps_m = np.diff(motion.distance_m, prepend=0.0)
    angle = np.radians(motion.heading_deg)
    return np.cumsum(steps_m * np.sin(angle)), np.cumsum(steps_m * np.cos(angle))

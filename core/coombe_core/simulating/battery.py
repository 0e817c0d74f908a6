"""A simulated battery that warms, cools, charges and is used: what a tester would record of it, with its scatter.

The true parameters vary from one occasion to the next, readings are noisy and rounded, and the air outside drifts.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.physics.battery.charge import ChargeCurve, ChargingInterval
from coombe_core.physics.battery.heat import HeatInterval, HeatKind

Floats = NDArray[np.float64]
STEP_MIN = 0.25


@dataclass(frozen=True)
class SimulatedBattery:
    """A battery's true parameters; `spread` is their relative scatter from one occasion to the next."""

    time_constant_min: float = 210.0
    heating_k_per_min: float = 0.55
    charge_share: float = 0.91
    charge_per_run_percent: float = 0.9
    spread: float = 0.06
    noise_k: float = 0.2
    resolution_k: float = 0.5


def temperature_interval(
    battery: SimulatedBattery,
    kind: HeatKind,
    start_c: float,
    outside_c: float,
    minutes: float,
    draw: np.random.Generator,
) -> HeatInterval:
    """An interval of rest or heating, stepped by Euler's rule every 15 s and read every ten minutes."""
    loss = 1.0 / battery.time_constant_min * _varied(battery, draw)
    rate = battery.heating_k_per_min * _varied(battery, draw) if kind == "heating" else 0.0
    drift = draw.normal(0.0, 0.01)
    at = np.arange(0.0, minutes + STEP_MIN / 2, STEP_MIN)
    outside = outside_c + drift * at
    temps = np.empty(at.size)
    temps[0] = start_c
    for i in range(at.size - 1):
        temps[i + 1] = temps[i] + STEP_MIN * (rate - (temps[i] - outside[i]) * loss)
    read = slice(None, None, int(10 / STEP_MIN))
    noisy = temps[read] + draw.normal(0.0, battery.noise_k, temps[read].size)
    rounded = np.round(noisy / battery.resolution_k) * battery.resolution_k
    return HeatInterval(kind, at[read], rounded, np.round(outside[read], 1))


def charge_interval(
    battery: SimulatedBattery,
    curve: ChargeCurve,
    start_percent: float,
    charger_kw: float,
    minutes: float,
    draw: np.random.Generator,
) -> ChargingInterval:
    """A time at a charger, read in whole points every ten minutes."""
    share = battery.charge_share * _varied(battery, draw)
    lossless_min, percent = curve.schedule(start_percent, charger_kw)
    at = np.arange(0.0, minutes + 1e-9, 10.0)
    return ChargingInterval(charger_kw, at, np.round(np.interp(at * share, lossless_min, percent)))


def charges_of_day(
    battery: SimulatedBattery, start_percent: float, runs: int, draw: np.random.Generator
) -> list[float]:
    """The charge before each run of a day, in whole points."""
    costs = battery.charge_per_run_percent * _varied(battery, draw) * draw.normal(1.0, 0.1, runs - 1)
    return [float(round(charge)) for charge in start_percent - np.concatenate([[0.0], np.cumsum(costs)])]


def _varied(battery: SimulatedBattery, draw: np.random.Generator) -> float:
    return float(draw.normal(1.0, battery.spread))

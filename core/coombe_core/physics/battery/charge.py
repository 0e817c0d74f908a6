"""Charging: how long from one charge to another on a charge curve, beside what heating and climate draw."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.learned import Learned, assumed, combined

Floats = NDArray[np.float64]
CURVE_PERCENT = (0.0, 10.0, 50.0, 80.0, 90.0, 100.0)
CURVE_SHARE = (0.9, 1.0, 0.75, 0.4, 0.22, 0.08)
ASSUMED_PEAK_PER_KWH = 2.0  # kW of the battery's best charging power a kWh of battery
ASSUMED_SHARE = (0.9, 0.16)
SPREAD_BETWEEN_DAYS = 0.05
STEP_PERCENT = 0.25


@dataclass(frozen=True, eq=False)
class ChargingInterval:
    """A time at a charger of known power: minutes and charge (%) of its readings."""

    charger_kw: float
    minutes: Floats
    charge_percent: Floats


@dataclass(frozen=True)
class ChargeCurve:
    """What a battery takes: power (kW) against charge (%), the battery's size (kWh), and the share that arrives in it.

    Where no curve was stated, a lithium-ion battery's usual shape is scaled to its size, and says so by `assumed`.
    """

    battery_kwh: float
    percent: tuple[float, ...]
    power_kw: tuple[float, ...]
    share: Learned
    assumed: bool

    @classmethod
    def of(
        cls, battery_kwh: float, points: Sequence[tuple[float, float]] = (), share: Learned | None = None
    ) -> ChargeCurve:
        """From stated points (charge %, kW), else of the usual shape."""
        stated = share or assumed(*ASSUMED_SHARE, "charging")
        if points:
            percent, power = zip(*sorted(points), strict=True)
            return cls(battery_kwh, tuple(percent), tuple(power), stated, False)
        peak = ASSUMED_PEAK_PER_KWH * battery_kwh
        return cls(battery_kwh, CURVE_PERCENT, tuple(peak * part for part in CURVE_SHARE), stated, True)

    def power_at(self, charge_percent: Floats, charger_kw: float) -> Floats:
        """Power (kW) before losses: the curve's or the charger's, whichever is less."""
        return np.minimum(np.interp(charge_percent, self.percent, self.power_kw), charger_kw)

    def schedule(self, from_percent: float, charger_kw: float) -> tuple[Floats, Floats]:
        """Minutes at a charger, were nothing lost, and the charge (%) that they bring, up to full."""
        percent = np.append(np.arange(from_percent, 100.0, STEP_PERCENT), 100.0)
        power = self.power_at((percent[1:] + percent[:-1]) / 2, charger_kw)
        with np.errstate(divide="ignore"):
            taken = np.diff(percent) / 100.0 * self.battery_kwh / power * 60.0
        return np.concatenate([[0.0], np.cumsum(taken)]), percent

    def minutes(self, from_percent: float, to_percent: float, charger_kw: float) -> float:
        """Minutes to charge, with the share as learned; inf where the charger gives nothing."""
        minutes, percent = self.schedule(from_percent, charger_kw)
        return float(np.interp(to_percent, percent, minutes)) / self.share.value


def learn_share(intervals: Sequence[ChargingInterval], curve: ChargeCurve) -> Learned:
    """Learn the share of the stated power that arrives as charge.

    Parameters
    ----------
    intervals : sequence of ChargingInterval
    curve : ChargeCurve
        What the battery takes.

    Returns
    -------
    Learned
        The slope of what arrived on what was stated.
    """
    estimates = [
        _share_of(interval, curve)
        for interval in intervals
        if interval.minutes.size >= 3 and np.ptp(interval.charge_percent) >= 3
    ]
    if not estimates:
        return curve.share
    return combined(estimates, SPREAD_BETWEEN_DAYS, "charging")


def _share_of(interval: ChargingInterval, curve: ChargeCurve) -> tuple[float, float]:
    """Least squares of charge on the charge that the stated power would have brought, with a first charge."""
    power = curve.power_at(interval.charge_percent, interval.charger_kw)
    steps = np.diff(interval.minutes) / 60.0 * (power[1:] + power[:-1]) / 2
    stated = np.concatenate([[0.0], np.cumsum(steps)]) / curve.battery_kwh * 100.0
    design = np.column_stack([np.ones(stated.size), stated])
    solution, *_ = np.linalg.lstsq(design, interval.charge_percent, rcond=None)
    left = interval.charge_percent - design @ solution
    step = min_step(interval.charge_percent)
    variance = max(float(left @ left) / max(left.size - 2, 1), step**2 / 12.0)
    return float(solution[1]), float(np.linalg.pinv(design.T @ design)[1, 1] * variance)


def min_step(charge_percent: Floats) -> float:
    """The resolution of charge readings: whole points unless tenths were written."""
    return 0.1 if np.any(np.abs(charge_percent - np.round(charge_percent)) > 0.01) else 1.0

"""How a battery warms and cools: one lumped mass, learned from battery temperatures that were logged.

dT/dt = rate - (T - outside) / tau, with tau the time constant (min) and rate the heating rate (K/min). Without
heating it is Newton's law of cooling; both have closed forms (Incropera & DeWitt, Fundamentals of Heat and Mass
Transfer, lumped-capacitance method). The battery's heat capacity is not needed for any of this.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from coombe_core.learned import Bounded, Learned, assumed, combined
from coombe_core.uncertainty import COVERAGE_95

Floats = NDArray[np.float64]
HeatKind = Literal["resting", "heating"]
RESOLUTION_K = 0.5  # what a dashboard or CAN tells a battery temperature to, at best
LEAST_DEPARTURE_K = 3.0  # a battery nearer to the air than this says nothing about its time constant
SPREAD_BETWEEN_DAYS = 0.12
ASSUMED_LOSS_PER_MIN = (1 / 240, 0.9 / 240)
ASSUMED_RATE_K_PER_MIN = (0.5, 0.35)


@dataclass(frozen=True, eq=False)
class HeatInterval:
    """A time over which a car rested, or was heated: minutes, battery and outside temperatures of its readings."""

    kind: HeatKind
    minutes: Floats
    battery_temp_c: Floats
    outside_temp_c: Floats


@dataclass(frozen=True)
class BatteryHeat:
    """What is known of how a car's battery warms and cools: the share of its excess lost a minute, and its heating."""

    loss_per_min: Learned
    heating_k_per_min: Learned

    @property
    def time_constant_min(self) -> Bounded:
        """One over the loss; its interval is not symmetric, and open where no loss can't be ruled out."""
        loss = self.loss_per_min
        low = loss.value - loss.u95
        return Bounded(1.0 / loss.value, 1.0 / (loss.value + loss.u95), 1.0 / low if low > 0 else math.inf)


def learn_heat(intervals: Sequence[HeatInterval]) -> BatteryHeat:
    """Learn loss from intervals at rest and the heating rate from heated ones; defaults where nothing was logged."""
    loss = learn_loss([interval for interval in intervals if interval.kind == "resting"])
    return BatteryHeat(loss, learn_rate([interval for interval in intervals if interval.kind == "heating"], loss))


def learn_loss(intervals: Sequence[HeatInterval]) -> Learned:
    """Learn one over the time constant, in 1/min, from intervals at rest."""
    estimates = [_loss_of(interval) for interval in intervals if _tells(interval)]
    if estimates:
        loss = combined(estimates, SPREAD_BETWEEN_DAYS, "rest")
        if loss.value > 0:
            return loss
    return assumed(*ASSUMED_LOSS_PER_MIN, "rest")


def _tells(interval: HeatInterval) -> bool:
    return interval.minutes.size >= 3 and bool(
        np.abs(interval.battery_temp_c - interval.outside_temp_c).max() >= LEAST_DEPARTURE_K
    )


def _loss_of(interval: HeatInterval) -> tuple[float, float]:
    """One interval's 1 / tau (1/min) and its variance, by least squares over it and the first temperature."""
    from scipy import optimize

    hours = float(np.ptp(interval.minutes)) / 60.0

    def residuals(parameters: Floats) -> Floats:
        first, _, steady = _bases(interval, float(parameters[0]))
        return np.asarray(parameters[1] * first + steady - interval.battery_temp_c)

    fit = optimize.least_squares(
        residuals, [0.3 / (60.0 * max(hours, 0.1)), interval.battery_temp_c[0]], x_scale=[1e-3, 1.0]
    )
    jacobian = np.asarray(fit.jac)
    covariance = np.linalg.pinv(jacobian.T @ jacobian) * _variance(fit.fun, 2)
    return float(fit.x[0]), float(covariance[0, 0])


def learn_rate(intervals: Sequence[HeatInterval], loss: Learned) -> Learned:
    """Learn the heating rate before losses.

    Parameters
    ----------
    intervals : sequence of HeatInterval
        Heated ones.
    loss : Learned
        1/min; what is not known of it is an error that all intervals share.

    Returns
    -------
    Learned
        K/min.
    """
    used = [interval for interval in intervals if interval.minutes.size >= 3]
    estimates = [_rate_of(interval, loss.value) for interval in used]
    if not estimates or np.median([rate for rate, _ in estimates]) <= 0:
        return assumed(*ASSUMED_RATE_K_PER_MIN, "heating")
    step = 0.01 * loss.value
    slopes = [
        (_rate_of(interval, loss.value + step)[0] - rate) / step
        for interval, (rate, _) in zip(used, estimates, strict=True)
    ]
    shared = (float(np.mean(slopes)) * loss.u95 / COVERAGE_95) ** 2
    return combined(estimates, SPREAD_BETWEEN_DAYS, "heating", shared)


def _rate_of(interval: HeatInterval, loss_per_min: float) -> tuple[float, float]:
    first, heated, steady = _bases(interval, loss_per_min)
    design = np.column_stack([first, heated])
    solution, *_ = np.linalg.lstsq(design, interval.battery_temp_c - steady, rcond=None)
    left = interval.battery_temp_c - steady - design @ solution
    covariance = np.linalg.pinv(design.T @ design) * _variance(left, 2)
    return float(solution[1]), float(covariance[1, 1])


def _variance(residuals: Floats, parameters: int) -> float:
    """Of one reading; never below what the resolution of the readings leaves (GUM, JCGM 100:2008, F.2.2.1)."""
    dof = max(residuals.size - parameters, 1)
    return max(float(residuals @ residuals) / dof, RESOLUTION_K**2 / 12.0)


def _bases(interval: HeatInterval, loss_per_min: float) -> tuple[Floats, Floats, Floats]:
    """How every reading depends on the first temperature, on the heating rate, and on the air outside.

    The air between two readings is their mean; each step is the closed form.
    """
    since = interval.minutes - interval.minutes[0]
    kept = np.exp(-loss_per_min * since)
    heated = (1.0 - kept) / loss_per_min if loss_per_min != 0 else since
    air = (interval.outside_temp_c[1:] + interval.outside_temp_c[:-1]) / 2
    steady = kept * np.concatenate([[0.0], np.cumsum(air * np.diff(1.0 / kept))])
    return kept, heated, steady


def temperature_after(
    minutes: Floats | float,
    battery_temp_c: Floats | float,
    outside_temp_c: float,
    time_constant_min: Floats | float,
    heating_k_per_min: Floats | float = 0.0,
) -> Floats:
    """Calculate the battery temperature after some minutes at rest or under heating.

    Parameters
    ----------
    minutes : float or array
    battery_temp_c : float or array
        At the beginning.
    outside_temp_c : float
    time_constant_min : float or array
    heating_k_per_min : float or array
        0 at rest.

    Returns
    -------
    array of float
        Degrees C.

    References
    ----------
    Newton's law of cooling; Incropera & DeWitt, Fundamentals of Heat and Mass Transfer, lumped capacitance.

    Examples
    --------
    >>> round(float(temperature_after(69.3147, 50.0, 10.0, 100.0)), 2)
    30.0
    """
    kept = np.exp(-np.asarray(minutes) / time_constant_min)
    end = outside_temp_c + np.asarray(heating_k_per_min) * time_constant_min
    return np.asarray(end + (battery_temp_c - end) * kept)


def minutes_until(
    goal_temp_c: Floats | float,
    battery_temp_c: Floats | float,
    outside_temp_c: float,
    time_constant_min: Floats | float,
    heating_k_per_min: Floats | float = 0.0,
) -> Floats:
    """Calculate the minutes until a battery reaches a temperature, the inverse of `temperature_after`.

    Returns
    -------
    array of float
        inf where it never does, 0 where it is there already.
    """
    end = outside_temp_c + np.asarray(heating_k_per_min) * time_constant_min
    start, goal = np.asarray(battery_temp_c) - end, np.asarray(goal_temp_c) - end
    with np.errstate(divide="ignore", invalid="ignore"):
        minutes = np.asarray(time_constant_min) * np.log(start / goal)
    return np.asarray(np.where(start == goal, 0.0, np.where(np.isfinite(minutes) & (minutes >= 0), minutes, np.inf)))

"""What the runs cost in charge: learned from the log, how many are left inside the window, where a top-up falls."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from coombe_core.learned import Learned, assumed, combined
from coombe_core.physics.battery.charge import min_step

SPREAD = 0.15
MOST_KWH_A_RUN = 3.5  # a pull beyond 130 mph, with the stop and the way back
ASSUMED_BATTERY_KWH = 75.0
ASSUMED_KWH_A_RUN = 0.75  # a pull to 60 mph with the way back


CRUISING_KWH_A_KM, CRUISING_KMH = 0.2, 80.0  # of a usual car on open roads: common practice


@dataclass(frozen=True)
class DrivingDown:
    """What it takes to come down from one rung of a sweep to the next: energy, distance and time on open roads."""

    points: float
    energy_kwh: float
    distance_m: float
    minutes: float


def driving_down(points: float, battery_kwh: float | None = None) -> DrivingDown:
    """Work out the driving between two launches of a sweep.

    Parameters
    ----------
    points : float
        Of charge.
    battery_kwh : float, optional
        Size of the battery; a usual one where it is not stated.

    Returns
    -------
    DrivingDown

    Examples
    --------
    >>> driving_down(10.0, 80.0)
    DrivingDown(points=10.0, energy_kwh=8.0, distance_m=40000.0, minutes=30.0)
    """
    energy_kwh = points / 100.0 * (battery_kwh or ASSUMED_BATTERY_KWH)
    distance_km = energy_kwh / CRUISING_KWH_A_KM
    return DrivingDown(points, energy_kwh, 1000.0 * distance_km, 60.0 * distance_km / CRUISING_KMH)


def learn_charge_per_run(days: Sequence[Sequence[float]], battery_kwh: float | None = None) -> Learned:
    """Learn the charge that a run takes, the drive back included.

    A day with a top-up in it counts from one top-up to the next; one estimate per stretch: its whole drop over its
    runs. A stretch that cost more per run than runs can was driven down in between, as for a sweep, and is left out.

    Parameters
    ----------
    days : sequence of sequences of float
        Charge (%) before each run of each day, in order.
    battery_kwh : float, optional
        Size of the battery.

    Returns
    -------
    Learned
        Points of charge per run.
    """
    most = 100.0 * MOST_KWH_A_RUN / (battery_kwh or ASSUMED_BATTERY_KWH)
    costs = [cost for day in days for stretch in _stretches(day) if (cost := _cost_of(stretch)) and cost[0] <= most]
    if not costs:
        points = 100.0 * ASSUMED_KWH_A_RUN / battery_kwh if battery_kwh else 1.0
        return assumed(points, 0.5 * points, "runs")
    return combined(costs, SPREAD, "runs")


def _stretches(charges: Sequence[float]) -> list[list[float]]:
    found: list[list[float]] = [[]]
    for charge in charges:
        if found[-1] and charge > found[-1][-1]:
            found.append([])
        found[-1].append(charge)
    return found


def _cost_of(charges: list[float]) -> tuple[float, float] | None:
    """Drop a run and its variance: the readings at both ends are rounded (GUM, JCGM 100:2008, F.2.2.1).

    None where nothing fell: one charge was recorded for all of the runs.
    """
    runs = len(charges) - 1
    if runs < 1 or charges[0] <= charges[-1]:
        return None
    step = min_step(np.asarray(charges))
    return (charges[0] - charges[-1]) / runs, step**2 / 6.0 / runs**2


@dataclass(frozen=True)
class RunsLeft:
    """How many runs the charge allows: sure, likely and at the best."""

    sure: int
    likely: int
    at_best: int


def runs_left(charge_percent: float, low_percent: float, cost: Learned) -> RunsLeft:
    """Count the runs that can begin before the charge falls below the window's lower edge.

    Parameters
    ----------
    charge_percent, low_percent : float
    cost : Learned
        Points per run.

    Returns
    -------
    RunsLeft

    Examples
    --------
    >>> runs_left(95, 90, Learned(1.0, 0.1, 0.0, 3, "runs")).likely
    6
    """
    room = charge_percent - low_percent
    if room < 0:
        return RunsLeft(0, 0, 0)
    dear, cheap = cost.value + cost.u95, max(cost.value - cost.u95, 0.1 * cost.value)
    sure, likely, best = (math.floor(room / each + 1e-9) + 1 for each in (dear, cost.value, cheap))
    return RunsLeft(sure, likely, best)


@dataclass(frozen=True)
class TopUp:
    """Charging between two runs: after which run (counted from 1), from and to which charge."""

    after_run: int
    from_percent: float
    to_percent: float


def top_ups(runs: int, charge_percent: float, low_percent: float, high_percent: float, cost: Learned) -> list[TopUp]:
    """Place charging so that every run begins inside the window; the high end of the cost counts.

    Parameters
    ----------
    runs : int
    charge_percent, low_percent, high_percent : float
    cost : Learned
        Points per run.

    Returns
    -------
    list of TopUp

    Raises
    ------
    ValueError
        Where the window's ends are the wrong way round.
    """
    dear = cost.value + cost.u95
    if high_percent < low_percent:
        raise ValueError(f"the window's upper charge, {high_percent:g} %, is below its lower, {low_percent:g} %")
    planned: list[TopUp] = []
    charge = charge_percent
    for run in range(1, runs + 1):
        if charge < low_percent:
            planned.append(TopUp(run - 1, charge, high_percent))
            charge = high_percent
        charge -= dear
    return planned

"""How much a measure changes with charge, heat, slope, air and wind: learned, worked out, or assumed, and how surely.

Charge and battery temperature are learned from how the car's own runs vary within a day of a setup (most from a sweep).
Slope, air density and wind follow from the motion of a run. What neither shows has a stated default, which serves to
say how much a difference could account for, never to take it out.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from coombe_core.comparing.factors import BATTERY, BRAKES, CHARGE, DENSITY, LEARNED, LOAD, SLOPE, WIND, Factor
from coombe_core.comparing.factors import known as numbers
from coombe_core.comparing.state import State
from coombe_core.comparing.statistics.scatter import ASSUMED_DRIFT_SHARE, Scatter, own_scatter
from coombe_core.curve import Curve
from coombe_core.physics.air import STANDARD_DENSITY_KG_M3
from coombe_core.physics.road_load import RoadLoad
from coombe_core.timing.clocks import Clock
from coombe_core.timing.corrections import time_of
from coombe_core.timing.measures import Measure
from coombe_core.uncertainty import COVERAGE_95

Floats = NDArray[np.float64]
Source = Literal["learned", "physics", "assumed"]
LEAST_SPREAD = {CHARGE.name: 8.0, BATTERY.name: 6.0, BRAKES.name: 80.0}
LEAST_DOF = 3
ASSUMED_SHARES = {CHARGE.name: -0.0010, BATTERY.name: -0.0020}  # of a time, a point and a kelvin
DRAG_U95 = 0.10
SLOPE_U95 = 0.03  # of its effect: the rotating-mass factor
MASS_U95 = 0.5  # of its effect: how far grip rather than power limits the car


@dataclass(frozen=True)
class Sensitivity:
    """Change of a measure per unit of a factor, its standard error with its degrees of freedom, and its origin.

    `numbers` are what its origin is worded with: `runs` that it was learned from, `mass_kg` or `cda_m2` that physics
    took (`cda_assumed` where nobody stated it), or the assumed `share` of a time.

    `low` and `high` bound what the runs that show it covered; None where it holds throughout.
    """

    factor: Factor
    per_unit: float
    error: float
    dof: float
    kind: Source
    numbers: Mapping[str, float] = field(default_factory=dict)
    low: float | None = None
    high: float | None = None

    def covers(self, value: float) -> bool:
        """Whether a value is where the runs are, or within a band of it."""
        low, high = (-math.inf, math.inf) if self.low is None or self.high is None else (self.low, self.high)
        return low - self.factor.band <= value <= high + self.factor.band


@dataclass(frozen=True, eq=False)
class Sensitivities:
    """Those that are known, with the covariance (K x K) of their errors."""

    rows: tuple[Sensitivity, ...] = ()
    covariance: Floats = field(default_factory=lambda: np.zeros((0, 0)))

    def of(self, name: str) -> Sensitivity | None:
        """The one of a factor."""
        return next((row for row in self.rows if row.factor.name == name), None)

    def variance(self, shifts: dict[str, float]) -> float:
        """Of the sum of per-unit changes times shifts in their factors."""
        vector = np.array([shifts.get(row.factor.name, 0.0) for row in self.rows])
        return float(vector @ self.covariance @ vector)

    def __add__(self, other: Sensitivities) -> Sensitivities:
        size = len(self.rows)
        joined = np.zeros((size + len(other.rows),) * 2)
        joined[:size, :size], joined[size:, size:] = self.covariance, other.covariance
        return Sensitivities((*self.rows, *other.rows), joined)


@dataclass(frozen=True, eq=False)
class SetupDay:
    """The values (n) and states of runs of one setup on one day."""

    values: Sequence[float]
    states: Sequence[State]


def learned(setup_days: Sequence[SetupDay], physics: Sensitivities | None = None) -> Sensitivities:
    """Learn how a measure changes with charge, battery and brake temperature.

    Least squares within a day of a setup, whose own levels do not matter; what physics knows is taken out first. A
    factor is left out where it hardly varied within any day, or was not recorded for all of its runs. Where it changes
    with the order of the runs, as charge does that is driven down, it can't be parted from a drift from run to run (a
    driver settles), which is in the covariance.

    Parameters
    ----------
    setup_days : sequence of SetupDay
        Runs of one setup on one day each.
    physics : Sensitivities, optional

    Returns
    -------
    Sensitivities
    """
    found = [factor for factor in LEARNED if any(_spread(factor, setup_day) for setup_day in setup_days)]
    telling = [
        setup_day
        for setup_day in setup_days
        if len(setup_day.values) > 1 and all(_noted(factor, setup_day) for factor in found)
    ]
    if not found or not telling:
        return Sensitivities()
    known = physics or Sensitivities()
    values = np.concatenate([_centered(_without(setup_day, known)) for setup_day in telling])
    columns = [np.concatenate([_centered(_column(factor, setup_day)) for setup_day in telling]) for factor in found]
    directions = np.concatenate(
        [_centered([float(s.direction == "back") for s in setup_day.states]) for setup_day in telling]
    )
    design = np.column_stack(
        [*columns, directions] if np.abs(directions).max() > 0.1 and _unleveled(telling, known) else columns
    )
    dof = values.size - len(telling) - design.shape[1]
    if dof < LEAST_DOF or np.linalg.matrix_rank(design) < design.shape[1]:
        return Sensitivities()
    solution = np.linalg.lstsq(design, values, rcond=None)[0]
    left = float(((values - design @ solution) ** 2).sum()) / dof
    covariance = (left * np.linalg.inv(design.T @ design))[: len(found), : len(found)]
    order = np.concatenate([_centered(_order(setup_day)) for setup_day in telling])
    in_order = np.linalg.lstsq(design, order, rcond=None)[0][: len(found)]
    drift = ASSUMED_DRIFT_SHARE * abs(float(np.concatenate([setup_day.values for setup_day in telling]).mean()))
    covariance += drift**2 * np.outer(in_order, in_order)
    rows = [
        _learned_row(factor, float(per), math.sqrt(covariance[i, i]), dof, telling)
        for i, (factor, per) in enumerate(zip(found, solution, strict=False))
    ]
    return Sensitivities(tuple(rows), covariance)


def _learned_row(
    factor: Factor, per_unit: float, error: float, dof: int, setup_days: Sequence[SetupDay]
) -> Sensitivity:
    telling = [setup_day for setup_day in setup_days if _spread(factor, setup_day)]
    seen = [value for setup_day in telling for state in setup_day.states if (value := factor.of(state)) is not None]
    count = sum(len(setup_day.values) for setup_day in setup_days)
    return Sensitivity(factor, per_unit, error, dof, "learned", {"runs": count}, min(seen), max(seen))


def _spread(factor: Factor, setup_day: SetupDay) -> bool:
    seen = [value for state in setup_day.states if (value := factor.of(state)) is not None]
    return len(seen) > 2 and max(seen) - min(seen) >= LEAST_SPREAD[factor.name]


def _noted(factor: Factor, setup_day: SetupDay) -> bool:
    return all(factor.of(state) is not None for state in setup_day.states)


def _column(factor: Factor, setup_day: SetupDay) -> list[float]:
    return [factor.of(state) or 0.0 for state in setup_day.states]


def _order(setup_day: SetupDay) -> Floats:
    """The place of each run in the day, by its time or else as they are listed."""
    hours = [state.hour for state in setup_day.states]
    places = np.arange(len(hours)) if None in hours else np.argsort(np.argsort(np.array(hours), kind="stable"))
    return places.astype(np.float64)


def _centered(values: Sequence[float] | Floats) -> Floats:
    array = np.asarray(values, dtype=np.float64)
    return np.asarray(array - array.mean())


def _without(setup_day: SetupDay, known: Sensitivities, at: Mapping[str, float] | None = None) -> Floats:
    """The group's values with what is known of conditions taken out; `at` are the conditions to bring them to."""
    values = np.array(setup_day.values, dtype=np.float64)
    for row in known.rows:
        if _noted(row.factor, setup_day):
            values -= row.per_unit * (np.array(_column(row.factor, setup_day)) - (at or {}).get(row.factor.name, 0.0))
    return values


def scatter_of(setup_days: Sequence[SetupDay], known: Sensitivities, typical: float) -> Scatter:
    """Estimate the car's own scatter, with what charge, heat and slope made of it taken out.

    Else a sweep would pass for scatter.
    """
    noted = {
        row.factor: [n for setup_day in setup_days for n in numbers(row.factor, setup_day.states)] for row in known.rows
    }
    at = {factor.name: float(np.mean(values)) for factor, values in noted.items() if values}
    by_setup: dict[str, list[Sequence[float]]] = defaultdict(list)
    for setup_day in setup_days:
        by_setup[setup_day.states[0].setup].append(_without(setup_day, known, at).tolist())
    return own_scatter(list(by_setup.values()), typical)


def _unleveled(setup_days: Sequence[SetupDay], known: Sensitivities) -> bool:
    return known.of(SLOPE.name) is None or not all(_noted(SLOPE, setup_day) for setup_day in setup_days)


def by_physics(
    curve: Curve, measure: Measure, clock: Clock, load: RoadLoad | None, density_kg_m3: float, head_wind_mps: float
) -> Sensitivities:
    """Work out how a time changes with slope, air density, head wind and load, from one run's motion.

    The run is integrated again with its acceleration changed by the difference, up and down.

    Parameters
    ----------
    curve : Curve
    measure : Measure
    clock : Clock
    load : RoadLoad or None
        Without one only the slope is known.
    density_kg_m3, head_wind_mps : float
        Of the run.

    Returns
    -------
    Sensitivities
        Per percent, kg/m^3, m/s and kg; none of a stop.
    """
    if measure.basis == "stop":
        return Sensitivities()
    slope_mps2 = (load or RoadLoad(1.0)).slope_mps2
    speed = curve.speed_mps

    def per_unit(extra: Floats) -> float | None:
        ends = [time_of(curve, measure, clock, sign * extra) for sign in (-1.0, 1.0)]
        return None if ends[0] is None or ends[1] is None else (ends[1] - ends[0]) / 2

    found = [_physics_row(SLOPE, per_unit(-slope_mps2(np.full_like(speed, 0.1))), 0.1, SLOPE_U95)]
    if load is not None:
        drag_area = {"cda_m2": load.cda_m2, "cda_assumed": float("cda_m2" in load.assumed)}
        drag, still = load.drag_mps2, density_kg_m3
        by_air = drag(speed, still - 0.02, head_wind_mps) - drag(speed, still, head_wind_mps)
        by_wind = drag(speed, still, head_wind_mps - 0.5) - drag(speed, still, head_wind_mps + 0.5)
        found.append(_physics_row(DENSITY, per_unit(by_air), 0.02, DRAG_U95, drag_area))
        found.append(_physics_row(WIND, per_unit(by_wind / 2), 0.5, DRAG_U95, drag_area))
        found.append(
            _physics_row(
                LOAD,
                per_unit(-curve.acceleration_mps2 * _by_power(curve) * 10 / load.mass_kg),
                10.0,
                MASS_U95,
                {"mass_kg": load.mass_kg},
            )
        )
    rows = tuple(row for row in found if row is not None)
    return Sensitivities(rows, np.diag([row.error**2 for row in rows]).reshape(len(rows), len(rows)))


def air_of(states: Sequence[State]) -> tuple[float, float]:
    """Mean density (kg/m^3) and head wind (m/s) of runs; standard air and calm where nobody noted them."""
    densities, winds = numbers(DENSITY, states), numbers(WIND, states)
    density = float(np.mean(densities)) if densities else STANDARD_DENSITY_KG_M3
    return density, float(np.mean(winds)) if winds else 0.0


def _by_power(curve: Curve) -> Floats:
    """Where the car no longer pulls as hard as it ever does: power, not grip, limits it there."""
    pull = curve.acceleration_mps2
    return (np.maximum.accumulate(pull[::-1])[::-1] < 0.92 * float(pull.max())).astype(np.float64)


def _physics_row(
    factor: Factor, change: float | None, step: float, share_u95: float, numbers: Mapping[str, float] | None = None
) -> Sensitivity | None:
    if change is None:
        return None
    per_unit = change / step
    return Sensitivity(factor, per_unit, share_u95 * abs(per_unit) / COVERAGE_95, math.inf, "physics", numbers or {})


def assumed(factor: Factor, typical: float, measure: Measure, quantity: str) -> Sensitivity | None:
    """Take a factor's stated default for a time, between zero and twice that; None where there is none."""
    if quantity != "time" or measure.basis == "stop" or factor.name not in ASSUMED_SHARES:
        return None
    share = ASSUMED_SHARES[factor.name]
    error = abs(share * typical) / COVERAGE_95
    return Sensitivity(factor, share * typical, error, math.inf, "assumed", {"share": share})

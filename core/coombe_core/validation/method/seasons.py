"""Simulated seasons: cars, drivers, days and weather drawn at random, and what a tester would record of each run.

A run's time carries the driver's scatter, the day's, and what charge, heat, slope, wind and air did to it; what is
recorded of those is rounded and read with an error. Nothing here knows what the comparison will make of it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from coombe_core.comparing.state import State
from coombe_core.simulating.many import Floats, Launches

CHARGE_A_RUN = 0.8
TIMING_S = 0.004  # one sigma of a time on the rollout clock at 25 Hz, about what the accuracy page shows
SLOPE_READ_PERCENT = 0.025


@dataclass(frozen=True)
class Person:
    """A car with its driver: what it is, and how much it varies from run to run and from day to day (shares)."""

    mass_kg: float
    grip: float
    power_w: float
    cda_m2: float
    ramp_s: float
    run_share: float
    day_share: float


def person(draw: np.random.Generator) -> Person:
    """Cars between 115 and 200 W/kg. Grip and power each vary from day to day by 0.75 %, a third more or less.

    A time then varies by about 0.6 %, the stated default of the car's scatter.
    """
    mass = draw.uniform(1500, 2300)
    return Person(
        mass,
        draw.uniform(0.75, 1.0),
        mass * draw.uniform(115, 200),
        draw.uniform(0.5, 0.65),
        draw.uniform(0.08, 0.2),
        draw.uniform(0.004, 0.009),
        float(np.exp(draw.normal(np.log(0.0075), 0.35))),
    )


@dataclass(frozen=True)
class Strip:
    """Its true slope out, and the slope that was surveyed."""

    slope_percent: float
    surveyed_percent: float


def strip(draw: np.random.Generator) -> Strip:
    """A strip of up to 0.3 % either way."""
    slope = draw.uniform(-0.3, 0.3)
    return Strip(slope, slope + draw.normal(0.0, SLOPE_READ_PERCENT))


@dataclass
class Season:
    """Launches to be driven with what was recorded of them, gathered before all are driven at once."""

    rows: list[list[float]] = field(default_factory=list)
    states: list[State] = field(default_factory=list)

    def launches(self) -> Launches:
        """All of them as arrays."""
        return Launches(*np.array(self.rows, dtype=np.float64).T)


@dataclass(frozen=True)
class Steps:
    """A day's runs: the group and direction of each, and the charge and heat that the day began with."""

    groups: Sequence[str]
    directions: Sequence[str]
    charges: Sequence[float]
    temps_c: Sequence[float]


def steps(
    groups: Sequence[str], directions: Sequence[str], charge: float, temp_c: float, draw: np.random.Generator
) -> Steps:
    """Charge falls and the battery warms a little from run to run."""
    count = len(groups)
    charges = charge - np.cumsum(draw.normal(CHARGE_A_RUN, 0.1, count)) + CHARGE_A_RUN
    temps = temp_c + np.minimum(np.cumsum(np.abs(draw.normal(0.3, 0.2, count))), 5.0)
    return Steps(groups, directions, list(charges), list(temps))


def drive_day(
    season: Season, who: Person, day: str, driven: Steps, where: Strip, draw: np.random.Generator
) -> list[int]:
    """Add a day's runs; gives their places in the season."""
    lies = draw.normal(1.0, who.day_share, 2)
    wind, density = draw.normal(0.0, 1.2), draw.normal(1.2, 0.02)
    first = len(season.rows)
    for place, (direction, charge, temp) in enumerate(
        zip(driven.directions, driven.charges, driven.temps_c, strict=True)
    ):
        sign = -1.0 if direction == "back" else 1.0
        run = draw.normal(1.0, who.run_share, 2)
        along = sign * (wind + draw.normal(0.0, 0.5))
        season.rows.append(
            [
                *(
                    who.mass_kg,
                    who.grip * lies[0] * run[0],
                    who.power_w * lies[1] * run[1] ** 0.7,
                    who.cda_m2,
                    who.ramp_s,
                ),
                *(charge, temp, sign * where.slope_percent, along, density, 1.0),
            ]
        )
        season.states.append(
            State(
                charge_percent=float(round(charge)),
                battery_temp_c=round(2 * (temp + draw.normal(0.0, 0.3))) / 2,
                density_kg_m3=float(density + draw.normal(0.0, 0.003)),
                head_wind_mps=float(sign * (wind + draw.normal(0.0, 0.2))),
                slope_percent=sign * where.surveyed_percent,
                slope_u95_percent=1.96 * SLOPE_READ_PERCENT,
                slope_survey="strip",
                hour=9.0 + place * 0.1,
                day=day,
                direction=direction,
                surface="dry asphalt",
            )
        )
    return list(range(first, len(season.rows)))


def read(times_s: Floats, draw: np.random.Generator) -> Floats:
    """Times as a receiver gives them."""
    return np.asarray(times_s + draw.normal(0.0, TIMING_S, times_s.shape))

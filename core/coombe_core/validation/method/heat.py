"""Batteries of core and surface: what a timetable, which takes them for one mass, says of the first run's temperature.

The surface is heated, loses to the air and is what is read; the core follows it. Nothing here knows how it is learned.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

import numpy as np

from coombe_core.physics.battery.charge import ChargeCurve
from coombe_core.physics.battery.heat import HeatInterval, HeatKind, learn_heat
from coombe_core.planning.day import Day, Window
from coombe_core.planning.timetable import timetable
from coombe_core.simulating.many import Floats
from coombe_core.validation.method.tables import Line

KINDS: tuple[HeatKind, ...] = ("resting", "resting", "resting", "heating", "heating", "heating")
LOGGED_MIN: dict[HeatKind, int] = {"resting": 180, "heating": 60}
READ_EVERY_MIN, STEPS_A_MINUTE = 10, 4
READ_TO_C = 0.5
FIRST_RUN = datetime(2026, 5, 1, 10, 0, tzinfo=UTC)
ANY_TIME = Window(20.0, 90.0, -20.0, 90.0)
CURVE = ChargeCurve.of(75.0)


@dataclass(frozen=True)
class TwoMassBattery:
    """A battery of two masses: the surface's share, minutes until they even out, loss (1/min), heating (K/min)."""

    surface: float
    evens_out_min: float
    loss_per_min: float
    rate_k_per_min: float

    def driven(self, start_c: tuple[float, float], outside_c: float, minutes: int, heating: bool) -> Floats:
        """Surface and core (n x 2) every minute from a start on."""
        states, now = [start_c], start_c
        for _ in range(minutes):
            for _ in range(STEPS_A_MINUTE):
                across = (now[0] - now[1]) / self.evens_out_min / STEPS_A_MINUTE
                gained = (self.rate_k_per_min * heating - self.loss_per_min * (now[0] - outside_c)) / STEPS_A_MINUTE
                now = now[0] + gained / self.surface - across * (1 - self.surface), now[1] + across * self.surface
            states.append(now)
        return np.array(states)


def battery(draw: np.random.Generator) -> TwoMassBattery:
    """Batteries whose surface is 35 to 60 % of the whole and evens out with the core in 1 to 3 minutes."""
    return TwoMassBattery(
        draw.uniform(0.35, 0.6), draw.uniform(1.0, 3.0), 1 / draw.uniform(150, 350), draw.uniform(0.4, 0.8)
    )


def heats(count: int, seed: int) -> list[Line]:
    """Days on which a battery is heated until the car leaves, and read again at the first run."""
    lines = []
    for place, (name, pause) in enumerate({"5 to 20": (5, 20), "30 to 90": (30, 90)}.items()):
        found = [_first_run(pause, np.random.default_rng([seed, 8, place, number])) for number in range(count)]
        held, warmer, half = (float(np.mean(each)) for each in zip(*found, strict=True))
        remark = f"{warmer:+.2f} K too warm in the mean, half-width {half:.1f} K"
        lines.append(
            Line(f"first run {name} minutes after heating: the interval holds", count, held, 0.92, 0.99, remark)
        )
    return lines


def _first_run(pause_min: tuple[int, int], draw: np.random.Generator) -> tuple[bool, float, float]:
    """Whether the interval of the battery temperature held it, by how much its middle was too warm, its half-width."""
    who, outside_c = battery(draw), draw.uniform(0.0, 25.0)
    heat = learn_heat([_logged(kind, who, draw) for kind in KINDS])
    start_c, heated, pause = (
        outside_c + draw.uniform(0.0, 6.0),
        int(draw.integers(25, 60)),
        int(draw.integers(*pause_min)),
    )
    warm = who.driven((start_c, start_c), outside_c, heated, heating=True)[-1]
    truth_c = who.driven((warm[0], warm[1]), outside_c, pause, heating=False)[-1, 0]
    day = Day(
        first_run_at=FIRST_RUN,
        known_at=FIRST_RUN - timedelta(minutes=heated + pause),
        charge_percent=80.0,
        battery_temp_c=start_c,
        outside_temp_c=outside_c,
        window=ANY_TIME,
        charger_kw=11.0,
        drive_min=float(pause),
        drive_charge_percent=2.0,
        prepare_min=0.0,
        hottest_c=90.0,
    )
    stated = timetable(day, heat, CURVE).battery_temp_c
    return stated.low95 <= truth_c <= stated.high95, stated.value - truth_c, (stated.high95 - stated.low95) / 2


def _logged(kind: HeatKind, who: TwoMassBattery, draw: np.random.Generator) -> HeatInterval:
    """Readings of a rest after a drive, or of heating from cold, in half degrees."""
    outside_c = draw.uniform(0.0, 25.0)
    start_c = outside_c + (draw.uniform(10.0, 25.0) if kind == "resting" else draw.uniform(0.0, 8.0))
    surface_c = who.driven((start_c, start_c), outside_c, LOGGED_MIN[kind], kind == "heating")[::READ_EVERY_MIN, 0]
    read_c = np.round((surface_c + draw.normal(0.0, 0.2, surface_c.size)) / READ_TO_C) * READ_TO_C
    minutes = np.arange(surface_c.size, dtype=np.float64) * READ_EVERY_MIN
    return HeatInterval(kind, minutes, read_c, np.full(surface_c.size, outside_c))

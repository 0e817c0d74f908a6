"""What is known of a car from its own log, as the core's planning takes it: heat, charging, scatter, reach."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import replace
from datetime import datetime, timedelta
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np
from django.db.models import Count, Max, QuerySet, Sum

from cars.models import BatteryInterval, Car, IntervalKind, Setup
from coombe_core.comparing.sensitivity import SetupDay, learned, scatter_of
from coombe_core.comparing.state import State
from coombe_core.comparing.statistics.scatter import Scatter
from coombe_core.learned import Learned
from coombe_core.physics.battery.charge import ChargeCurve, ChargingInterval, learn_share
from coombe_core.physics.battery.heat import BatteryHeat, HeatInterval, learn_heat
from coombe_core.physics.road_load import RoadLoad
from coombe_core.planning.budget import learn_charge_per_run
from coombe_core.planning.strip import Reach, reach_from_power, reach_from_runs
from coombe_core.units import SPEED_UNITS_MPS
from courses.models import Course
from runs.models import Measured, Run, RunKind, Split, Validity
from runs.passes import SEEN, Seen, seen_twice
from runs.states import states_of

if TYPE_CHECKING:
    from coombe_core.physics.battery.heat import HeatKind

ASSUMED_BATTERY_KWH = 75.0
MOST_HISTORY = 600  # runs that scatter and sensitivities are learned from, the latest first
TOP_SPEED_MPS = 75.0
LONGEST_PAUSE = timedelta(minutes=45)  # what is used in a longer one was not used by runs


def battery_heat(car: Car) -> BatteryHeat:
    """How the car's battery warms and cools."""
    return learn_heat([heat for interval in _intervals(car) if (heat := _as_heat(interval))])


def charge_curve(car: Car) -> ChargeCurve:
    """What the car's battery takes, with the share that was learned."""
    points = list(car.charge_points.values_list("charge_percent", "power_kw"))
    curve = ChargeCurve.of(car.battery_kwh or ASSUMED_BATTERY_KWH, points)
    charging = [
        _as_charging(interval)
        for interval in _intervals(car)
        if interval.kind == IntervalKind.CHARGING and interval.charger_kw
    ]
    return ChargeCurve.of(curve.battery_kwh, points, learn_share(charging, curve))


def charge_per_run(car: Car) -> Learned:
    """Points of charge that a run of this car takes, from the charges recorded before runs in close sequence."""
    stretches: list[list[float]] = []
    last: datetime | None = None
    runs = Run.objects.filter(setup__car=car, kind=RunKind.STANDING, charge_before_percent__isnull=False)
    runs = runs.filter(log__date_known=True)
    twice = seen_twice(_seen(runs))
    for start, charge in (
        runs.exclude(pk__in=twice).order_by("start_utc").values_list("start_utc", "charge_before_percent")
    ):
        if last is None or start - last > LONGEST_PAUSE:
            stretches.append([])
        stretches[-1].append(charge)  # type: ignore[arg-type]  # never null here
        last = start
    return learn_charge_per_run(stretches, car.battery_kwh)


def scatter(car: Car, measure: str, clock: str, typical_s: float) -> Scatter:
    """How the car's times of a measure vary, within a day and between days of one setup, at like conditions."""
    setup_days = history(car.pk, measure, clock)
    return scatter_of(setup_days, learned(setup_days), typical_s)


def history(car: int, measure: str, clock: str, field: str = "time_s") -> list[SetupDay]:
    """A car's latest valid runs with the measure, by setup and day."""
    return groups_of(car, measure, clock, field, version_of(car))


def version_of(car: int) -> tuple[object, ...]:
    """Changes with every write of a car's data: of its runs, what was noted and timed of them, setups and courses."""
    runs = Run.objects.filter(setup__car=car).aggregate(Count("id"), Sum("id"), Sum("revision"), Max("timed_at"))
    setups = Setup.objects.filter(car=car).aggregate(Count("id"), Sum("revision"))
    others = Car.objects.filter(pk=car).aggregate(Sum("revision")), Course.objects.aggregate(Sum("revision"))
    return *runs.values(), *setups.values(), *(value for found in others for value in found.values())


@lru_cache(maxsize=32)
def groups_of(car: int, measure: str, clock: str, field: str, version: tuple[object, ...]) -> list[SetupDay]:
    """A car's runs with the measure, by setup and day; read again once `version` has changed."""
    rows = Measured.objects.filter(
        run__setup__car=car, run__validity=Validity.VALID, run__complete=True, name=measure, clock=clock
    )
    latest = rows.exclude(**{f"{field}__isnull": True}).filter(run__log__date_known=True).order_by("-run__start_utc")
    values = dict(latest.values_list("run_id", field)[:MOST_HISTORY])
    for run in seen_twice(replace(row, time_s=values[row.run]) for row in _seen(Run.objects.filter(pk__in=values))):
        del values[run]
    grouped: dict[tuple[str, str], list[tuple[float, State]]] = defaultdict(list)
    for run, state in states_of(Run.objects.filter(pk__in=values)).items():
        grouped[state.setup, state.day].append((values[run], state))
    return [SetupDay([value for value, _ in rows], [state for _, state in rows]) for rows in grouped.values()]


def _seen(runs: QuerySet[Run]) -> Iterator[Seen]:
    """Runs as receivers saw them."""
    return (Seen(*row) for row in runs.values_list(*SEEN))


def typical_s(car: Car, measure: str, clock: str) -> float | None:
    """The car's median time of a measure; None before it was ever timed."""
    rows = Measured.objects.filter(run__setup__car=car, run__validity=Validity.VALID, name=measure, clock=clock)
    times = [time for time in rows.values_list("time_s", flat=True) if time is not None]
    return float(np.median(times)) if times else None


def reach(car: Car, to_mps: float, slope_percent: float) -> Reach | None:
    """How far the car goes to a speed: from its own runs where they show it, else from mass and power; else None."""
    rows = Split.objects.filter(run__setup__car=car, run__kind=RunKind.STANDING, run__validity=Validity.VALID)
    splits = [
        (speed * SPEED_UNITS_MPS[unit], distance, u95)
        for speed, unit, distance, u95 in rows.values_list("speed", "unit", "distance_m", "distance_u95_m")
    ]
    own = reach_from_runs(splits, rows.values("run").distinct().count())
    if own and own.fastest_mps >= to_mps:
        return own
    if car.test_mass_kg and car.power_kw:
        load = RoadLoad.of(car.test_mass_kg, car.cda_m2, car.rolling_coefficient)
        return reach_from_power(car.power_kw * 1000.0, load, max(to_mps, TOP_SPEED_MPS), slope_percent=slope_percent)
    return own


def _intervals(car: Car) -> Iterable[BatteryInterval]:
    return car.battery_intervals.prefetch_related("readings")


def _as_heat(interval: BatteryInterval) -> HeatInterval | None:
    kind: HeatKind
    if interval.kind == IntervalKind.RESTING:
        kind = "resting"
    elif interval.kind == IntervalKind.HEATING:
        kind = "heating"
    else:
        return None
    rows = [
        (each.minutes, each.battery_temp_c, each.outside_temp_c)
        for each in interval.readings.all()
        if each.battery_temp_c is not None and each.outside_temp_c is not None
    ]
    return HeatInterval(kind, *np.array(rows, dtype=np.float64).reshape(-1, 3).T) if rows else None


def _as_charging(interval: BatteryInterval) -> ChargingInterval:
    rows = [(each.minutes, each.charge_percent) for each in interval.readings.all() if each.charge_percent is not None]
    minutes, charge = np.array(rows, dtype=np.float64).reshape(-1, 2).T
    return ChargingInterval(interval.charger_kw or 0.0, minutes, charge)

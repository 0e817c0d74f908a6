"""What is known of a car beside the compared runs: its scatter, and how a measure changes with conditions."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from django.db.models import Count, Max

from comparisons.states import states_of
from coombe_core.air import STANDARD_DENSITY_KG_M3
from coombe_core.columnar import unpack
from coombe_core.comparing.comparison import Known
from coombe_core.comparing.sensitivity import Group, Sensitivities, by_physics, learned
from coombe_core.comparing.state import State
from coombe_core.scatter import Scatter, own_scatter
from coombe_core.timing.curve import Curve
from coombe_core.timing.measure import Clock, Measure
from runs.models import Edit, Measured, Run, RunTrace, Validity
from runs.physics import road_load_of

MOST_HISTORY = 600  # runs that scatter and sensitivities are learned from, the latest first


def known_of(runs: Sequence[Run], states: Sequence[State], measure: Measure, clock: Clock, field: str) -> Known:
    """For runs of one car, what its own log tells; of several cars only the physics of the first run."""
    if not runs:
        return Known()
    physics = _physics(runs[0], states, measure, clock) if field == "time_s" else Sensitivities()
    cars = {run.set_up.car_id for run in runs}
    if len(cars) > 1:
        return Known(None, physics)
    groups = groups_of(runs[0].set_up.car_id, measure.name, clock, field, _stamp())
    return Known(_scatter(groups), physics + learned(groups, physics))


def _scatter(groups: Sequence[Group]) -> Scatter | None:
    """Of the car's runs within days, and of the days of a set-up; sweeps and unlike days count, as they were driven."""
    by_set_up: dict[str, list[Sequence[float]]] = defaultdict(list)
    for group in groups:
        by_set_up[group.states[0].set_up].append(group.values)
    values = [value for group in groups for value in group.values]
    return own_scatter(list(by_set_up.values()), float(np.mean(values))) if values else None


def _physics(run: Run, states: Sequence[State], measure: Measure, clock: Clock) -> Sensitivities:
    blob = RunTrace.objects.filter(run=run).values_list("curve", flat=True).first()
    if blob is None:
        return Sensitivities()
    densities = [state.density_kg_m3 for state in states if state.density_kg_m3 is not None]
    winds = [state.head_wind_mps for state in states if state.head_wind_mps is not None]
    density = float(np.mean(densities)) if densities else STANDARD_DENSITY_KG_M3
    wind = float(np.mean(winds)) if winds else 0.0
    return by_physics(Curve(**unpack(bytes(blob))), measure, clock, road_load_of(run), density, wind)


def _stamp() -> tuple[object, ...]:
    """Changes whenever a run comes, goes or is edited."""
    return Edit.objects.aggregate(last=Max("id"))["last"], *Run.objects.aggregate(Max("id"), Count("id")).values()


@lru_cache(maxsize=32)
def groups_of(car: int, measure: str, clock: Clock, field: str, stamp: tuple[object, ...]) -> list[Group]:
    """A car's runs with the measure, by set-up and day; read again once `stamp` has changed."""
    rows = Measured.objects.filter(
        run__set_up__car=car, run__validity=Validity.VALID, run__complete=True, name=measure, clock=clock
    )
    latest = rows.exclude(**{f"{field}__isnull": True}).order_by("-run__start_utc")
    values = dict(latest.values_list("run_id", field)[:MOST_HISTORY])
    grouped: dict[tuple[str, str], list[tuple[float, State]]] = defaultdict(list)
    for run, state in states_of(Run.objects.filter(pk__in=values)).items():
        grouped[state.set_up, state.day].append((values[run], state))
    return [Group([value for value, _ in rows], [state for _, state in rows]) for rows in grouped.values()]

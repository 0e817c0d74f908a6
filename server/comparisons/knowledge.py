"""What is known of a car beside the compared runs: its scatter, and how a measure changes with conditions."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import numpy as np

from cars import knowledge
from cars.models import Car
from comparisons.states import states_of
from coombe_core.air import STANDARD_DENSITY_KG_M3
from coombe_core.columnar import unpack
from coombe_core.comparing.comparison import Known
from coombe_core.comparing.sensitivity import Group, Sensitivities, by_physics, learned
from coombe_core.comparing.state import State
from coombe_core.timing.curve import Curve
from coombe_core.timing.measure import Clock, Measure
from runs.models import Measured, Run, RunTrace, Validity
from runs.physics import road_load_of

MOST_HISTORY = 2000  # runs that sensitivities are learned from, the latest first


def known_of(runs: Sequence[Run], states: Sequence[State], measure: Measure, clock: Clock, field: str) -> Known:
    """For runs of one car, what its own log tells; of several cars only the physics of the first run."""
    if not runs:
        return Known()
    physics = _physics(runs[0], states, measure, clock) if field == "time_s" else Sensitivities()
    cars = {run.set_up.car_id for run in runs}
    if len(cars) > 1:
        return Known(None, physics)
    car = runs[0].set_up.car
    groups = _groups(car, measure, clock, field)
    typical = float(np.mean([value for group in groups for value in group.values])) if groups else 0.0
    scatter = knowledge.scatter(car, measure.name, clock, typical) if field == "time_s" and groups else None
    return Known(scatter, physics + learned(groups, physics))


def _physics(run: Run, states: Sequence[State], measure: Measure, clock: Clock) -> Sensitivities:
    blob = RunTrace.objects.filter(run=run).values_list("curve", flat=True).first()
    if blob is None:
        return Sensitivities()
    densities = [state.density_kg_m3 for state in states if state.density_kg_m3 is not None]
    winds = [state.head_wind_mps for state in states if state.head_wind_mps is not None]
    density = float(np.mean(densities)) if densities else STANDARD_DENSITY_KG_M3
    wind = float(np.mean(winds)) if winds else 0.0
    return by_physics(Curve(**unpack(bytes(blob))), measure, clock, road_load_of(run), density, wind)


def _groups(car: Car, measure: Measure, clock: Clock, field: str) -> list[Group]:
    """The car's runs with the measure, by set-up and day."""
    rows = Measured.objects.filter(
        run__set_up__car=car, run__validity=Validity.VALID, run__complete=True, name=measure.name, clock=clock
    )
    latest = rows.exclude(**{f"{field}__isnull": True}).order_by("-run__start_utc")
    values = dict(latest.values_list("run_id", field)[:MOST_HISTORY])
    grouped: dict[tuple[str, str], list[tuple[float, State]]] = defaultdict(list)
    for run, state in states_of(Run.objects.filter(pk__in=values)).items():
        grouped[state.set_up, state.day].append((values[run], state))
    return [Group([value for value, _ in rows], [state for _, state in rows]) for rows in grouped.values()]

"""What is known of a car beside the compared runs: its scatter, and how a measure changes with conditions."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from coombe_core.comparing.comparison import Known
from coombe_core.comparing.sensitivity import Sensitivities, SetupDay, air_of, by_physics, learned, scatter_of
from coombe_core.comparing.state import State
from coombe_core.timing.clocks import Clock
from coombe_core.timing.measures import Measure
from learning.receivers import learned_between
from learning.services import history
from runs.curves import decoded
from runs.models import Run, RunTrace
from runs.physics import road_load_of


def known_of(runs: Sequence[Run], states: Sequence[State], measure: Measure, clock: Clock, field: str) -> Known:
    """For runs of one car, what its own log shows; of several cars only the physics of the first run.

    Its scatter is that of its other runs: those that are compared speak for themselves.
    """
    if not runs:
        return Known()
    receivers = learned_between([state.receiver for state in states], measure, clock, field)
    physics = _physics(runs[0], states, measure, clock) if field == "time_s" else Sensitivities()
    cars = {run.setup.car_id for run in runs}
    if len(cars) > 1:
        return Known(None, physics, receivers)
    setup_days = history(runs[0].setup.car_id, measure.name, clock, field)
    known = physics + learned(setup_days, physics)
    others = list(_without(setup_days, states))
    values = [value for setup_day in others for value in setup_day.values]
    return Known(scatter_of(others, known, float(np.mean(values))) if values else None, known, receivers)


def _without(setup_days: Sequence[SetupDay], compared: Sequence[State]) -> Iterator[SetupDay]:
    """What is left of setups and days without the compared runs."""
    taken = {(state.setup, state.day, state.hour) for state in compared}
    for each in setup_days:
        left = [
            (value, state)
            for value, state in zip(each.values, each.states, strict=True)
            if (state.setup, state.day, state.hour) not in taken
        ]
        if left:
            yield SetupDay([value for value, _ in left], [state for _, state in left])


def _physics(run: Run, states: Sequence[State], measure: Measure, clock: Clock) -> Sensitivities:
    blob = RunTrace.objects.filter(run=run).values_list("curve", flat=True).first()
    if blob is None:
        return Sensitivities()
    return by_physics(decoded(bytes(blob)), measure, clock, road_load_of(run), *air_of(states))

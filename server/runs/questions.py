"""What to ask about values that a person enters, with what is known beside them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import timedelta
from typing import Any

import numpy as np
from django.utils import timezone

from coombe_core.flags.entered import Asked, Known, questions
from coombe_core.formats.parquet import read_columns
from runs.models import Run, RunTrace
from runs.together import Effect

NEAR = timedelta(hours=3)
MOST_LOOKED_AT = 20  # of the runs that one change is about


def about_run(run: Run, values: Mapping[str, Any]) -> list[Asked]:
    """What to ask about conditions of a run; those that are recorded already count along."""
    names = ("charge_before_percent", "charge_after_percent", "outside_temp_c")
    recorded = {name: getattr(run, name) for name in names}
    asked = questions({**recorded, **values}, known_of(run))
    touched = set(values) | ({"charge_after_percent"} if "charge_before_percent" in values else set())
    return [each for each in asked if each.field in touched]


def questions_about(effects: Sequence[Effect]) -> list[Asked]:
    """What to ask about one change of many runs: each field once, by the first run that it is odd for."""
    found: dict[str, Asked] = {}
    for effect in effects[:MOST_LOOKED_AT]:
        values = {name: new for name, (_, new) in effect.fields.items()}
        found = {asked.field: asked for asked in about_run(effect.run, values)} | found
    return list(found.values())


def about_thing(values: Mapping[str, Any]) -> list[Asked]:
    """What to ask about values of a car, a setup or a log."""
    return questions(values, Known(today=timezone.now().date()))


def known_of(run: Run) -> Known:
    """What CAN data, the run nearest in time and its weather say of a run."""
    battery_c, apart = _nearest(run, "battery_temp_before_c")
    outside_c, _ = _nearest(run, "outside_temp_c")
    return Known(
        can_battery_c=_can_battery_c(run),
        neighbor_battery_c=battery_c,
        neighbor_min=apart.total_seconds() / 60,
        outside_temp_c=outside_c,
        today=timezone.now().date(),
    )


def _nearest(run: Run, name: str) -> tuple[float | None, timedelta]:
    """A condition of the run of the same car nearest in time for which it is recorded, and how much later that was."""
    span = (run.start_utc - NEAR, run.start_utc + NEAR)
    others = Run.objects.filter(setup__car=run.setup.car_id, start_utc__range=span, **{f"{name}__isnull": False})
    found = [
        (value, start - run.start_utc) for start, value in others.exclude(pk=run.pk).values_list("start_utc", name)
    ]
    return min(found, key=lambda each: abs(each[1]), default=(None, timedelta()))


def _can_battery_c(run: Run) -> float | None:
    """The battery's temperature at the start of a run, by its CAN data."""
    blob = RunTrace.objects.filter(run=run).values_list("can_data", flat=True).first()
    if blob is None:
        return None
    columns = read_columns(bytes(blob))
    if "battery_temp_c" not in columns:
        return None
    seen = ~np.isnan(columns["battery_temp_c"])
    if not seen.any():
        return None
    nearest = int(np.argmin(np.abs(np.where(seen, columns["since_s"], np.inf))))
    return float(columns["battery_temp_c"][nearest])

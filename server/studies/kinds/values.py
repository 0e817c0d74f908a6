"""What the kinds share: the axis of the measure, names before sentences, and what CAN data say of runs."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
from numpy.typing import NDArray

from coombe_core.curve import Curve
from coombe_core.formats.parquet import read_columns
from coombe_core.physics.battery.power import battery_power
from runs.models import Run, RunTrace
from studies.choosing import Chosen, Picked
from studies.showing import Axis, Point

Floats = NDArray[np.float64]
CLOCKS = {"first_movement": "first movement", "rollout": "rollout", "speed": ""}


def axis_of(chosen: Chosen) -> Axis:
    """What is looked at of every run."""
    asked = chosen.asked
    clock = CLOCKS[asked.clock]
    label = f"{asked.measure.name}, {clock}" if clock else asked.measure.name
    return Axis(label, asked.quantity, "m" if asked.quantity == "distance" else "s")


def named(names: Sequence[str], place: int, sentence: str) -> str:
    """A sentence of a series, with its name where there are several."""
    return f"{names[place]}: {sentence}" if len(names) > 1 else sentence


def values_of(runs: Iterable[Picked]) -> list[float]:
    """The values of runs that count."""
    return [picked.value.value for picked in runs if picked.value]


def point(x: float, picked: Picked, label: str = "") -> Point:
    """A run's value at a place."""
    value = picked.value
    assert value
    return Point(x, value.value, value.u95, picked.run.pk, label)


def curves_of(runs: Sequence[Run]) -> dict[int, Curve]:
    """The fitted curves of runs, by number."""
    rows = RunTrace.objects.filter(run__in=[run.pk for run in runs]).values_list("run_id", "curve")
    return {run: Curve(**read_columns(bytes(blob))) for run, blob in rows}


def can_data_of(runs: Sequence[Run]) -> dict[int, dict[str, Floats]]:
    """The CAN channels near every run that has some, by number."""
    rows = RunTrace.objects.filter(run__in=[run.pk for run in runs], can_data__isnull=False)
    return {row.run_id: read_columns(bytes(row.can_data or b"")) for row in rows.only("run_id", "can_data")}


def battery_power_w(channels: dict[str, Floats]) -> Floats | None:
    """Power out of the battery, as stated or voltage times current; None without either."""
    if "battery_power_w" in channels:
        return channels["battery_power_w"]
    if {"battery_voltage_v", "battery_current_a"} <= channels.keys():
        return np.asarray(channels["battery_voltage_v"] * channels["battery_current_a"])
    return None


def power_peaks_kw(runs: Sequence[Run]) -> dict[int, float]:
    """The highest battery power of every run that has CAN data of it, by number."""
    channels, curves = can_data_of(runs), curves_of(runs)
    found = {run: battery_power(each["since_s"], each, curves[run]) for run, each in channels.items() if run in curves}
    return {run: power.peak_w / 1000 for run, power in found.items() if power}

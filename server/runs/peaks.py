"""Battery and peak power of runs: from CAN data where they have it, else at the wheels."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from coombe_core.curve import Curve
from coombe_core.formats.parquet import read_columns
from coombe_core.physics.battery.power import battery_power
from runs.curves import decoded
from runs.models import Run, RunTrace
from runs.physics import power_of

Floats = NDArray[np.float64]


def curves_of(runs: Sequence[Run]) -> dict[int, Curve]:
    """The fitted curves of runs, by number."""
    rows = RunTrace.objects.filter(run__in=[run.pk for run in runs]).values_list("run_id", "curve")
    return {run: decoded(bytes(blob)) for run, blob in rows}


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


def battery_peaks_kw(runs: Sequence[Run]) -> dict[int, float]:
    """The highest battery power of every run that has CAN data of it, by number."""
    channels = can_data_of(runs)
    curves = curves_of([run for run in runs if run.pk in channels])
    found = {run: battery_power(each["since_s"], each, curves[run]) for run, each in channels.items() if run in curves}
    return {run: power.peak_w / 1000 for run, power in found.items() if power}


def peaks_kw(runs: Sequence[Run]) -> dict[int, float]:
    """Peak power by number, of one kind for all: the battery's where every run has it, else that at the wheels."""
    battery = battery_peaks_kw(runs)
    if len(battery) == len(runs):
        return battery
    wheels = {run.pk: power_of(run) for run in runs if hasattr(run, "trace")}
    return {run: float(power["peak_kw"]) for run, power in wheels.items() if power}

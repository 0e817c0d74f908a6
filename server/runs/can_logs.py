"""The CAN log of a drive: read at import, kept beside the log, and drawn on by its runs."""

from __future__ import annotations

import hashlib
import io
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from coombe_core.detection.can_data import AlignedCan
from coombe_core.formats.can_log import CanLog as CoreCanLog
from coombe_core.formats.can_log import read_can_log
from coombe_core.formats.parquet import read_columns, write_columns
from coombe_core.physics.battery.power import battery_power
from coombe_core.timing.results import TimedRun
from runs import store
from runs.conditions import RANGES
from runs.curves import decoded
from runs.models import CanLog, Log, Run

STEP_S = 0.1
BEFORE_S, AFTER_S = 5.0, 2.0
# What CAN data say of a run's state, and the conditions that it fills in before and after.
STATES = {
    "charge_percent": ("charge_before_percent", "charge_after_percent"),
    "battery_temp_c": ("battery_temp_before_c", "battery_temp_after_c"),
    "outside_temp_c": ("outside_temp_c", None),
}


@dataclass(frozen=True)
class CanUpload:
    """A CAN log as it came in, with what decodes it; Coombe's own DBC where none is given."""

    name: str
    data: bytes
    dbc: str | None = None

    def read(self) -> CoreCanLog:
        """The log's channels. Raises CanError where it can't be read."""
        return read_can_log(io.BytesIO(self.data), self.dbc)

    def keep(self) -> str:
        """Store the bytes; their hash."""
        sha256 = hashlib.sha256(self.data).hexdigest()
        store.keep(self.data, sha256)
        return sha256


def record(log: Log, upload: CanUpload, sha256: str, can_data: AlignedCan) -> CanLog:
    """The row that goes with a log."""
    return CanLog.objects.create(
        log=log,
        sha256=sha256,
        name=upload.name,
        size_bytes=len(upload.data),
        format=can_data.log.format,
        rejected=len(can_data.log.rejections),
        offset_s=can_data.offset_s.value,
        offset_u95_s=can_data.offset_s.u95,
        over_reading=can_data.over_reading,
        dbc=upload.dbc or "",
    )


def sampled(can_data: AlignedCan, timed: TimedRun) -> bytes:
    """The channels near a run, on one time axis since its start."""
    since_s = np.arange(-BEFORE_S, timed.end_s - timed.start_s + AFTER_S, STEP_S)
    return write_columns({"since_s": since_s, **can_data.sampled(timed.start_s + since_s)})


def filled_in(can_data: AlignedCan, timed: TimedRun, conditions: Mapping[str, Any]) -> dict[str, Any]:
    """The conditions with what CAN data say of them; what a person recorded stands."""
    filled = dict(conditions)
    for channel, names in STATES.items():
        for name, at_s in zip(names, (timed.start_s, timed.end_s), strict=True):
            value = can_data.value_at(channel, at_s)
            if name and value is not None and filled.get(name) is None and RANGES[name][0] <= value <= RANGES[name][1]:
                filled[name] = round(value, 1)
    if not filled.get("drive_mode"):
        filled["drive_mode"] = (can_data.mode_at(timed.start_s) or "")[:40]
    return filled


def battery_power_of(run: Run) -> dict[str, Any] | None:
    """Battery power against the receiver's speed, for a pull with CAN data of it; its peak, and where it tapers."""
    if run.kind == "stop" or run.trace.can_data is None:
        return None
    columns = read_columns(bytes(run.trace.can_data))
    found = battery_power(columns["since_s"], columns, decoded(bytes(run.trace.curve)))
    if found is None:
        return None
    return {
        "speed_mps": found.speed_mps.round(3).tolist(),
        "power_kw": (found.power_w / 1000).round(2).tolist(),
        "peak_kw": found.peak_w / 1000,
        "peak_at_mps": found.peak_at_mps,
        "tapers_from_mps": found.tapers_from_mps,
    }

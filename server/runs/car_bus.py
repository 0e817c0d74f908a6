"""The CAN log of a drive: read at import, kept beside the log, and drawn on by its runs."""

from __future__ import annotations

import hashlib
import io
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from coombe_core.curve import Curve
from coombe_core.detection.can_data import AlignedCan
from coombe_core.formats.can_log import CanLog, read_can_log
from coombe_core.formats.parquet import read_columns, write_columns
from coombe_core.physics.battery.power import pack_power
from coombe_core.timing.results import TimedRun
from runs import store
from runs.conditions import RANGES
from runs.models import BusRecord, Log, Run

STEP_S = 0.1
BEFORE_S, AFTER_S = 5.0, 2.0
# What the bus says of a run's state, and the conditions that it fills in before and after.
STATES = {
    "charge_percent": ("charge_before_percent", "charge_after_percent"),
    "pack_temp_c": ("pack_temp_before_c", "pack_temp_after_c"),
    "outside_temp_c": ("outside_temp_c", None),
}


@dataclass(frozen=True)
class BusUpload:
    """A CAN log as it came in, with what decodes it; Coombe's own DBC where none is given."""

    name: str
    data: bytes
    dbc: str | None = None

    def read(self) -> CanLog:
        """The log's channels. Raises BusError where it can't be read."""
        return read_can_log(io.BytesIO(self.data), self.dbc)

    def keep(self) -> str:
        """Store the bytes; their hash."""
        sha256 = hashlib.sha256(self.data).hexdigest()
        store.keep(self.data, sha256)
        return sha256


def record(log: Log, upload: BusUpload, sha256: str, bus: AlignedCan) -> BusRecord:
    """The row that goes with a log."""
    return BusRecord.objects.create(
        log=log,
        sha256=sha256,
        name=upload.name,
        size_bytes=len(upload.data),
        format=bus.log.format,
        rejected=len(bus.log.rejections),
        offset_s=bus.offset_s.value,
        offset_u95_s=bus.offset_s.u95,
        over_reading=bus.over_reading,
        dbc=upload.dbc or "",
    )


def sampled(bus: AlignedCan, timed: TimedRun) -> bytes:
    """The channels near a run, on one time axis since its start."""
    since_s = np.arange(-BEFORE_S, timed.end_s - timed.start_s + AFTER_S, STEP_S)
    return write_columns({"since_s": since_s, **bus.sampled(timed.start_s + since_s)})


def filled_in(bus: AlignedCan, timed: TimedRun, conditions: Mapping[str, Any]) -> dict[str, Any]:
    """The conditions with what the bus knows of them; what a person wrote down stands."""
    filled = dict(conditions)
    for channel, names in STATES.items():
        for name, at_s in zip(names, (timed.start_s, timed.end_s), strict=True):
            value = bus.value_at(channel, at_s)
            if name and value is not None and filled.get(name) is None and RANGES[name][0] <= value <= RANGES[name][1]:
                filled[name] = round(value, 1)
    if not filled.get("drive_mode"):
        filled["drive_mode"] = (bus.mode_at(timed.start_s) or "")[:40]
    return filled


def pack_power_of(run: Run) -> dict[str, Any] | None:
    """Pack power against the receiver's speed, for a pull with a bus that states it; its peak, and where it tapers."""
    if run.kind == "stop" or run.trace.bus is None:
        return None
    columns = read_columns(bytes(run.trace.bus))
    found = pack_power(columns["since_s"], columns, Curve(**read_columns(bytes(run.trace.curve))))
    if found is None:
        return None
    return {
        "speed_mps": found.speed_mps.round(3).tolist(),
        "power_kw": (found.power_w / 1000).round(2).tolist(),
        "peak_kw": found.peak_w / 1000,
        "peak_at_mps": found.peak_at_mps,
        "tapers_from_mps": found.tapers_from_mps,
    }

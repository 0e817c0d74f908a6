"""The one table that every reader returns and every later step takes."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, fields, replace
from datetime import datetime, timedelta
from typing import Any

import numpy as np
from numpy.typing import NDArray

from coombe_core.columnar import pack, unpack

Column = NDArray[np.float64]


@dataclass(frozen=True)
class Trace:
    """Fixes in the order of time; one float64 array of the same length a column, NaN where a fix lacks it.

    `elapsed_s` counts from `start_utc` (aware, UTC) and strictly increases. `speed_mps` is Doppler speed over
    ground and never NaN; `course_deg` is clockwise from true north; `altitude_m` is above mean sea level.
    """

    start_utc: datetime
    elapsed_s: Column
    speed_mps: Column
    latitude_deg: Column
    longitude_deg: Column
    course_deg: Column
    altitude_m: Column
    satellites: Column
    hdop: Column
    date_known: bool = True

    def __len__(self) -> int:
        return int(self.elapsed_s.size)

    @property
    def rate_hz(self) -> float:
        """Fixes a second, from the median step; 0 for a single fix."""
        if len(self) < 2:
            return 0.0
        return float(1.0 / np.median(np.diff(self.elapsed_s)))

    @property
    def duration_s(self) -> float:
        """Seconds from the first fix to the last."""
        return float(self.elapsed_s[-1] - self.elapsed_s[0])

    def utc_at(self, elapsed_s: float) -> datetime:
        """The UTC instant `elapsed_s` seconds after the trace's start."""
        return self.start_utc + timedelta(seconds=float(elapsed_s))

    def between(self, from_s: float, to_s: float) -> Trace:
        """The fixes with from_s <= elapsed_s <= to_s; `start_utc` and the time axis stay the same."""
        first, last = np.searchsorted(self.elapsed_s, (from_s, np.nextafter(to_s, np.inf)))
        return self._each(lambda column: column[first:last])

    def _each(self, act: Callable[[Column], Column]) -> Trace:
        changed: dict[str, Any] = {name: act(getattr(self, name)) for name in COLUMNS}
        return replace(self, **changed)


COLUMNS = tuple(f.name for f in fields(Trace) if f.name not in {"start_utc", "date_known"})


def to_parquet(trace: Trace) -> bytes:
    """The trace's columns as one compressed Parquet file; `start_utc` and `date_known` are kept by the caller."""
    return pack({name: getattr(trace, name) for name in COLUMNS})


def from_parquet(blob: bytes, start_utc: datetime, date_known: bool = True) -> Trace:
    """What `to_parquet` wrote, unchanged."""
    return Trace(start_utc=start_utc, date_known=date_known, **unpack(blob))

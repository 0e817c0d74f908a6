"""The one table that every reader returns and every later step takes."""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import dataclass, fields, replace
from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np
from numpy.typing import NDArray

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
    """The trace as one compressed Parquet file; `start_utc` becomes a column `utc` of microseconds."""
    import polars as pl

    utc = np.datetime64(trace.start_utc.replace(tzinfo=None), "us")
    frame = pl.DataFrame({name: getattr(trace, name) for name in COLUMNS})
    frame = frame.with_columns(pl.lit(utc).alias("start_utc"), pl.lit(trace.date_known).alias("date_known"))
    out = io.BytesIO()
    frame.write_parquet(out, compression="zstd")
    return out.getvalue()


def from_parquet(blob: bytes) -> Trace:
    """What `to_parquet` wrote, unchanged. Raises ValueError where the blob holds no fix."""
    import polars as pl

    frame = pl.read_parquet(io.BytesIO(blob))
    if frame.is_empty():
        raise ValueError("the stored trace holds no fix")
    columns = {name: frame[name].to_numpy() for name in COLUMNS}
    start: datetime = frame["start_utc"][0]
    return Trace(start_utc=start.replace(tzinfo=UTC), date_known=bool(frame["date_known"][0]), **columns)

"""The one table that every reader returns and every later step takes."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, fields, replace
from datetime import datetime, timedelta
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from coombe_core.interpolation import median
from coombe_core.uncertainty import Value

Column = NDArray[np.float64]
AT_REST_MPS = 0.5  # a receiver shows less than this of a car that stands


@dataclass(frozen=True)
class Trace:
    """Fixes in the order of time; one float64 array of the same length a column, NaN where a fix lacks it.

    `elapsed_s` counts from `start_utc` (aware, UTC) and strictly increases. `speed_mps` is Doppler speed over
    ground and never NaN; `course_deg` is clockwise from true north; `altitude_m` is above mean sea level. `climb_mps`
    is vertical Doppler speed, positive upward; `speed_accuracy_mps` the receiver's own word on its speed;
    `fix_quality` is 0 none, 1 autonomous, 2 differential, 4 and 5 carrier phase fixed and float (as in NMEA's GGA).
    `smoothing_s` is the time constant of the first-order filter behind which the receiver shows speed; None if unknown.
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
    climb_mps: Column
    speed_accuracy_mps: Column
    fix_quality: Column
    date_known: bool = True
    speed_from_positions: bool = False
    smoothing_s: Value | None = None

    def __len__(self) -> int:
        return int(self.elapsed_s.size)

    @cached_property
    def rate_hz(self) -> float:
        """Fixes a second, from the median step; 0 for a single fix."""
        if len(self) < 2:
            return 0.0
        return 1.0 / median(np.diff(self.elapsed_s))

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

    def only(self, chosen: NDArray[np.bool_]) -> Trace:
        """Those fixes (n) alone; `start_utc` and the time axis stay the same."""
        return self._each(lambda column: column[chosen])

    @staticmethod
    def joined(pieces: Sequence[Trace]) -> Trace:
        """Pieces of one trace, in the order of time, as one. Raises ValueError where there is none."""
        if not pieces:
            raise ValueError("no pieces to join")
        columns: dict[str, Any] = {name: np.concatenate([getattr(p, name) for p in pieces]) for name in COLUMNS}
        return replace(pieces[0], **columns)

    def _each(self, act: Callable[[Column], Column]) -> Trace:
        changed: dict[str, Any] = {name: act(getattr(self, name)) for name in COLUMNS}
        return replace(self, **changed)


COLUMNS = tuple(f.name for f in fields(Trace) if f.type == "Column")

"""What a log shows at a glance, before anything in it is timed."""

from __future__ import annotations

import io
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime

import numpy as np

from coombe_core.detection.runs import GAP_S, FoundRun, find_runs
from coombe_core.formats import Reading, read_log
from coombe_core.formats.can_log import read_can_log, recognizes

HEAD_BYTES = 4096
FIRST_REAL_UTC_S = 946_684_800.0  # the year 2000: a clock that shows less counts from its own start


@dataclass(frozen=True)
class Look:
    """A receiver's log: as it was read, the runs in it, and its gaps of over two seconds (s)."""

    reading: Reading
    runs: list[FoundRun]
    gaps_s: list[float]


@dataclass(frozen=True)
class CanLook:
    """A CAN log: its format, how many seconds it lasts, its first frame in UTC where its clock shows that, and lines
    left out."""

    format: str
    duration_s: float
    start_utc: datetime | None
    rejected: int


def look_at(log: bytes, layout: Mapping[str, str] | None = None) -> Look:
    """Read a receiver's log and find its runs.

    Parameters
    ----------
    log : bytes
        The log.
    layout : mapping of str to str, optional
        What the headings of a table mean.

    Returns
    -------
    Look

    Raises
    ------
    ReadError
        Where the log can't be read; its text is a sentence.
    """
    reading = read_log(io.BytesIO(log), layout)
    steps_s = np.diff(reading.trace.elapsed_s)
    return Look(reading, find_runs(reading.trace), [float(step) for step in steps_s[steps_s > GAP_S]])


def is_can_log(data: bytes) -> bool:
    """Whether a file is a CAN log, by its first bytes."""
    return recognizes(data[:HEAD_BYTES]) is not None


def look_at_can(data: bytes, dbc: str | None = None) -> CanLook:
    """Read a CAN log, with Coombe's own DBC where none is given. Raises CanError where that fails."""
    log = read_can_log(io.BytesIO(data), dbc)
    first_s = min(channel.time_s[0] for channel in log.channels.values())
    last_s = max(channel.time_s[-1] for channel in log.channels.values())
    start = datetime.fromtimestamp(first_s, UTC) if first_s > FIRST_REAL_UTC_S else None
    return CanLook(log.format, float(last_s - first_s), start, len(log.rejections))

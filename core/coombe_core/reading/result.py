"""What a reader returns, and the one error that it raises."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta

import numpy as np
from numpy.typing import NDArray

from coombe_core.trace import COLUMNS, Trace


class ReadError(ValueError):
    """A log that cannot be read; its text is one sentence for the person who sent the file."""


class UnknownColumnsError(ReadError):
    """A table whose columns have to be named by a person first; `columns` are the headings that it has."""

    def __init__(self, message: str, columns: list[str]) -> None:
        super().__init__(message)
        self.columns = columns


@dataclass(frozen=True)
class Rejection:
    """One line of a log that was left out, counted from 1, and why."""

    line: int
    reason: str


@dataclass(frozen=True)
class Reading:
    """A log that was read: the trace, the format's name, and every line that was left out."""

    trace: Trace
    format: str
    rejections: list[Rejection] = field(default_factory=list)


TIME_RUNS_BACK = "time does not go forward"
IMPOSSIBLE = "impossible time or speed"
FASTEST_MPS = 200.0
LAST_UTC_S = 4e9  # some time in the year 2096
NO_DATE = datetime(1970, 1, 1, tzinfo=UTC)


def assemble(
    utc_s: NDArray[np.float64],
    lines: NDArray[np.int64],
    columns: dict[str, NDArray[np.float64]],
    rejections: list[Rejection],
    log_format: str,
    date_known: bool = True,
    speed_from_positions: bool = False,
) -> Reading:
    """A Reading of fixes at `utc_s` (seconds since 1970 UTC), dropping those that are impossible or go back in time.

    `lines` are the fixes' line numbers, for the rejections. Raises ReadError where no fix is left.
    """
    if utc_s.size == 0:
        raise ReadError(_nothing_left(rejections))
    speed_mps = columns["speed_mps"]
    possible = (speed_mps >= 0) & (speed_mps < FASTEST_MPS) & (np.abs(utc_s) < LAST_UTC_S)
    rejections = rejections + [Rejection(int(line), IMPOSSIBLE) for line in lines[~possible]]
    if not possible.any():
        raise ReadError(_nothing_left(rejections))
    latest = np.maximum.accumulate(np.where(possible, utc_s, -np.inf))
    kept = possible & np.concatenate([[True], utc_s[1:] > latest[:-1]])
    rejections += [Rejection(int(line), TIME_RUNS_BACK) for line in lines[possible & ~kept]]
    utc_s = utc_s[kept]
    start = NO_DATE + timedelta(microseconds=round(utc_s[0] * 1e6))
    elapsed_s = np.round(utc_s - utc_s[0], 6)
    empty = np.full(utc_s.size, np.nan)
    filled = {name: columns[name][kept] if name in columns else empty for name in COLUMNS if name != "elapsed_s"}
    trace = Trace(
        start_utc=start, elapsed_s=elapsed_s, date_known=date_known, speed_from_positions=speed_from_positions, **filled
    )
    return Reading(trace, log_format, sorted(rejections, key=lambda rejection: rejection.line))


def _nothing_left(rejections: list[Rejection]) -> str:
    if not rejections:
        return "the file holds no fix"
    first = rejections[0]
    return (
        f"no fix could be read; {len(rejections)} lines were rejected, the first is line {first.line}: {first.reason}"
    )

"""What a reader returns, and the one error that it raises."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np
from numpy.typing import NDArray

from coombe_core.trace import COLUMNS, Trace


class ReadError(ValueError):
    """A log that cannot be read; its text is one sentence for the person who sent the file."""


MOST_FIXES = 2_500_000  # of one log: seven hours at 100 Hz


def too_many_fixes() -> str:
    """What a log is refused with that holds more fixes than a process should take."""
    return f"the log has more than {MOST_FIXES:,} rows; split it"


class CanError(ReadError):
    """A CAN log that cannot be read, or that shows another drive than the receiver's log."""


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


class Rejections(list[Rejection]):
    """The lines of a log that were left out: all are counted, the first MOST_REJECTIONS are kept."""

    def __init__(self) -> None:
        super().__init__()
        self.total = 0

    def append(self, rejection: Rejection) -> None:
        """Count one more, and keep it while there is room."""
        self.total += 1
        if len(self) < MOST_REJECTIONS:
            super().append(rejection)

    def extend(self, rejections: Iterable[Rejection]) -> None:
        """Count and keep several."""
        for rejection in rejections:
            self.append(rejection)

    def join(self, others: Rejections) -> None:
        """Take over those of another part of the log."""
        self.total += others.total - len(others)
        self.extend(others)

    def all_of(self, lines: NDArray[np.int64], reason: str) -> None:
        """Leave many lines out for one reason."""
        self.total += max(lines.size - MOST_REJECTIONS, 0)
        self.extend(Rejection(int(line), reason) for line in lines[:MOST_REJECTIONS])


@dataclass(frozen=True)
class Reading:
    """A log that was read: the trace, the format's name, and every line that was left out."""

    trace: Trace
    format: str
    rejections: Rejections = field(default_factory=Rejections)


MOST_REJECTIONS = 10_000
TIME_RUNS_BACK = "time does not go forward"
IMPOSSIBLE = "impossible time or speed"
FASTEST_MPS = 200.0  # no car of these tests is faster
LARGEST = 1e6  # of any height in meters, angle in degrees, count or dilution
LAST_UTC_S = 4e9  # some time in the year 2096
NO_DATE = datetime(1970, 1, 1, tzinfo=UTC)


def assemble(
    utc_s: NDArray[np.float64],
    lines: NDArray[np.int64],
    columns: dict[str, NDArray[np.float64]],
    rejections: Rejections,
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
    rejections.all_of(lines[~possible], IMPOSSIBLE)
    if not possible.any():
        raise ReadError(_nothing_left(rejections))
    latest = np.maximum.accumulate(np.where(possible, utc_s, -np.inf))
    kept = possible & np.concatenate([[True], utc_s[1:] > latest[:-1]])
    rejections.all_of(lines[possible & ~kept], TIME_RUNS_BACK)
    if not kept.all():
        utc_s, columns = utc_s[kept], {name: column[kept] for name, column in columns.items()}
    start = NO_DATE + timedelta(microseconds=round(utc_s[0] * 1e6))
    elapsed_s = np.round(utc_s - utc_s[0], 6)
    empty = np.full(utc_s.size, np.nan)
    filled: dict[str, Any] = {name: _sane(columns.get(name, empty)) for name in COLUMNS if name != "elapsed_s"}
    trace = Trace(
        start_utc=start, elapsed_s=elapsed_s, date_known=date_known, speed_from_positions=speed_from_positions, **filled
    )
    rejections.sort(key=lambda rejection: rejection.line)
    return Reading(trace, log_format, rejections)


def _sane(column: NDArray[np.float64]) -> NDArray[np.float64]:
    """The column without numbers that nothing on earth has."""
    absurd = np.abs(column) > LARGEST
    return np.where(absurd, np.nan, column) if absurd.any() else column


def _nothing_left(rejections: Rejections) -> str:
    if not rejections:
        return "the file holds no fix"
    first = rejections[0]
    return (
        f"no fix could be read; {rejections.total} lines were rejected, the first is line {first.line}: {first.reason}"
    )

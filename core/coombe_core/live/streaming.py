"""Fixes out of a stream that comes in as it likes: the same fixes as the readers find in the file that it becomes.

A fix is fresh as soon as its time and speed are known, and complete once its epoch is over and height and quality,
which other sentences may bring, are in.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any, Protocol

import numpy as np

from coombe_core.formats import nmea, ubx
from coombe_core.formats.reading import FASTEST_MPS, LARGEST, LAST_UTC_S, NO_DATE
from coombe_core.live.nmea import NmeaStream
from coombe_core.live.ubx import UbxStream
from coombe_core.trace import COLUMNS, Trace

Fresh = tuple[float, float]
MOST_UNKNOWN = 65_536  # bytes in which no known format shows


Found = tuple[float, dict[str, float], bool]


class Stream(Protocol):
    """What the stream reader of a format offers."""

    rejected: int

    def feed(self, data: bytes) -> Iterator[Found]:
        """Take the next bytes and yield what they end: UTC seconds, columns, and whether the fix is complete."""

    def finish(self) -> Iterator[Found]:
        """Yield what waits for an end of its epoch that does not come any more."""


@dataclass
class Received:
    """What came out of some bytes.

    `fresh` is (elapsed_s, speed_mps) of every new fix, `complete` the trace of those that are complete.
    """

    fresh: list[Fresh] = field(default_factory=list)
    complete: Trace | None = None


class StreamReader:
    """Takes the bytes of one recording in pieces of any length and gives its fixes on one time axis.

    The axis begins at the first fix of all, or at `start_utc` where a recording goes on whose first part was read
    from its file; only fixes after `after_s` on it count then.
    """

    def __init__(self, start_utc: datetime | None = None, after_s: float = float("-inf")) -> None:
        self.start_utc = start_utc
        self.format: str | None = None
        self._stream: Stream | None = None
        self._head = b""
        self._start_s = _seconds_of(start_utc) if start_utc else None
        self._fresh_s = self._complete_s = after_s
        self._dropped = 0

    @property
    def rejected(self) -> int:
        """How many sentences or messages and fixes were left out so far."""
        return self._dropped + (self._stream.rejected if self._stream else 0)

    def feed(self, data: bytes) -> Received:
        """Take the next bytes and give the fixes that they bring."""
        if self._stream is None:
            self._head = (self._head + data)[-MOST_UNKNOWN:]
            self._recognize()
            data, self._head = (self._head, b"") if self._stream else (b"", self._head)
        return self._received(self._stream.feed(data) if self._stream else iter(()))

    def finish(self) -> Received:
        """Give the last fix, whose epoch the end of the stream ends."""
        return self._received(self._stream.finish() if self._stream else iter(()))

    def _recognize(self) -> None:
        if nmea.recognizes(self._head):
            self.format, self._stream = nmea.FORMAT, NmeaStream()
        elif ubx.recognizes(self._head):
            self.format, self._stream = ubx.FORMAT, UbxStream()

    def _received(self, found: Iterator[Found]) -> Received:
        received, rows = Received(), []
        for utc_s, columns, complete in found:
            speed_mps = columns["speed_mps"]
            if not (0 <= speed_mps < FASTEST_MPS and abs(utc_s) < LAST_UTC_S):
                self._dropped += complete
                continue
            elapsed_s = self._elapsed_s(utc_s)
            if elapsed_s > self._fresh_s:
                self._fresh_s = elapsed_s
                received.fresh.append((elapsed_s, speed_mps))
            if complete and elapsed_s > self._complete_s:
                self._complete_s = elapsed_s
                rows.append({"elapsed_s": elapsed_s, **columns})
            elif complete:
                self._dropped += 1
        if rows:
            received.complete = self._trace(rows)
        return received

    def _elapsed_s(self, utc_s: float) -> float:
        """Seconds on the recording's axis, which the first fix begins; rounded as in a file."""
        if self._start_s is None:
            self._start_s = utc_s
            self.start_utc = NO_DATE + timedelta(microseconds=round(utc_s * 1e6))
        return round(utc_s - self._start_s, 6)

    def _trace(self, rows: list[dict[str, float]]) -> Trace:
        assert self.start_utc
        columns: dict[str, Any] = {name: np.array([row.get(name, np.nan) for row in rows]) for name in COLUMNS}
        for name, column in columns.items():
            if name != "elapsed_s":
                column[np.abs(column) > LARGEST] = np.nan
        return Trace(start_utc=self.start_utc, **columns)


def _seconds_of(instant: datetime) -> float:
    """Seconds since 1970 UTC."""
    return (instant - NO_DATE) / timedelta(microseconds=1) / 1e6

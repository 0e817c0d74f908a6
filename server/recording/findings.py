"""From bytes to glances, runs and gaps: the core's readers and timing, as one recording needs them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from coombe_core.analysis import AnalyzedRun, Request
from coombe_core.detection.can_data import AlignedCan, NoMatchError, align
from coombe_core.formats import ReadError, read_log
from coombe_core.live.can import LiveCan
from coombe_core.live.streaming import StreamReader
from coombe_core.live.timing import LiveTiming
from coombe_core.trace import Trace
from recording.models import GapCause

LEAST_GAP_S = 0.3
GAP_STEPS = 2.5


@dataclass(frozen=True)
class FoundGap:
    """A time without fixes, and why."""

    from_s: float
    to_s: float
    cause: GapCause


@dataclass(frozen=True)
class Found:
    """A timed run with the fixes that it rests on and the CAN data beside them."""

    run: AnalyzedRun
    near: Trace
    can_data: AlignedCan | None


class Findings:
    """Takes the complete fixes of one recording, from its file or live, and gives runs and gaps."""

    def __init__(self, request: Request, can_data: LiveCan) -> None:
        self._can_data = can_data
        self._aligned: AlignedCan | None = None
        self._timing = LiveTiming(request, self._align)
        self._gaps = GapFinder()

    def aim(self, request: Request) -> None:
        """Time what comes from now on as asked here."""
        self._timing.request = request

    def feed(self, trace: Trace, cause: GapCause = GapCause.NO_FIX) -> Iterator[Found | FoundGap]:
        """Take the next fixes. `cause` is why any are missing before them or among them."""
        yield from self._gaps.feed(trace, cause)
        yield from (self._found(run) for run in self._timing.feed(trace))

    @property
    def untimed(self) -> int:
        """How many runs were found and could not be timed."""
        return len(self._timing.untimed)

    def finish(self) -> Iterator[Found]:
        """Give the run that the end of the recording cuts off."""
        yield from (self._found(run) for run in self._timing.finish())

    def _found(self, run: AnalyzedRun) -> Found:
        return Found(run, self._timing.near(run), self._aligned)

    def _align(self, trace: Trace) -> AlignedCan | None:
        log = self._can_data.log()
        try:
            self._aligned = align(log, trace) if log else None
        except NoMatchError:
            self._aligned = None
        return self._aligned


class GapFinder:
    """Takes the fixes of a recording in order and gives the times without any."""

    def __init__(self) -> None:
        self._last_s: float | None = None
        self._steps: list[float] = []

    def feed(self, trace: Trace, cause: GapCause = GapCause.NO_FIX) -> Iterator[FoundGap]:
        """Take the next fixes; `cause` is why any are missing before them or among them."""
        before_s = trace.elapsed_s[0] if self._last_s is None else self._last_s
        steps = np.diff(trace.elapsed_s, prepend=before_s)
        self._steps = [*self._steps, *steps[steps > 0].tolist()][-200:]
        usual_s = float(np.median(self._steps)) if self._steps else 1.0
        for index in np.flatnonzero(steps > max(LEAST_GAP_S, GAP_STEPS * usual_s)):
            to_s = float(trace.elapsed_s[index])
            yield FoundGap(to_s - float(steps[index]), to_s, cause)
        self._last_s = float(trace.elapsed_s[-1])


def taken_up(path: Path) -> tuple[StreamReader, Trace | None]:
    """A stream reader that goes on where a spool file ends, and the fixes that are in the file."""
    try:
        with path.open("rb") as stream:
            trace = read_log(stream).trace
    except (OSError, ReadError):
        return StreamReader(), None
    return StreamReader(trace.start_utc, float(trace.elapsed_s[-1])), trace

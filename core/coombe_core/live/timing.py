"""Runs timed while their fixes come in: the same finding and the same timing as for a whole file."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from coombe_core.analysis import AFTER_S, BEFORE_S, AnalyzedRun, Request, time_found
from coombe_core.detection.runs import GAP_S, FoundRun, RunFinder
from coombe_core.timing.results import Untimed
from coombe_core.trace import Trace

if TYPE_CHECKING:
    from coombe_core.detection.can_data import AlignedCan

MOST_PIECES = 512
KEPT_S = 300.0  # no run that can be timed is longer than this


def _no_can(trace: Trace) -> None:
    """A car without CAN data."""


class LiveTiming:
    """Takes pieces of a trace in the order of time and gives each run once its result is final.

    A run is final when the fixes up to 2 s after its end are in, or the log has ended; pieces may be of any length and
    must be on one time axis. `can_data` is asked for CAN data beside a trace when a run is to be timed; `request` may
    be changed between pieces. Runs that were found and could not be timed gather in `untimed`.
    """

    def __init__(
        self, request: Request | None = None, can_data: Callable[[Trace], AlignedCan | None] = _no_can
    ) -> None:
        self.request = request or Request()
        self.untimed: list[Untimed] = []
        self._can = can_data
        self._finder = RunFinder()
        self._pieces: list[Trace] = []
        self._waiting: list[FoundRun] = []
        self._now_s = float("-inf")

    def feed(self, piece: Trace) -> list[AnalyzedRun]:
        """Take the next fixes and give the runs that are final now."""
        if not len(piece):
            return []
        self._pieces.append(piece)
        if len(self._pieces) > MOST_PIECES:
            self._pieces = [Trace.joined(self._pieces).between(self._needed_s(), float("inf"))]
        for elapsed_s, speed_mps in zip(piece.elapsed_s.tolist(), piece.speed_mps.tolist(), strict=True):
            self._waiting.extend(self._finder.feed(elapsed_s, speed_mps))
            self._now_s = elapsed_s
        return self._final(lambda found: found.end_s + AFTER_S < self._now_s)

    def finish(self) -> list[AnalyzedRun]:
        """Give what the end of the log leaves: runs that wait for their last fixes, and one that it cuts off."""
        self._waiting.extend(self._finder.finish())
        return self._final(lambda found: True)

    def near(self, run: AnalyzedRun) -> Trace:
        """The fixes that a run which was just given rests on."""
        return Trace.joined(self._pieces).between(run.start_s - BEFORE_S, run.end_s + AFTER_S)

    def _final(self, is_final: Callable[[FoundRun], bool]) -> list[AnalyzedRun]:
        ready = [found for found in self._waiting if is_final(found)]
        if not ready:
            self._forget()
            return []
        self._waiting = [found for found in self._waiting if not is_final(found)]
        trace = Trace.joined(self._pieces)
        self._pieces = [trace]
        can_data = self._can(trace)
        timed = [
            time_found(trace, found, self.request, can_data) for found in sorted(ready, key=lambda found: found.start_s)
        ]
        self._forget()
        self.untimed += [run for run in timed if isinstance(run, Untimed)]
        return [run for run in timed if isinstance(run, AnalyzedRun)]

    def _forget(self) -> None:
        """Let fixes go that no run can need any more."""
        needed_s = self._needed_s()
        self._pieces = [piece for piece in self._pieces if piece.elapsed_s[-1] >= needed_s]

    def _needed_s(self) -> float:
        return min([self._now_s - KEPT_S, *(found.start_s for found in self._waiting)]) - BEFORE_S - GAP_S

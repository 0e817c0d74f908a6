"""Finding standing starts and stops in a trace: one pass, fix by fix, with the same result for a file and a stream.

A standing start is a departure from rest that pulls hard; a stop is hard braking that ends at rest. Driving off in
traffic, creeping and gentle braking are neither. Limits are the constants below, in SI units.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from coombe_core.trace import Trace
from coombe_core.units import KMH_MPS, MPH_MPS

AT_REST_MPS = 0.5
STANDSTILL_S = 0.5
PULL_MPS = 8.0  # a departure that never gets this fast is a creep
PULL_MPS2 = 2.0  # mean over the first PULL_MPS; less is driving off in traffic
LIFT_FRACTION = 0.15  # a pull that falls under this share of its hardest on the way was lifted
LIFT_WAIT_S = 1.0
LIFT_GAIN_MPS = 0.1  # a pull that gains less than this within LIFT_WAIT_S is over
RECENT_FIXES = 4096
COMPLETE_MPS = 60 * MPH_MPS
STOP_FROM_MPS = 30 * KMH_MPS
BRAKING_MPS2 = 2.5
STOP_MEAN_MPS2 = 4.0
GAP_S = 2.0

Kind = Literal["standing", "rolling", "stop"]


@dataclass(frozen=True)
class FoundRun:
    """Where a run lies in a trace: seconds on its time axis of rough start and end, and how it ended.

    For a standing start `start_s` is the last fix at rest and `end_s` the last fix of the pull; for a stop they are
    a fix shortly before the brakes bite and the first fix at rest. Both lie within a step or two of the truth.
    """

    kind: Kind
    start_s: float
    end_s: float
    peak_mps: float
    rest_before_s: float
    complete: bool


class RunFinder:
    """Finds runs fix by fix; `feed` yields a run as soon as it has ended."""

    def __init__(self) -> None:
        self._begin()

    def _begin(self) -> None:
        """Know nothing yet, as at the start of a log and after a gap."""
        self._rest_since: float | None = None
        self._rest_s = 0.0
        self._pull: list[tuple[float, float]] = []
        self._recent: deque[tuple[float, float]] = deque(maxlen=RECENT_FIXES)
        self._last_s = float("-inf")

    def feed(self, elapsed_s: float, speed_mps: float) -> Iterator[FoundRun]:
        """Take the next fix and yield the run that it ends, if any."""
        if elapsed_s - self._last_s > GAP_S:
            yield from self.finish()
        self._last_s = elapsed_s
        if speed_mps < AT_REST_MPS:
            yield from self._come_to_rest(elapsed_s)
            return
        if self._rest_since is not None:
            self._rest_s = self._recent[-1][0] - self._rest_since
            self._rest_since = None
            self._pull = [self._recent[-1]] if self._rest_s >= STANDSTILL_S else []
            self._recent.clear()
        self._recent.append((elapsed_s, speed_mps))
        if self._pull:
            self._pull.append((elapsed_s, speed_mps))
            if _has_lifted(self._pull):
                yield from self._end_pull()

    def finish(self) -> Iterator[FoundRun]:
        """Yield what the end of the log, or a gap in it, cuts off."""
        if self._pull:
            yield from self._end_pull()
        self._begin()

    def _come_to_rest(self, elapsed_s: float) -> Iterator[FoundRun]:
        if self._rest_since is None:
            if self._pull:
                yield from self._end_pull()
            stop = _braking_before(list(self._recent), elapsed_s)
            if stop:
                yield stop
            self._rest_since = elapsed_s
        self._recent.clear()
        self._recent.append((elapsed_s, 0.0))

    def _end_pull(self) -> Iterator[FoundRun]:
        pull, self._pull = self._pull, []
        end_s, peak_mps = max(pull, key=lambda fix: fix[1])
        start_s = pull[0][0]
        firm = next((s for s, speed in pull if speed >= PULL_MPS), None)
        if firm is None or PULL_MPS / (firm - start_s) < PULL_MPS2:
            return
        complete = peak_mps >= COMPLETE_MPS and _kept_pulling(pull)
        yield FoundRun("standing", start_s, end_s, peak_mps, self._rest_s, complete)


def _has_lifted(pull: list[tuple[float, float]]) -> bool:
    """Whether the car has stopped gaining speed."""
    now_s, speed = pull[-1]
    back = len(pull) - 1
    while back > 0 and now_s - pull[back][0] < LIFT_WAIT_S:
        back -= 1
    return now_s - pull[0][0] > LIFT_WAIT_S and speed < pull[back][1] + LIFT_GAIN_MPS


def _kept_pulling(pull: list[tuple[float, float]]) -> bool:
    """Whether the car never eased off for half a second on its way to 60 mph."""
    hardest = 0.0
    back = 0
    for now_s, speed in pull:
        while now_s - pull[back][0] > 0.6:
            back += 1
        span_s = now_s - pull[back][0]
        if span_s < 0.35:
            continue
        pace = (speed - pull[back][1]) / span_s
        if hardest and pace < LIFT_FRACTION * hardest:
            return False
        hardest = max(hardest, pace)
        if speed >= COMPLETE_MPS:
            break
    return True


def _braking_before(recent: list[tuple[float, float]], rest_s: float) -> FoundRun | None:
    """The stop that ends at `rest_s`, if the fixes before it brake hard enough."""
    braking = [(rest_s, 0.0)]
    index = len(recent) - 1
    while index >= 0:
        ahead = next((i for i in range(index + 1, len(recent)) if recent[i][0] - recent[index][0] >= 0.2), None)
        later = recent[ahead] if ahead is not None else (rest_s, 0.0)
        if recent[index][1] - later[1] < BRAKING_MPS2 * (later[0] - recent[index][0]):
            break
        braking.append(recent[index])
        index -= 1
    start_s, initial = braking[-1]
    duration_s = rest_s - start_s
    if duration_s <= 0 or initial < STOP_FROM_MPS or initial / duration_s < STOP_MEAN_MPS2:
        return None
    return FoundRun("stop", start_s, rest_s, initial, 0.0, True)


def find_runs(trace: Trace) -> list[FoundRun]:
    """Every standing start and stop of the trace, in the order of time."""
    finder = RunFinder()
    found: list[FoundRun] = []
    for elapsed_s, speed_mps in zip(trace.elapsed_s.tolist(), trace.speed_mps.tolist(), strict=True):
        found.extend(finder.feed(elapsed_s, speed_mps))
    found.extend(finder.finish())
    return sorted(found, key=lambda run: run.start_s)

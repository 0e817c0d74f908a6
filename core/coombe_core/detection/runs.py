"""Finding standing starts, roll-ons and stops: one pass, fix by fix, with the same result for a file and a stream.

A standing start is a departure from rest that pulls hard; a roll-on pulls hard out of steady speed; a stop is hard
braking that ends at rest. Driving off in traffic, creeping and gentle braking are neither. Limits are the constants
below, in SI units.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from coombe_core.detection.full_power import at_full_power
from coombe_core.detection.glitches import glitches, is_glitch
from coombe_core.trace import AT_REST_MPS, Trace
from coombe_core.units import KMH_MPS, MPH_MPS

STANDSTILL_S = 0.5
# No car moves so little so shortly at 1 g: it is noise at rest, or of the very start of a launch.
BLIP_MPS, BLIP_S = 2.5, 0.45
PULL_MPS = 8.0  # a departure that never gets this fast is a creep, a roll-on that gains less is traffic
PULL_MPS2 = 2.0  # mean over the first PULL_MPS; less is driving off in traffic
LIFT_FRACTION = 0.15  # a pull that falls under this share of its hardest on the way was lifted,
LIFT_POWER_FRACTION = 0.3  # and under this of its highest power: what a weak car has left at speed is little too
LIFT_WAIT_S = 1.0
LIFT_GAIN_MPS = 0.1  # a pull that gains less than this within LIFT_WAIT_S is over
EASE_S = 0.6
LEAST_EASE_S = 0.35
# What a pull gains before it can be eased off, and has still to gain; less may be noise of steady speed.
EASED_PAST_MPS, EASED_BEFORE_MPS = 2.0, 1.0
ROLL_FROM_MPS = 5.0
ROLL_S = 0.8  # full power shows over this
STEADY_S = 1.0
STEADY_MPS2 = 0.8
RECENT_FIXES = 4096
COMPLETE_MPS = 60 * MPH_MPS
STOP_FROM_MPS = 30 * KMH_MPS
BRAKING_MPS2 = 2.5
STOP_MEAN_MPS2 = 4.0
LONE_S = 0.05  # one fix that does not slow down, or several within so short a time, are noise
HARD_STOP_MPS2 = 6.0  # a firm stop at lights stays under it; UN Regulation No. 13-H asks 6.43 of any car
DEVELOPED_FROM, DEVELOPED_TO = 0.8, 0.3
GAP_S = 2.0

Kind = Literal["standing", "rolling", "stop"]
Floats = NDArray[np.float64]
Fix = tuple[float, float]


@dataclass(frozen=True)
class FoundRun:
    """Where a run is in a trace: seconds on its time axis of rough start and end, and how it ended.

    For a standing start `start_s` is the last fix at rest, for a roll-on the last one of steady speed, and `end_s` is
    the last fix of the pull; for a stop they are a fix shortly before the brakes bite and the first fix at rest. All
    are within a step or two of the truth. `eased_s` is where a pull was first eased off, if it was; `full_power`
    is false where it is complete but for being driven as in traffic.
    """

    kind: Kind
    start_s: float
    end_s: float
    peak_mps: float
    rest_before_s: float
    complete: bool
    eased_s: float | None = None
    full_power: bool = True


class RunFinder:
    """Finds runs fix by fix; `feed` yields a run as soon as it has ended."""

    def __init__(self) -> None:
        self._before: Fix | None = None
        self._newest: Fix | None = None
        self._begin()

    def _begin(self) -> None:
        """Know nothing yet, as at the start of a log and after a gap."""
        self._rest_since: float | None = None
        self._rested_since: float | None = None
        self._rest_s = 0.0
        self._pull: list[Fix] = []
        self._back = 0  # the last fix of the pull that is LIFT_WAIT_S old
        self._kind: Kind = "standing"
        self._recent: deque[Fix] = deque(maxlen=RECENT_FIXES)
        self._pulled_until = float("-inf")
        self._last_s = float("-inf")

    @property
    def pulling(self) -> bool:
        """Whether a pull, or what may become one, is under way."""
        return bool(self._pull)

    @property
    def pull_began_s(self) -> float | None:
        """When the pull under way, or what may become one, began."""
        return self._pull[0][0] if self._pull else None

    @property
    def pull_from_mps(self) -> float:
        """The speed that the pull under way began at."""
        return self._pull[0][1] if self._pull else 0.0

    def feed(self, elapsed_s: float, speed_mps: float) -> Iterator[FoundRun]:
        """Take the next fix of a stream and yield the run that the one before it ends, if any.

        A fix counts once the next one shows that a car could follow it.
        """
        fix = (elapsed_s, speed_mps)
        if self._newest and not (self._before and is_glitch(self._before, self._newest, fix)):
            yield from self.take(*self._newest)
        self._before, self._newest = self._newest, fix

    def take(self, elapsed_s: float, speed_mps: float) -> Iterator[FoundRun]:
        """Take the next fix that counts and yield the run that it ends, if any."""
        if elapsed_s - self._last_s > GAP_S:
            yield from self._cut_off()
        self._last_s = elapsed_s
        if speed_mps < AT_REST_MPS:
            yield from self._come_to_rest(elapsed_s)
            return
        if self._rest_since is not None:
            self._leave_rest()
        self._recent.append((elapsed_s, speed_mps))
        if self._pull:
            self._pull.append((elapsed_s, speed_mps))
            if self._has_lifted():
                yield from self._end_pull()
        elif speed_mps >= ROLL_FROM_MPS:
            self._pull = self._roll_on()

    def pass_over(self, times_s: Floats, speeds_mps: Floats) -> None:
        """Take fixes in motion of which it is known that none begins or ends anything."""
        kept = slice(max(times_s.size - RECENT_FIXES, 0), None)
        self._recent.extend(zip(times_s[kept].tolist(), speeds_mps[kept].tolist(), strict=True))
        self._last_s = float(times_s[-1])

    def rest_until(self, elapsed_s: float) -> None:
        """Stay at rest until a fix, where it is known that all before it were at rest too."""
        self._recent.clear()
        self._recent.append((elapsed_s, 0.0))
        self._last_s = elapsed_s

    def finish(self) -> Iterator[FoundRun]:
        """Yield what the end of the log ends or cuts off."""
        if self._newest:
            yield from self.take(*self._newest)
        self._before = self._newest = None
        yield from self._cut_off()

    def _cut_off(self) -> Iterator[FoundRun]:
        """Yield what the end of the log, or a gap in it, cuts off."""
        if self._pull:
            yield from self._end_pull()
        self._begin()

    def _leave_rest(self) -> None:
        since_s = self._rest_since or 0.0
        self._rested_since, self._rest_since = since_s, None
        self._rest_s = self._recent[-1][0] - since_s
        self._kind = "standing"
        self._pull = [self._recent[-1]] if self._rest_s >= STANDSTILL_S else []
        self._recent.clear()

    def _come_to_rest(self, elapsed_s: float) -> Iterator[FoundRun]:
        if self._rest_since is None:
            if self._pull:
                yield from self._end_pull()
            stop = _braking_before(list(self._recent), elapsed_s)
            if stop:
                yield stop
            self._rest_since = self._rested_since if self._was_blip(elapsed_s) else elapsed_s
            self._pulled_until = float("-inf")
        self.rest_until(elapsed_s)

    def _was_blip(self, rest_s: float) -> bool:
        """Whether what is between the last rest and this one is noise."""
        moved = self._recent
        if self._rested_since is None or not moved:
            return False
        return rest_s - moved[0][0] < BLIP_S and max(speed for _, speed in moved) < BLIP_MPS

    def _roll_on(self) -> list[Fix]:
        """The fixes from the last one of steady speed on, where the latest ones pull hard; else none."""
        now_s, speed = self._recent[-1]
        begun = self._at_or_before(now_s - ROLL_S)
        if begun is None or speed - begun[1] < PULL_MPS2 * (now_s - begun[0]):
            return []
        steady = self._at_or_before(begun[0] - STEADY_S)
        if steady is None or steady[0] < self._pulled_until:
            return []
        if abs(begun[1] - steady[1]) > STEADY_MPS2 * (begun[0] - steady[0]):
            return []
        self._kind, self._rest_s = "rolling", 0.0
        return [fix for fix in self._recent if fix[0] >= begun[0]]

    def _at_or_before(self, at_s: float) -> Fix | None:
        """The latest of the recent fixes that is no later than a time."""
        return next((fix for fix in reversed(self._recent) if fix[0] <= at_s + 1e-9), None)

    def _has_lifted(self) -> bool:
        """Whether the car has stopped gaining speed."""
        pull, (now_s, speed) = self._pull, self._pull[-1]
        if now_s - pull[0][0] <= LIFT_WAIT_S:
            return False
        while now_s - pull[self._back + 1][0] >= LIFT_WAIT_S:
            self._back += 1
        return speed < pull[self._back][1] + LIFT_GAIN_MPS

    def _end_pull(self) -> Iterator[FoundRun]:
        pull, self._pull, self._back = self._pull, [], 0
        self._pulled_until = pull[-1][0]
        end_s, peak_mps = max(pull, key=lambda fix: fix[1])
        start_s, from_mps = pull[0]
        firm = next((s for s, speed in pull if speed >= from_mps + PULL_MPS), None)
        if firm is None or (self._kind == "standing" and PULL_MPS / (firm - start_s) < PULL_MPS2):
            return
        eased_s = _eased_at(pull, peak_mps)
        at_target_s = next((s for s, speed in pull if speed >= COMPLETE_MPS), None)
        complete = at_target_s is not None and (eased_s is None or eased_s > at_target_s)
        times_s, speeds_mps = np.array(pull).T
        judged_to_s = end_s if eased_s is None else min(end_s, eased_s - EASE_S)
        full = not complete or at_full_power(times_s, speeds_mps, judged_to_s)
        complete = complete and full
        yield FoundRun(self._kind, start_s, end_s, peak_mps, self._rest_s, complete, eased_s, full)


def _eased_at(pull: list[Fix], peak_mps: float) -> float | None:
    """Where the car first eased off for half a second although it pulled on afterwards; None where it did not."""
    hardest = highest = 0.0  # acceleration, and power by mass
    back = 0
    under_way = pull[0][1] + EASED_PAST_MPS
    for now_s, speed in pull[next((n for n, (_, speed) in enumerate(pull) if speed >= under_way), len(pull)) :]:
        if speed > peak_mps - EASED_BEFORE_MPS:
            break
        while now_s - pull[back][0] > EASE_S:
            back += 1
        span_s = now_s - pull[back][0]
        if span_s < LEAST_EASE_S:
            continue
        pace = (speed - pull[back][1]) / span_s
        power = pace * (speed + pull[back][1]) / 2
        if hardest > PULL_MPS2 / 2 and pace < LIFT_FRACTION * hardest and power < LIFT_POWER_FRACTION * highest:
            return now_s
        hardest, highest = max(hardest, pace), max(highest, power)
    return None


def _braking_before(recent: list[Fix], rest_s: float) -> FoundRun | None:
    """The stop that ends at `rest_s`, if the fixes before it brake hard enough."""
    braking = [(rest_s, 0.0)]
    since = 1  # how many of them there are up to the earliest that brakes
    index = ahead = len(recent) - 1
    while index >= 0:
        while ahead > index + 1 and recent[ahead - 1][0] - recent[index][0] >= 0.2:
            ahead -= 1
        later = recent[ahead] if recent[ahead][0] - recent[index][0] >= 0.2 else (rest_s, 0.0)
        if recent[index][1] - later[1] >= BRAKING_MPS2 * (later[0] - recent[index][0]):
            since = len(braking) + 1
        elif len(braking) > since and braking[since - 1][0] - recent[index][0] > LONE_S:
            break
        braking.append(recent[index])
        index -= 1
    braking = braking[:since]
    start_s, initial = braking[-1]
    duration_s = rest_s - start_s
    if duration_s <= 0 or initial < STOP_FROM_MPS or initial / duration_s < STOP_MEAN_MPS2:
        return None
    hard = _developed_mps2(braking) >= HARD_STOP_MPS2
    return FoundRun("stop", start_s, rest_s, initial, 0.0, hard, None, hard)


def _developed_mps2(braking: list[Fix]) -> float:
    """The mean deceleration from 80 to 30 % of the initial speed; fixes from the last to the first."""
    times_s, speeds_mps = np.array(braking).T
    most, least = DEVELOPED_FROM * speeds_mps[-1], DEVELOPED_TO * speeds_mps[-1]
    rising = np.maximum.accumulate(speeds_mps)
    return float((most - least) / (np.interp(least, rising, times_s) - np.interp(most, rising, times_s)))


def find_runs(trace: Trace) -> list[FoundRun]:
    """Find every run of a trace, in the order of time.

    Fixes that can neither begin nor end anything are passed over in one step; all others are fed as in a stream.

    Parameters
    ----------
    trace : Trace

    Returns
    -------
    list of FoundRun
    """
    finder = RunFinder()
    found: list[FoundRun] = []
    possible = ~glitches(trace.elapsed_s, trace.speed_mps)
    times_s, speeds_mps = trace.elapsed_s[possible], trace.speed_mps[possible]
    quiet = _quiet_until(times_s, speeds_mps)
    index = 0
    while index < times_s.size:
        found.extend(finder.take(float(times_s[index]), float(speeds_mps[index])))
        index += 1
        until = int(quiet[index - 1])
        if until <= index or finder.pulling:
            continue
        if speeds_mps[index] < AT_REST_MPS:
            finder.rest_until(float(times_s[until - 1]))
        else:
            finder.pass_over(times_s[index:until], speeds_mps[index:until])
        index = until
    found.extend(finder.finish())
    return sorted(found, key=lambda run: run.start_s)


def _quiet_until(times_s: Floats, speeds_mps: Floats) -> NDArray[np.intp]:
    """For each fix, the first one after it that may matter: rest or motion begins, a gap ends, or power comes in."""
    if not times_s.size:
        return np.zeros(0, dtype=np.intp)
    resting = speeds_mps < AT_REST_MPS
    begun = np.searchsorted(times_s, times_s - ROLL_S + 1e-9, side="right") - 1
    back = np.maximum(begun, 0)
    pulls = (begun >= 0) & (speeds_mps - speeds_mps[back] >= PULL_MPS2 * (times_s - times_s[back]))
    relevant = (pulls & (speeds_mps >= ROLL_FROM_MPS)) | (np.diff(times_s, prepend=times_s[0]) > GAP_S)
    relevant[1:] |= resting[1:] != resting[:-1]
    places = np.append(np.flatnonzero(relevant), times_s.size)
    return places[np.searchsorted(places, np.arange(times_s.size), side="right")]

"""What a glance at the strip screen needs, fix by fix: one word for where things stand, and the target as it nears.

Everything here is provisional: it rests on single fixes, and the timed run replaces it two seconds after its end.
"""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass
from typing import Literal

from coombe_core.detection.glitches import is_jump
from coombe_core.detection.runs import BRAKING_MPS2, GAP_S, PULL_MPS2, STOP_FROM_MPS, FoundRun, RunFinder
from coombe_core.interpolation import crossing
from coombe_core.timing.clocks import ROLLOUT_M
from coombe_core.timing.measures import Measure
from coombe_core.trace import AT_REST_MPS

Word = Literal["no fix", "ready", "rolling", "staged", "running", "hold on", "done"]
STAGED_AFTER_S = 1.0
RUNNING_MPS = 3.0  # slower than this a pull may still be a creep
BRAKING_OVER_S = 0.4


@dataclass(frozen=True)
class Reached:
    """The target measure as single fixes show it: seconds on a clock, and when on the trace's axis it was reached."""

    time_s: float
    at_s: float


@dataclass
class Glance:
    """Where things stand now. `since_s` and `distance_m` count from the start of a pull; None outside of one."""

    word: Word = "no fix"
    elapsed_s: float = 0.0
    speed_mps: float = 0.0
    since_s: float | None = None
    distance_m: float | None = None
    reached: Reached | None = None


class StripWatch:
    """Takes fixes, timed runs and notice that a person has seen a result; keeps a Glance up to date.

    `from_rollout` starts the provisional clock after the first foot.
    """

    def __init__(self, target: Measure, from_rollout: bool = True) -> None:
        self.now = Glance()
        self.target, self.from_rollout = target, from_rollout
        self._finder = RunFinder()
        self._recent: deque[tuple[float, float]] = deque(maxlen=256)
        self._rest_since_s: float | None = None
        self._distance_m = 0.0
        self._zero_s: float | None = None
        self._seen = True
        self._doubted = False

    def aim(self, target: Measure, from_rollout: bool) -> None:
        """Watch for another measure from now on."""
        self.target, self.from_rollout = target, from_rollout

    def fix(self, elapsed_s: float, speed_mps: float) -> Glance:
        """Take the next fix; one that no car can follow changes nothing, unless the next is there too."""
        before = self._recent[-1] if self._recent else (elapsed_s, speed_mps)
        if elapsed_s - before[0] > GAP_S:
            self._forget()
            before = (elapsed_s, speed_mps)
        if is_jump(before, (elapsed_s, speed_mps)) and not self._doubted:
            self._doubted = True
            return self.now
        self._doubted = False
        self._recent.append((elapsed_s, speed_mps))
        found = list(self._finder.take(elapsed_s, speed_mps))
        self._go_on(before, (elapsed_s, speed_mps))
        self.now.elapsed_s, self.now.speed_mps = elapsed_s, speed_mps
        self.now.word = self._word(found)
        if self.now.word == "running":
            self.now.since_s = elapsed_s - (self._zero_s if self._zero_s is not None else elapsed_s)
            self.now.distance_m = self._distance_m
        return self.now

    def timed(self) -> Glance:
        """A run's result is final."""
        self._seen = False
        if self.now.word in ("hold on", "rolling", "ready", "staged"):
            self.now.word = "done"
        return self.now

    def seen(self) -> Glance:
        """A person has decided on the result."""
        self._seen = True
        if self.now.word == "done":
            self.now.word = "ready"
        return self.now

    def silent(self) -> Glance:
        """No fix has come for a while."""
        self.now.word = "no fix"
        return self.now

    def _forget(self) -> None:
        self._recent.clear()
        self._rest_since_s = self._zero_s = None
        self._distance_m = 0.0

    def _go_on(self, before: tuple[float, float], fix: tuple[float, float]) -> None:
        """Distance since rest, the zero of the clock, and whether the target was passed between two fixes."""
        elapsed_s, speed_mps = fix
        if speed_mps < AT_REST_MPS:
            self._rest_since_s = elapsed_s if self._rest_since_s is None else self._rest_since_s
            self._distance_m, self._zero_s = 0.0, None
            return
        if self._rest_since_s is not None:
            self._rest_since_s, self._seen = None, True
            self.now.reached = None
            self._zero_s = None if self.from_rollout else before[0]
        passed_m = self._distance_m
        self._distance_m += (before[1] + speed_mps) / 2 * (elapsed_s - before[0])
        if self.target.from_rest:
            if self._zero_s is None and self._distance_m >= ROLLOUT_M:
                self._zero_s = crossing(ROLLOUT_M, (passed_m, self._distance_m), (before[0], elapsed_s))
        elif before[1] < self.target.from_mps <= speed_mps:
            self._zero_s = crossing(self.target.from_mps, (before[1], speed_mps), (before[0], elapsed_s))
            self.now.reached = None
        self._reach(before, fix, passed_m)

    def _reach(self, before: tuple[float, float], fix: tuple[float, float], passed_m: float) -> None:
        if self.now.reached or self._zero_s is None or self.target.basis == "stop":
            return
        if self.target.to_m:
            level, passed = self.target.to_m, (passed_m, self._distance_m)
        else:
            level, passed = self.target.to_mps, (before[1], fix[1])
        if passed[0] < level <= passed[1]:
            at_s = crossing(level, passed, (before[0], fix[0]))
            assert at_s is not None
            self.now.reached = Reached(at_s - self._zero_s, at_s)

    def _word(self, found: list[FoundRun]) -> Word:
        elapsed_s, speed_mps = self._recent[-1]
        if found:
            return "hold on"
        if self._pulls_hard() or (self.target.basis == "stop" and self._brakes_hard()):
            return "running"
        if self.now.word in ("running", "hold on") and (speed_mps >= AT_REST_MPS or self._finder.pulling):
            return "hold on"
        if not self._seen:
            return "done"
        self.now.since_s = self.now.distance_m = None
        if self.now.word == "staged" and self._finder.pulling and speed_mps < RUNNING_MPS:
            return "staged"
        rested = self._rest_since_s is not None and elapsed_s - self._rest_since_s >= STAGED_AFTER_S
        if speed_mps >= AT_REST_MPS:
            return "rolling"
        return "staged" if rested else "ready"

    def _pulls_hard(self) -> bool:
        began_s = self._finder.pull_began_s
        if began_s is None:
            return False
        elapsed_s, speed_mps = self._recent[-1]
        from_mps = self._finder.pull_from_mps
        return speed_mps >= RUNNING_MPS and speed_mps - from_mps >= PULL_MPS2 * (elapsed_s - began_s)

    def _brakes_hard(self) -> bool:
        elapsed_s, speed_mps = self._recent[-1]
        earlier = next((fix for fix in reversed(self._recent) if elapsed_s - fix[0] >= BRAKING_OVER_S), None)
        if earlier is None or speed_mps < AT_REST_MPS:
            return False
        going = self.now.word == "running" or earlier[1] >= STOP_FROM_MPS
        return going and earlier[1] - speed_mps >= BRAKING_MPS2 * (elapsed_s - earlier[0])

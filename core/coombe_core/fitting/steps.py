"""Steps of acceleration: where the driver lifts, the brakes bite or a pull falters, each over a short fade."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
STEP_REACH_S = 0.1
STEP_FADE_S, STEP_FADE_SPREAD_S = 0.15, 0.1
LEAST_FADE_S, MOST_FADE_S = 0.02, 0.7


@dataclass(frozen=True)
class Step:
    """A change of acceleration: where it begins, how long it fades and its size; `rough_s` is where it was sought."""

    rough_s: float
    instant_s: float
    fade_s: float = STEP_FADE_S
    size_mps2: float = 0.0

    def moved(self, size_mps2: float, later_s: float, longer_s: float) -> Step:
        """The step after one Gauss-Newton step, held where the linear terms still mean something."""
        if self.size_mps2 == 0.0:  # its instant and fade have had no rows yet
            later_s = longer_s = 0.0
        fade_s = float(np.clip(self.fade_s + longer_s, LEAST_FADE_S, MOST_FADE_S))
        later_s = float(np.clip(later_s, -STEP_REACH_S, STEP_REACH_S))
        return Step(self.rough_s, self.instant_s + later_s, fade_s, float(size_mps2))


@dataclass(frozen=True, eq=False)
class Changes:
    """What acceleration, speed and distance change with the size, instant and fade of each of some steps."""

    instants_s: Floats
    fades_s: Floats
    sizes_mps2: Floats

    @classmethod
    def of(cls, steps: Sequence[Step]) -> Changes:
        """Those of some steps (S)."""
        each = [(step.instant_s, step.fade_s, step.size_mps2) for step in steps]
        return cls(*np.array(each).reshape(-1, 3).T)

    def rows(self, at_s: Floats) -> Floats:
        """Rows of acceleration, speed and distance (3 x n x 3 S)."""
        x, past = self._since(at_s)
        f, d = self.fades_s, self.sizes_mps2
        rows = np.empty((3, *x.shape, 3))
        rows[1] = self._of_speed(x, past)
        share, speed = (x - past) / f, rows[1, ..., 0]
        rows[0] = np.stack([share, -d * ((x > 0) & (past == 0)) / f, d * ((past > 0) - share) / f], axis=2)
        way = (x**3 - past**3) / (6 * f)
        rows[2] = np.stack([way, -d * speed, d * (past**2 / 2 - way) / f], axis=2)
        return rows.reshape(3, at_s.size, 3 * f.size)

    def speeds(self, at_s: Floats) -> Floats:
        """The rows of speed alone (n x 3 S)."""
        return self._of_speed(*self._since(at_s)).reshape(at_s.size, 3 * self.fades_s.size)

    def _of_speed(self, x: Floats, past: Floats) -> Floats:
        f, d = self.fades_s, self.sizes_mps2
        share, speed = (x - past) / f, (x**2 - past**2) / (2 * f)
        return np.stack([speed, -d * share, d * (past - speed) / f], axis=2)

    def _since(self, at_s: Floats) -> tuple[Floats, Floats]:
        x = at_s[:, None] - self.instants_s
        return np.maximum(x, 0.0), np.maximum(x - self.fades_s, 0.0)

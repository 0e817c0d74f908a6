"""The fitted motion of a run, as charts and other steps take it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.timing.measure import ROLLOUT_M, Clock


@dataclass(frozen=True)
class Curve:
    """The fitted motion of a run (n each), `since_s` from first movement or, in a stop, from brake onset."""

    since_s: NDArray[np.float64]
    speed_mps: NDArray[np.float64]
    distance_m: NDArray[np.float64]
    acceleration_mps2: NDArray[np.float64]

    def zero_s(self, clock: Clock, from_mps: float = 0.0) -> float:
        """Where a clock's zero lies (s on this curve's axis); `from_mps` is where a speed-to-speed measure begins."""
        if clock == "rollout":
            return float(np.interp(ROLLOUT_M, self.distance_m, self.since_s))
        return float(np.interp(from_mps, self.speed_mps, self.since_s)) if clock == "speed" and from_mps else 0.0

"""The fitted motion of a run, as charts and other steps take it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class Curve:
    """The fitted motion of a run (n each), `since_s` from first movement or, in a stop, from brake onset."""

    since_s: NDArray[np.float64]
    speed_mps: NDArray[np.float64]
    distance_m: NDArray[np.float64]
    acceleration_mps2: NDArray[np.float64]

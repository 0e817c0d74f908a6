"""How a car takes up torque: ramp shapes and the range of their durations, before any data."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

Shape = Literal["linear", "smooth", "first-order"]
SHAPES: tuple[Shape, ...] = ("linear", "smooth", "first-order")
# An electric car is at full torque (first-order: at 95 %) 0.05-0.25 s after it begins to move: common practice.
LAUNCH_RAMPS_S = (0.05, 0.09, 0.13, 0.17, 0.21, 0.25)
# A stop, seen backwards, takes up its deceleration at once, or over a moment where the driver eases off.
HALT_RAMPS_S = (0.01, 0.04, 0.08, 0.15)


def torque_share(shape: Shape, since_start_s: NDArray[np.float64], duration_s: float) -> NDArray[np.float64]:
    """The share of full torque (0 to 1) at times since the launch, in seconds; 0 before it."""
    x = np.maximum(since_start_s, 0.0) / duration_s
    if shape == "first-order":
        share: NDArray[np.float64] = 1.0 - np.exp(-3.0 * x)
        return share
    x = np.minimum(x, 1.0)
    return x * x * (3.0 - 2.0 * x) if shape == "smooth" else x

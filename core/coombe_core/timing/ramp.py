"""How a car takes up torque: ramp shapes, their durations before any data, and their integrals in closed form."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Shape = Literal["linear", "smooth", "first-order"]
SHAPES: tuple[Shape, ...] = ("linear", "smooth", "first-order")
# An electric car is at full torque (first-order: at 95 %) 0.05-0.25 s after it begins to move: common practice.
LAUNCH_RAMPS_S = (0.05, 0.09, 0.13, 0.17, 0.21, 0.25)
# A stop, seen backwards, takes up its deceleration at once, or over a moment where the driver eases off.
HALT_RAMPS_S = (0.002, 0.005, 0.01, 0.04)
FIRST_ORDER_ENDS = 3.0  # time constants until 95 %


def torque_integrals(shape: Shape, highest: int, since_s: Floats, duration_s: Floats) -> list[Floats]:
    """The share of full torque (0 to 1) at times since the launch, and its running integrals up to `highest`-fold.

    Durations broadcast against the times. A linear and a smooth ramp are sums of truncated powers; for a first-order
    one R_n = t^n / n! - R_(n-1) / rate.
    """
    x = np.maximum(since_s, 0.0)
    powers = _powers(x, highest + 3)
    if shape == "first-order":
        rate = FIRST_ORDER_ENDS / duration_s
        integrals = [-np.expm1(-rate * x)]
        for power in powers[1 : highest + 1]:
            integrals.append(power - integrals[-1] / rate)
        return integrals
    past = _powers(np.maximum(since_s - duration_s, 0.0), highest + 3)
    orders = range(highest + 1)
    if shape == "linear":
        return [(powers[n + 1] - past[n + 1]) / duration_s for n in orders]
    bends = [6.0 * (powers[n + 2] + past[n + 2]) for n in orders]
    return [(bends[n] - 12.0 / duration_s * (powers[n + 3] - past[n + 3])) / duration_s**2 for n in orders]


def _powers(x: Floats, highest: int) -> list[Floats]:
    """x^n / n! for n from 0 to `highest`."""
    powers = [np.ones_like(x)]
    for n in range(1, highest + 1):
        powers.append(powers[-1] * x / n)
    return powers

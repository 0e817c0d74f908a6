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
HALT_RAMPS_S = (0.004, 0.012, 0.02)
FIRST_ORDER_ENDS = 3.0  # time constants until 95 %


def torque_integrals(shape: Shape, highest: int, since_s: Floats, duration_s: Floats) -> list[Floats]:
    """Integrate the share of full torque over time, several times over, in closed form.

    A linear and a smooth ramp are sums of truncated powers; for a first-order one R_n = t^n / n! - R_(n-1) / rate.

    Parameters
    ----------
    shape : {"linear", "smooth", "first-order"}
    highest : int
        How many times to integrate.
    since_s : array of float
        Since the launch.
    duration_s : array of float
        Of the ramp; broadcasts against the times.

    Returns
    -------
    list of array
        The share (0 to 1), then its running integrals.
    """
    return _integrals(shape, highest, *_powers(highest, since_s, duration_s), duration_s)


def integrals_of_shapes(highest: int, since_s: Floats, durations_s: Floats) -> list[Floats]:
    """Do the same for every shape and every duration (D): times and integrals are (shapes times D) x n."""
    all_s = np.tile(durations_s, len(SHAPES))[:, None]
    powers, past = _powers(highest, since_s, all_s)
    blocks = []
    for number, shape in enumerate(SHAPES):
        rows = slice(number * durations_s.size, (number + 1) * durations_s.size)
        blocks.append(_integrals(shape, highest, [p[rows] for p in powers], [p[rows] for p in past], all_s[rows]))
    return [np.concatenate(parts) for parts in zip(*blocks, strict=True)]


def _integrals(
    shape: Shape, highest: int, powers: list[Floats], past: list[Floats], duration_s: Floats
) -> list[Floats]:
    """From powers of the times since the launch, and since the ramp was over."""
    if shape == "first-order":
        rate = FIRST_ORDER_ENDS / duration_s
        integrals = [-np.expm1(-rate * powers[1])]
        for power in powers[1 : highest + 1]:
            integrals.append(power - integrals[-1] / rate)
        return integrals
    orders = range(highest + 1)
    if shape == "linear":
        return [(powers[n + 1] - past[n + 1]) / duration_s for n in orders]
    bends = [6.0 * (powers[n + 2] + past[n + 2]) for n in orders]
    return [(bends[n] - 12.0 / duration_s * (powers[n + 3] - past[n + 3])) / duration_s**2 for n in orders]


def _powers(highest: int, since_s: Floats, duration_s: Floats) -> tuple[list[Floats], list[Floats]]:
    """x^n / n! for n from 0 on, of the times since the launch and since the ramp was over; 0 before that."""
    both = []
    for times_s in (since_s, since_s - duration_s):
        x = np.maximum(times_s, 0.0)
        powers = [np.ones_like(x)]
        for n in range(1, highest + 4):
            powers.append(powers[-1] * x / n)
        both.append(powers)
    return both[0], both[1]

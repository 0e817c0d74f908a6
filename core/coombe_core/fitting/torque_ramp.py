"""How a car takes up torque: ramp shapes, their durations before any data, and their integrals in closed form."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Shape = Literal["linear", "smooth", "first-order"]
SHAPES: tuple[Shape, ...] = ("linear", "smooth", "first-order")
FIRST_ORDER_ENDS = 3.0  # time constants until 95 %


@dataclass(frozen=True)
class Ramp:
    """A ramp's duration, the share of full torque it begins with, and how usual it is beforehand."""

    duration_s: float
    begun: float = 0.0
    usual: float = 1.0


@dataclass(frozen=True, eq=False)
class Ramps:
    """The ramps that there may be (K each): shapes by their place in SHAPES, durations, begun shares, and the prior."""

    shapes: NDArray[np.intp]
    durations_s: Floats
    begun: Floats
    prior: Floats

    @classmethod
    def of(cls, *each: Ramp) -> Ramps:
        """Each of some ramps (D) in every shape: shapes times D."""
        usual = np.tile([ramp.usual for ramp in each], len(SHAPES))
        return cls(
            np.repeat(np.arange(len(SHAPES)), len(each)),
            np.tile([ramp.duration_s for ramp in each], len(SHAPES)),
            np.tile([ramp.begun for ramp in each], len(SHAPES)),
            np.asarray(usual / usual.sum()),
        )

    def only(self, chosen: NDArray[np.bool_]) -> Ramps:
        """Some of them."""
        return Ramps(self.shapes[chosen], self.durations_s[chosen], self.begun[chosen], self.prior[chosen])


# An electric car is at full torque (first-order: at 95 %) 0.05-0.25 s after it begins to move: common practice. Few are
# quicker, with their torque up before the brakes let go, or softer.
LAUNCH_RAMPS = Ramps.of(
    *(Ramp(duration_s) for duration_s in (0.05, 0.09, 0.13, 0.17, 0.21, 0.25)),
    *(Ramp(duration_s, usual=0.3) for duration_s in (0.02, 0.34, 0.44, 0.55)),
)
# A stop, seen backwards, takes up its deceleration at once, over a moment where the driver eases off, or begins with
# most of it where regeneration fades out and the brakes hold on.
HALT_RAMPS = Ramps.of(
    *(Ramp(duration_s) for duration_s in (0.004, 0.02)),
    *(Ramp(duration_s, usual=0.5) for duration_s in (0.06, 0.12, 0.2, 0.3, 0.42, 0.55)),
    *(Ramp(duration_s, begun, usual=0.3) for begun in (0.7, 0.85) for duration_s in (0.25, 0.4, 0.55)),
)


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


def integrals_of_shapes(highest: int, since_s: Floats, ramps: Ramps) -> list[Floats]:
    """Do the same for every ramp (K) in its shape: times and integrals are K x n."""
    all_s, begun = ramps.durations_s[:, None], ramps.begun[:, None]
    powers, past = _powers(highest, since_s, all_s)
    ramped = [np.empty_like(since_s) for _ in range(highest + 1)]
    for number, shape in enumerate(SHAPES):
        rows = ramps.shapes == number
        each = _integrals(shape, highest, [p[rows] for p in powers], [p[rows] for p in past], all_s[rows])
        for whole, part in zip(ramped, each, strict=True):
            whole[rows] = part
    if not begun.any():
        return ramped
    at_once = [np.asarray(since_s > 0.0, dtype=np.float64), *powers[1:]]
    return [begun * full + (1.0 - begun) * rising for full, rising in zip(at_once, ramped, strict=False)]


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

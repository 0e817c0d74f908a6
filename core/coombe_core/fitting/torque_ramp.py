"""How a car takes up torque: ramp shapes, their durations before any data, and their integrals in closed form."""

from __future__ import annotations

import itertools
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
    """The ramps that there may be (K each): shapes by place in SHAPES, in its order; durations, begun shares, prior."""

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

    @property
    def delays_s(self) -> Floats:
        """By how much later than torque at once each gives the same speed in the end (K)."""
        share = np.where(self.shapes == SHAPES.index("first-order"), 1.0 / FIRST_ORDER_ENDS, 0.5)
        return np.asarray(share * (1.0 - self.begun) * self.durations_s)

    def only(self, chosen: NDArray[np.bool_]) -> Ramps:
        """Some of them."""
        return Ramps(self.shapes[chosen], self.durations_s[chosen], self.begun[chosen], self.prior[chosen])


# An electric car is at full torque (first-order: at 95 %) 0.05-0.25 s after it begins to move: common practice. Few are
# quicker, with their torque up before the brakes let go, or softer.
LAUNCH_RAMPS = Ramps.of(
    *(Ramp(duration_s) for duration_s in (0.05, 0.09, 0.13, 0.17, 0.21, 0.25)),
    *(Ramp(duration_s, usual=0.3) for duration_s in (0.02, 0.34, 0.44, 0.55)),
)
USUAL_DELAY_S = 0.05
# A stop, seen backwards, takes up its deceleration at once, over a moment where the driver eases off, or begins with
# most of it where regeneration fades out and the brakes hold on.
HALT_RAMPS = Ramps.of(
    *(Ramp(duration_s, usual=2.0) for duration_s in (0.004, 0.02)),
    *(Ramp(duration_s, usual=0.5) for duration_s in (0.06, 0.12, 0.2, 0.3, 0.42, 0.55)),
    *(Ramp(duration_s, begun, usual=0.3) for begun in (0.7, 0.85) for duration_s in (0.25, 0.4, 0.55)),
)


def torque_integrals(shape: Shape, highest: int, since_s: Floats, duration_s: Floats) -> Floats:
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
    array of float, shape (highest + 1, ...)
        The share (0 to 1), then its running integrals.
    """
    over_s = since_s - duration_s
    return _integrals(shape, highest, _powers(highest + 3, since_s), _powers(highest + 3, over_s), duration_s)


def integrals_of_shapes(highest: int, since_s: Floats, ramps: Ramps) -> Floats:
    """Do the same for every ramp (K) in its shape: times are K x n, integrals (highest + 1) x K x n."""
    all_s, begun = ramps.durations_s[:, None], ramps.begun[:, None]
    powers, past = _powers(highest + 3, since_s), _powers(highest + 3, since_s - all_s)
    bounds = np.searchsorted(ramps.shapes, np.arange(len(SHAPES) + 1))
    rows = [slice(*pair) for pair in itertools.pairwise(bounds)]
    each = [_integrals(SHAPES[n], highest, powers[:, row], past[:, row], all_s[row]) for n, row in enumerate(rows)]
    ramped = np.concatenate(each, axis=1)
    if not begun.any():
        return ramped
    powers[0] = since_s > 0.0
    return np.asarray(begun * powers[: highest + 1] + (1.0 - begun) * ramped)


def _integrals(shape: Shape, highest: int, powers: Floats, past: Floats, duration_s: Floats) -> Floats:
    """From powers of the times since the launch, and since the ramp was over."""
    if shape == "first-order":
        rate = FIRST_ORDER_ENDS / duration_s
        integrals = powers[: highest + 1].copy()
        integrals[0] = -np.expm1(-rate * powers[1])
        for n in range(1, highest + 1):
            integrals[n] -= integrals[n - 1] / rate
        return integrals
    if shape == "linear":
        return np.asarray((powers[1 : highest + 2] - past[1 : highest + 2]) / duration_s)
    bends = 6.0 * (powers[2 : highest + 3] + past[2 : highest + 3])
    return np.asarray((bends - 12.0 / duration_s * (powers[3 : highest + 4] - past[3 : highest + 4])) / duration_s**2)


def _powers(highest: int, times_s: Floats) -> Floats:
    """x^n / n! for n from 0 to the highest, the first axis; 0 before time 0, but for n = 0."""
    powers = np.empty((highest + 1, *times_s.shape))
    powers[0] = 1.0
    powers[1:] = np.maximum(times_s, 0.0) / np.arange(1.0, highest + 1).reshape(-1, *[1] * times_s.ndim)
    return np.asarray(np.multiply.accumulate(powers, axis=0, out=powers))

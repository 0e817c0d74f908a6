"""What a receiver that shows speed behind a first-order filter makes of a run.

The true speed is what it shows plus the filter's time constant f times its rate of change, so that all it says comes
later by f, but for first movement. A time t after a launch at steady acceleration a it shows the speed
a (t - f (1 - exp(-t/f))) and the distance a (t^2/2 - f t + f^2 (1 - exp(-t/f))).
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.uncertainty import COVERAGE_95, Value

Floats = NDArray[np.float64]
SOFT_S = 0.25  # an electric car's torque is nearly up by then: common practice
# How it would make acceleration rise to 0.9 of its highest: over so many times its time constant (ln 10).
SMOOTHED_RISE = 2.3
# It is as likely as not where a start may be soft, and hardly where it surely is not; between, as this far between.
SURELY_QUICK_S, MAYBE_SOFT_S = 0.175, 0.205
LIKELY_IF_QUICK, LIKELY_IF_SOFT = 0.05, 0.5
RISE_SHOWN_WITHIN = 0.33  # of the step between two fixes
# 1 sigma of what is left once a known smoothing was taken out, since torque does not come at once: a share, and of
# first movement.
UNDONE_WITHIN, LAUNCH_UNDONE_WITHIN_S = 0.04, 0.03


@dataclass(frozen=True, eq=False)
class Begun:
    """The parameters (P) of a fitted start, or of a stop seen backwards: the launch first.

    `early` says where the instant of every early speed (1) and distance (2) stands, followed by the other of the two;
    `distance` where the distance at which full torque begins does; acceleration there is `full_mps2`.
    """

    mean: Floats
    early: Mapping[tuple[int, float], int]
    distance: int
    full_mps2: float

    def moved_by(self, smoothing_s: float) -> Floats:
        """How far the parameters (P) of a start move where a filter is taken out.

        The launch comes later, instead of all else earlier. Later on the distance is a f^2 / 2 too much.
        """
        moved = np.zeros(self.mean.size)
        if smoothing_s == 0.0:
            return moved
        moved[0] = smoothing_s
        for (order, _), place in self.early.items():
            since_s = max(float(self.mean[place] - self.mean[0]), 0.0)
            caught_up = smoothing_s * -math.expm1(-since_s / smoothing_s)
            halved = since_s**2 / 2 - smoothing_s * (since_s - caught_up)
            true_s = since_s - caught_up if order == 1 else math.sqrt(2 * halved)
            moved[place] = true_s + smoothing_s - since_s
        moved[self.distance] = -self.full_mps2 * smoothing_s**2 / 2
        return moved


@dataclass(frozen=True, eq=False)
class Undone:
    """What was taken out: how far the parameters (P) moved, and the covariance (P x P) that adds.

    At full torque the true speed is what is shown `later_s` before plus `gain_s` times its acceleration, and the
    distance is that plus `gain_s` times speed.
    """

    moved: Floats
    covariance: Floats
    later_s: float = 0.0
    gain_s: float = 0.0

    @classmethod
    def nothing(cls, parameters: int, gain_s: float = 0.0) -> Undone:
        """Nothing that moves a parameter."""
        return cls(np.zeros(parameters), np.zeros((parameters, parameters)), gain_s=gain_s)


def taken_out_s(known_s: Value | None) -> float:
    """The time constant that is taken out: what is known, and nothing where nothing is."""
    return known_s.value if known_s else 0.0


def undone_of_start(start: Begun, known_s: Value | None, rise_s: float, step_s: float) -> Undone:
    """Take out what is known of a receiver's smoothing; where nothing is, leave a doubt by how soft the start is.

    Parameters
    ----------
    start : Begun
    known_s : Value or None
        The time constant of its filter.
    rise_s : float
        How long after the launch acceleration is nearly at its highest.
    step_s : float
        The usual step between two fixes.

    Returns
    -------
    Undone
    """
    if known_s is None:
        apart = start.moved_by(rise_s / SMOOTHED_RISE)
        soft_s = rise_s + RISE_SHOWN_WITHIN * step_s
        likely = np.interp(soft_s, (SURELY_QUICK_S, MAYBE_SOFT_S), (LIKELY_IF_QUICK, LIKELY_IF_SOFT))
        return Undone(np.zeros(apart.size), likely * np.outer(apart, apart))
    moved = start.moved_by(known_s.value)
    moved[start.distance] = 0.0  # speed and distance at full torque are shown ones, which their reader unsmooths
    apart = start.moved_by(known_s.value + _doubt_s(known_s)) - start.moved_by(known_s.value)
    return Undone(moved, _spread(apart, known_s), known_s.value, known_s.value)


def undone_of_stop(end: Begun, known_s: Value | None) -> Undone:
    """Take out what is known of a receiver's smoothing where a stop is seen backwards.

    The filter shows every speed later, so that backwards all is f earlier than it was. Rest itself it draws out: the
    launch of `end` is to be the instant from which, at full deceleration at once, the speeds shown would follow. Each
    distance to rest is a f^2 / 2 too much.

    Parameters
    ----------
    end : Begun
        Of its early levels, speeds alone.
    known_s : Value or None
        The time constant of its filter.

    Returns
    -------
    Undone
    """
    if known_s is None or not known_s.value:
        return Undone.nothing(end.mean.size)
    instants = list(end.early.values())
    by_square = np.zeros(end.mean.size)
    by_square[[end.distance, *(place + 1 for place in instants)]] = -end.full_mps2 / 2
    moved = by_square * known_s.value**2
    moved[[0, *instants]] = known_s.value
    moved[end.distance] = 0.0  # as in a start
    return Undone(moved, _spread(2 * by_square * known_s.value * _doubt_s(known_s), known_s), gain_s=-known_s.value)


def undone_of_roll_on(known_s: Value | None, parameters: int) -> Undone:
    """Take out what is known of a receiver's smoothing of a pull without a launch, whose speeds all come later alike.

    Parameters
    ----------
    known_s : Value or None
        The time constant of its filter.
    parameters : int
        How many the fit has.

    Returns
    -------
    Undone
    """
    return Undone.nothing(parameters, taken_out_s(known_s))


def _doubt_s(known_s: Value) -> float:
    """1 sigma of what is left once a known smoothing was taken out."""
    return math.hypot(known_s.u95 / COVERAGE_95, UNDONE_WITHIN * known_s.value)


def _spread(apart: Floats, known_s: Value) -> Floats:
    """The covariance (P x P) of what is left, which moves the parameters by so much, and of the launch."""
    covariance = np.outer(apart, apart)
    covariance[0, 0] += LAUNCH_UNDONE_WITHIN_S**2 if known_s.value else 0.0
    return covariance

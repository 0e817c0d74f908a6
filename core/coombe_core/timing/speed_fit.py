"""A run's motion fitted to noisy Doppler speed, from which every instant, speed and distance is drawn.

Acceleration is a torque ramp times a smooth curve, and changes at once where the driver lifts (`motion`); the ramp is
averaged over (`launching`). All is summed up in one vector of parameters with one covariance. Fed with time reversed,
the same fit times a stop; without a launch, a roll-on.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.timing.estimate import Estimate
from coombe_core.timing.launching import CUBIC, Launch
from coombe_core.timing.motion import Fixes, Motion, Step, TooFewFixesError
from coombe_core.timing.spline import Spline

__all__ = ["Reached", "SpeedFit", "TooFewFixesError"]

Floats = NDArray[np.float64]
SPACING_S = 0.2
WIDENING = 0.07  # knots lie further apart as the run goes on
REACH_S = 0.6  # the launch is sought this far before and about its rough instant
JOIN_S = 0.7  # this long after it every ramp has ended
AT_LEAST_S = 0.35
FULL_S = 0.5  # from here on the ramp is full, and the one fit of the fixes after the join holds
MOVING_MPS = 1.0
GRID_S = 0.01


@dataclass(frozen=True, eq=False)
class Reached:
    """The instant at which a level of speed or distance was first reached, and both of them there."""

    instant: Estimate
    speed: Estimate
    distance: Estimate


class SpeedFit:
    """The fitted motion of a run on the caller's time axis.

    `fixes` reach from rest (or from steady speed) to shortly after the end of the pull; `steps_s` are about where
    acceleration changes at once; `ramps_s` are the durations that the launch may have, none for a car that rolls.
    Speeds and distances that may be reached while the ramp still acts must be named in `early_mps` and `early_m`.
    Raises TooFewFixesError where too few fixes are in motion.
    """

    def __init__(
        self,
        fixes: Fixes,
        steps_s: Sequence[float],
        ramps_s: Sequence[float] = (),
        early_mps: Sequence[float] = (),
        early_m: Sequence[float] = (),
    ) -> None:
        first_s, self._end_s = float(fixes.time_s[0]), float(fixes.time_s[-1])
        if ramps_s:
            rough_s, spacing_s = _rough_launch(fixes), max(SPACING_S, fixes.step_s)
            join_s = min(rough_s + JOIN_S + fixes.step_s, max(steps_s[-1], rough_s + AT_LEAST_S))
            self._from_s = min(rough_s + FULL_S, join_s)
            knots = [rough_s - REACH_S - fixes.step_s, *_knots(join_s, self._end_s, spacing_s, rough_s)]
            late = fixes.part(fixes.time_s > join_s)
            self._motion = Motion(late, Spline(np.array(knots)), tuple(steps_s), rough_s)
            early = fixes.part(fixes.time_s <= join_s)
            self._launch: Launch | None = Launch(early, self._motion, rough_s, join_s, ramps_s)
            self._add_up(self._launch, early_mps, early_m)
        else:
            self._from_s, self._launch = first_s, None
            spline = Spline(np.array(_knots(first_s, self._end_s, max(SPACING_S, fixes.step_s), first_s)))
            self._motion = Motion(fixes, spline, tuple(steps_s), steps_s[0])
            self._early: dict[tuple[int, float], int] = {}
            mean, covariance = self._motion.solved()
            self._mean = np.concatenate([[0.0], mean])
            self._covariance = np.pad(covariance, ((1, 0), (1, 0)))
        shift = self._motion.smoothing_shift()
        self._lead = self._mean.size - shift.size
        moved = np.zeros(self._mean.size)
        moved[self._lead :] = shift
        moved[self._lead - 1] = -float(self._rows(np.array([self._from_s]))[2][0] @ moved)
        self._covariance += np.outer(moved, moved)
        self._grid_s = np.arange(self._from_s, self._end_s, GRID_S)
        self._grid = [row @ self._mean for row in self._rows(self._grid_s)]

    def _add_up(self, launch: Launch, early_mps: Sequence[float], early_m: Sequence[float]) -> None:
        """One mean and one covariance over all ramps.

        Parameters: the launch, instant and distance of every early speed, instant and speed of every early
        distance, the way at the first knot, and those of `Motion`.
        """
        offset, by_offset = launch.shared(2)
        speed, by_speed = launch.shared(1)
        width_s = launch.join_s - self._motion.spline.inner_s[0]
        full_mps = float(launch.weights @ speed) + self._speed_gained(launch)
        levels = [
            (1, np.array(sorted({v for v in early_mps if 0 < v < full_mps}))),
            (2, np.array(sorted(early_m))),
        ]
        names: list[tuple[int, float]] = []
        numbers, slopes = [launch.instants_s[:, None]], [np.eye(CUBIC + 1)[None, -1:].repeat(speed.size, axis=0)]
        for order, wanted in levels:
            if not wanted.size:
                continue
            times_s, moved = launch.crossings(order, wanted)
            other, by_other = launch.at(3 - order, times_s, moved)
            names += [(order, float(level)) for level in wanted]
            numbers += [np.stack([times_s, other], axis=2).reshape(speed.size, -1)]
            slopes += [np.stack([moved, by_other], axis=2).reshape(speed.size, -1, CUBIC + 1)]
        self._early = {name: 1 + 2 * place for place, name in enumerate(names)}
        numbers += [(offset - width_s * speed)[:, None], speed[:, None], launch.coefficients]
        slopes += [(by_offset - width_s * by_speed)[:, None], by_speed[:, None]]
        slopes += [np.eye(CUBIC, CUBIC + 1)[None].repeat(speed.size, axis=0)]
        shared, slope = np.concatenate(numbers, axis=1), np.concatenate(slopes, axis=1)
        mean = launch.weights @ shared
        apart = shared - mean
        within = np.einsum("k,kip,kpq,kjq->ij", launch.weights, slope, launch.covariances, slope, optimize=True)
        covariance = within + np.einsum("k,ki,kj->ij", launch.weights, apart, apart)
        reduced = self._motion.reduced(1 + CUBIC)
        follow = np.vstack([np.eye(mean.size), np.zeros((reduced.rest.size, mean.size))])
        follow[mean.size :, -1 - CUBIC :] = -reduced.rest_by_first
        self._mean = follow @ mean
        self._mean[mean.size :] += reduced.rest
        self._covariance = follow @ covariance @ follow.T
        self._covariance[mean.size :, mean.size :] += reduced.rest_covariance

    def _speed_gained(self, launch: Launch) -> float:
        """Speed that full torque gains from the first knot to where the ramp is full."""
        row = self._motion.spline.rows(np.array([self._from_s]))[1][0, :CUBIC]
        return float(launch.weights @ launch.coefficients @ row)

    @property
    def noise_mps(self) -> float:
        """The receiver's noise in motion, 1 sigma."""
        return self._motion.noise_mps

    @property
    def noise_correlation(self) -> float:
        """Correlation of the noise of two fixes in a row."""
        return self._motion.correlation

    @property
    def steps(self) -> list[Step]:
        """Where acceleration changed at once, as fitted."""
        return self._motion.steps

    def _rows(self, at_s: Floats) -> tuple[Floats, Floats, Floats]:
        """Rows (n x P) over all parameters for acceleration, speed and distance at full torque."""
        parts = self._motion.rows(at_s)
        lead = np.zeros((3, at_s.size, self._lead))
        lead[2, :, -1] = 1.0
        a, v, s = (np.hstack([lead[n], parts[n]]) for n in range(3))
        return a, v, s

    def _estimate(self, number: float, gradient: Floats) -> Estimate:
        return Estimate(number, gradient, self._covariance)

    def _parameter(self, place: int) -> Estimate:
        gradient = np.zeros(self._mean.size)
        gradient[place] = 1.0
        return self._estimate(float(self._mean[place]), gradient)

    def launch(self) -> Estimate:
        """The instant at which the car leaves rest."""
        return self._parameter(0)

    def constant(self, number: float) -> Estimate:
        """A number that is certain."""
        return self._estimate(number, np.zeros(self._mean.size))

    def reaches_speed(self, speed_mps: float) -> Reached | None:
        """Where `speed_mps` is first reached, or None where it is not."""
        return self._reaches(1, speed_mps)

    def reaches_distance(self, distance_m: float) -> Reached | None:
        """Where `distance_m` from the start is covered, or None where it is not."""
        return self._reaches(2, distance_m)

    def _reaches(self, order: int, level: float) -> Reached | None:
        if (order, level) in self._early:
            place = self._early[order, level]
            instant, other = self._parameter(place), self._parameter(place + 1)
            known = self.constant(level)
            return Reached(instant, known, other) if order == 1 else Reached(instant, other, known)
        curve = self._grid[order]
        above = int(np.argmax(curve >= level))
        if above == 0 and curve[0] != level:
            return None
        share = (level - curve[above - 1]) / (curve[above] - curve[above - 1]) if above else 0.0
        at_s = float(self._grid_s[above] - (1 - share) * GRID_S) if above else float(self._grid_s[0])
        return self.crossing(order, at_s)

    def crossing(self, order: int, at_s: float) -> Reached:
        """The instant near `at_s` as that of whatever speed (1) or distance (2) the car has there."""
        a, v, s = (row[0] for row in self._rows(np.array([at_s])))
        rates = float(a @ self._mean), float(v @ self._mean)
        instant = self._estimate(at_s, -(v, s)[order - 1] / max(rates[order - 1], 1e-3))
        return self.at(instant)

    def at(self, instant: Estimate) -> Reached:
        """Speed and distance at an instant that itself is uncertain."""
        a, v, s = (row[0] for row in self._rows(np.array([instant.number])))
        speed, way = self._estimate(float(v @ self._mean), v), self._estimate(float(s @ self._mean), s)
        moved = speed.moved(float(a @ self._mean), instant), way.moved(float(v @ self._mean), instant)
        return Reached(instant, *moved)

    def acceleration_at(self, at_s: float) -> Estimate:
        """Acceleration at a fixed time of full torque."""
        row = self._rows(np.array([at_s]))[0][0]
        return self._estimate(float(row @ self._mean), row)

    def curve(self, at_s: Floats) -> Floats:
        """Fitted acceleration, speed and distance (3 x n), averaged over the ramps."""
        curves = np.array([row @ self._mean for row in self._rows(at_s)])
        early = at_s < self._from_s
        if self._launch is not None and early.any():
            curves[:, early] = self._launch.curve(at_s[early])
        return curves


def _knots(from_s: float, to_s: float, spacing_s: float, launch_s: float) -> list[float]:
    """Knots that lie further apart as the run goes on, the last one at or after `to_s`."""
    knots = [from_s]
    while knots[-1] < to_s or len(knots) < 3:
        knots.append(knots[-1] + max(spacing_s, WIDENING * (knots[-1] - launch_s)))
    return knots


def _rough_launch(fixes: Fixes) -> float:
    """The launch by drawing a line through the first fixes in motion back to zero."""
    moving = np.flatnonzero(fixes.speed_mps > MOVING_MPS)
    if moving.size < 3 or moving[0] >= fixes.time_s.size - 2:
        raise TooFewFixesError("too few fixes in motion")
    first = int(moving[0])
    last = int(np.searchsorted(fixes.time_s, fixes.time_s[first] + 0.5))
    last = min(max(last, first + 2), fixes.time_s.size - 1)
    slope = (fixes.speed_mps[last] - fixes.speed_mps[first]) / (fixes.time_s[last] - fixes.time_s[first])
    back_s = fixes.speed_mps[first] / max(slope, 0.5)
    return float(fixes.time_s[first] - min(back_s, 1.5) - 0.05)

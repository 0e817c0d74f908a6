"""A run's motion fitted to noisy Doppler speed, from which every instant, speed and distance is drawn.

Acceleration is a torque ramp times a smooth curve, and changes at once where the driver lifts (`motion`); the ramp is
averaged over (`launching`). All is summed up in one vector of parameters with one covariance. Fed with time reversed,
the same fit times a stop; without a launch, a roll-on.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.fitting.doubts import HALTED_WITHIN_S, steps_not_normal, widening
from coombe_core.fitting.fixes import Fixes
from coombe_core.fitting.launch import CUBIC, Launch, fit_launch, rough_launch
from coombe_core.fitting.mixing import mixed, with_the_rest
from coombe_core.fitting.motion import PULLING, Drive, Known, TooFewFixesError, fit_motion
from coombe_core.fitting.ramp_pool import LaunchRamps
from coombe_core.fitting.smoothing import Begun, Undone, taken_out_s, undone_of_roll_on, undone_of_start, undone_of_stop
from coombe_core.fitting.spline import Spline, knots_between
from coombe_core.fitting.steps import Step
from coombe_core.fitting.torque_ramp import Ramps
from coombe_core.uncertainty import Estimate

__all__ = ["Reached", "SpeedFit", "TooFewFixesError", "fit_speed"]

Floats = NDArray[np.float64]
SPACING_S = 0.25
REACH_S = 0.6  # the launch is sought this far before and about its rough instant
JOIN_S = 0.7  # this long after it every ramp has ended
AT_LEAST_S = 0.35
FULL_S = 0.55  # from here on the ramp is full, and the one fit of the fixes after the join holds
GRID_S = 0.02
LAUNCH_S = 0.1  # so shortly after first movement the launch's own doubt is in what is left of the fixes
RISEN, RISES_WITHIN_S, RISE_STEP_S = 0.9, 1.5, 0.01


@dataclass(frozen=True, eq=False)
class Reached:
    """The instant at which a level of speed or distance was first reached, and both of them there."""

    instant: Estimate
    speed: Estimate
    distance: Estimate


class SpeedFit:
    """The fitted motion of a run on the caller's time axis.

    `fixes` reach from rest (or from steady speed) to shortly after the end of the pull; `steps_s` are about where
    acceleration changes at once; `ramps` are the durations that the launch may have, none for a car that rolls.
    `rise_s` is how long after the launch acceleration is nearly at its highest; None without a launch. All speeds and
    distances whose crossings will be asked for are named in `speeds_mps` and `distances_m`: they are
    worked out together. Raises TooFewFixesError where too few fixes are in motion.
    """

    def __init__(
        self,
        fixes: Fixes,
        steps_s: Sequence[float],
        ramps: Ramps | None = None,
        speeds_mps: Sequence[float] = (),
        distances_m: Sequence[float] = (),
        drive: Drive = PULLING,
    ) -> None:
        self._drive = drive
        self._rest_drawn_out = not drive.by_power and taken_out_s(fixes.smoothing_s) > 0.0
        first_s, self._end_s = float(fixes.time_s[0]), float(fixes.time_s[-1])
        if ramps:
            rough_s, spacing_s = rough_launch(fixes), max(SPACING_S, fixes.step_s)
            join_s = min(rough_s + JOIN_S + fixes.step_s, max(steps_s[-1], rough_s + AT_LEAST_S))
            self._from_s = min(rough_s + FULL_S, join_s)
            knots = [rough_s - REACH_S - fixes.step_s, *knots_between(join_s, self._end_s, spacing_s, rough_s)]
            late = fixes.part(fixes.time_s > join_s)
            self._motion = fit_motion(late, Spline(np.array(knots)), tuple(steps_s), rough_s, drive)
            early = fixes.part(fixes.time_s <= join_s).unclamped(self._motion.noise_mps)
            self._launch: Launch | None = fit_launch(early, self._motion, rough_s, join_s, ramps)
            self._add_up(self._launch, speeds_mps, distances_m)
        else:
            self._from_s, self._launch = first_s, None
            spline = Spline(np.array(knots_between(first_s, self._end_s, max(SPACING_S, fixes.step_s), first_s)))
            self._motion = fit_motion(fixes, spline, tuple(steps_s), steps_s[0], drive)
            self._early: dict[tuple[int, float], int] = {}
            mean, covariance = self._motion.solved()
            self._mean = np.concatenate([[0.0], mean])
            self._covariance = np.pad(covariance, ((1, 0), (1, 0)))
        self._lead = self._mean.size - self._motion.places.size
        self._within = self._covariance.copy()
        self._undone = Undone.nothing(self._mean.size)
        self.rise_s = self._rise_s(self._launch) if self._launch else None
        self._add_doubt(fixes)
        self._reached = self._late(((1, speeds_mps), (2, distances_m))) | self._early_ones()

    def _add_doubt(self, fixes: Fixes) -> None:
        """Widen the covariance by what the fit itself does not know of; undo what the receiver is known to smooth."""
        self._covariance += self._hidden_by_smoothing()
        self._covariance += steps_not_normal(self._covariance, len(self.steps))
        self._undone = self._undo(fixes)
        self._mean = self._mean + self._undone.moved
        self._covariance += self._undone.covariance
        if self._launch and not self._drive.by_power:
            self._covariance[0, 0] += HALTED_WITHIN_S**2
        self._covariance *= widening(fixes, self._motion)

    def _undo(self, fixes: Fixes) -> Undone:
        """What the receiver is known to smooth, or may."""
        if self.rise_s is None:
            return undone_of_roll_on(fixes.smoothing_s, self._mean.size)
        full_mps2 = float(self._full(np.array([self._from_s]))[0, 0])
        begun = Begun(self._mean, self._early, self._lead - 1, full_mps2)
        if self._drive.by_power:
            return undone_of_start(begun, fixes.smoothing_s, self.rise_s, fixes.step_s)
        return undone_of_stop(begun, fixes.smoothing_s)

    def _hidden_by_smoothing(self) -> Floats:
        """The covariance (P x P) of how far the curve would bend if the smoothing were eased: what it may hide."""
        at_s = np.array([self._from_s])
        _, speed, distance = self._rows(at_s)[:, 0]
        known = Known(speed[self._lead :], float(speed @ self._mean), float(speed @ self._covariance @ speed))
        moved = np.zeros(self._mean.size)
        moved[self._lead :] = self._motion.smoothing_shift(known)
        moved[self._lead - 1] = -float(distance @ moved)  # the distance where the curve begins stays as it was
        return np.outer(moved, moved)

    def _rise_s(self, launch: Launch) -> float:
        """How long after the launch acceleration is nearly at its highest, as the fixes show it."""
        since_s = np.arange(0.0, RISES_WITHIN_S, RISE_STEP_S)
        acceleration_mps2 = self.curve(float(launch.weights @ launch.instants_s) + since_s)[0]
        return float(since_s[np.argmax(acceleration_mps2 >= RISEN * acceleration_mps2.max())])

    def _add_up(self, launch: Launch, speeds_mps: Sequence[float], distances_m: Sequence[float]) -> None:
        """One mean and one covariance over all ramps.

        Parameters: the launch, instant and distance of every early speed, instant and speed of every early
        distance, the distance at the first knot, and those of `Motion`.
        """
        numbers, slopes = self._of_each_ramp(launch, self._early_levels(launch, speeds_mps, distances_m))
        mean, covariance = mixed(launch.weights, numbers, slopes, launch.covariances)
        self._mean, self._covariance = with_the_rest(mean, covariance, self._motion.reduced(1 + CUBIC))

    def _early_levels(
        self, launch: Launch, speeds_mps: Sequence[float], distances_m: Sequence[float]
    ) -> dict[int, list[float]]:
        """The speeds (1) and distances (2) that were reached before the ramp was full."""
        (offset, _), (speed, _) = launch.offset(2), launch.offset(1)
        distance = offset - speed * (launch.join_s - self._from_s)
        full_mps = float(launch.weights @ (speed + self._gained(1, launch)))
        full_m = float(launch.weights @ (distance + self._gained(2, launch)))
        return {
            1: sorted({level for level in speeds_mps if 0 < level < full_mps}),
            2: sorted({level for level in distances_m if 0 < level < full_m}),
        }

    def _of_each_ramp(self, launch: Launch, levels: dict[int, list[float]]) -> tuple[Floats, Floats]:
        """The shared parameters under each ramp (K x p), and how they change with the ramp's own (K x p x 5)."""
        (offset, by_offset), (speed, by_speed) = launch.offset(2), launch.offset(1)
        ramps, width_s = speed.size, launch.join_s - self._motion.spline.inner_s[0]
        begun_s = launch.instants_s + launch.delays_s if self._rest_drawn_out else launch.instants_s
        numbers = [begun_s[:, None]]
        slopes = [np.eye(CUBIC + 1)[None, -1:].repeat(ramps, axis=0)]
        for order, early in levels.items():
            if early:
                times_s, moved, other, by_other = launch.crossings(order, np.array(early))
                numbers += [np.stack([times_s, other], axis=2).reshape(ramps, -1)]
                slopes += [np.stack([moved, by_other], axis=2).reshape(ramps, -1, CUBIC + 1)]
        names = [(order, level) for order, early in levels.items() for level in early]
        self._early = {name: 1 + 2 * place for place, name in enumerate(names)}
        numbers += [(offset - width_s * speed)[:, None], speed[:, None], launch.coefficients]
        slopes += [(by_offset - width_s * by_speed)[:, None], by_speed[:, None]]
        slopes += [np.eye(CUBIC, CUBIC + 1)[None].repeat(ramps, axis=0)]
        return np.concatenate(numbers, axis=1), np.concatenate(slopes, axis=1)

    def _gained(self, order: int, launch: Launch) -> Floats:
        """Speed (1) or distance (2) that full torque gains from the first knot to where the ramp is full (K)."""
        row = self._motion.spline.rows(np.array([self._from_s]))[order][0, :CUBIC]
        return launch.coefficients @ row

    @property
    def noise_mps(self) -> float:
        """The receiver's noise in motion, 1 sigma."""
        return self._motion.noise_mps

    def residuals(self, fixes: Fixes) -> Floats:
        """What the fit leaves of fixes in motion (n), weighted and whitened; nan at rest and about the launch."""
        left = fixes.speed_mps - self._as_received(fixes.time_s)[1]
        whitened = fixes.whitening(self.noise_correlation)(left[:, None])[:, 0]
        return np.where(fixes.time_s > self.launch().number + LAUNCH_S if self._launch else True, whitened, np.nan)

    @property
    def noise_correlation(self) -> float:
        """Correlation of the noise of two fixes in a row."""
        return self._motion.correlation

    @property
    def steps(self) -> list[Step]:
        """Where acceleration changed at once, as fitted."""
        return self._motion.steps

    def _rows(self, at_s: Floats) -> Floats:
        """Rows (3 x n x P) over all parameters for acceleration, speed and distance at full torque."""
        rows = self._motion.rows(at_s, self._lead)
        rows[2, :, self._lead - 1] = 1.0
        return rows

    def _full(self, at_s: Floats, mean: Floats | None = None) -> Floats:
        """Acceleration, speed and distance (3 x n) at full torque."""
        mean = self._mean if mean is None else mean
        curves = self._motion.curve(mean[self._lead :], at_s)
        curves[2] += mean[self._lead - 1]
        return curves

    def _estimate(self, number: float, gradient: Floats) -> Estimate:
        return Estimate(number, gradient, self._covariance)

    def _parameter(self, place: int) -> Estimate:
        gradient = np.zeros(self._mean.size)
        gradient[place] = 1.0
        return self._estimate(float(self._mean[place]), gradient)

    @property
    def launch_ramps(self) -> LaunchRamps | None:
        """What the fixes say of every ramp; None without a launch."""
        if self._launch is None:
            return None
        weights, instants_s = self._launch.of_all
        return LaunchRamps(weights, instants_s - self._mean[0])

    def launch(self) -> Estimate:
        """The instant at which the car leaves rest."""
        return self._parameter(0)

    def constant(self, number: float) -> Estimate:
        """A number that is certain."""
        return self._estimate(number, np.zeros(self._mean.size))

    def reaches_speed(self, speed_mps: float) -> Reached | None:
        """Where one of the named speeds is first reached, or None where it is not."""
        return self._reached.get((1, speed_mps))

    def reaches_distance(self, distance_m: float) -> Reached | None:
        """Where one of the named distances from the start is covered, or None where it is not."""
        return self._reached.get((2, distance_m))

    def _early_ones(self) -> dict[tuple[int, float], Reached]:
        """The levels that were reached while the ramp acted."""
        found = {}
        for (order, level), place in self._early.items():
            instant, other, known = self._parameter(place), self._parameter(place + 1), self.constant(level)
            found[order, level] = Reached(instant, *((known, other) if order == 1 else (other, known)))
        return found

    def _late(self, levels: Sequence[tuple[int, Sequence[float]]]) -> dict[tuple[int, float], Reached]:
        """The levels of speed (1) and distance (2) that were reached at full torque."""
        grid_s = np.arange(self._from_s, self._end_s, GRID_S)
        curves = self._unsmoothed(self._full, grid_s)
        names: list[tuple[int, float]] = []
        about_s: list[float] = []
        for order, wanted in levels:
            highest = np.maximum.accumulate(curves[order])
            reached = [level for level in dict.fromkeys(wanted) if highest[0] <= level <= highest[-1]]
            above = np.maximum(np.searchsorted(highest, reached), 1)
            low, high = curves[order][above - 1], curves[order][above]
            share = np.clip((np.array(reached) - low) / np.maximum(high - low, 1e-9), 0.0, 1.0)
            names += [(order, level) for level in reached]
            about_s += (grid_s[above] - (1.0 - share) * GRID_S).tolist()
        return dict(zip(names, self._reached_at(names, np.array(about_s)), strict=True))

    def _reached_at(self, names: Sequence[tuple[int, float]], times_s: Floats) -> Iterator[Reached]:
        """What was reached at about these times, by one Newton step more."""
        rows = self._unsmoothed(self._rows, times_s)
        numbers = rows @ self._mean
        for place, (order, level) in enumerate(names):
            a, v, s = numbers[:, place].tolist()
            _, v_row, s_row = rows[:, place]
            row, rate, value = (v_row, a, v) if order == 1 else (s_row, v, s)
            rate = max(rate, 1e-3)
            later_s = min(max((level - value) / rate, -GRID_S), GRID_S)
            instant = self._estimate(float(times_s[place]) + later_s, -row / rate)
            speed, way = self._estimate(v + a * later_s, v_row), self._estimate(s + v * later_s, s_row)
            yield Reached(instant, speed.moved(a, instant), way.moved(v, instant))

    def at(self, instant: Estimate) -> Reached:
        """Speed and distance at an instant that itself is uncertain."""
        rows = self._unsmoothed(self._rows, np.array([instant.number]))[:, 0]
        a, v, s = (rows @ self._mean).tolist()
        speed, way = self._estimate(v, rows[1]), self._estimate(s, rows[2])
        return Reached(instant, speed.moved(a, instant), way.moved(v, instant))

    def acceleration_at(self, at_s: float) -> Estimate:
        """Acceleration at a fixed time of full torque, without what the smoothing may hide of it."""
        row = self._rows(np.array([at_s]))[0][0]
        return Estimate(float(row @ self._mean), row, self._within)

    def curve(self, at_s: Floats) -> Floats:
        """Fitted acceleration, speed and distance (3 x n), averaged over the ramps."""
        return self._unsmoothed(self._as_received, at_s)

    def _unsmoothed(self, shown: Callable[[Floats], Floats], at_s: Floats) -> Floats:
        """Acceleration, speed and distance, or their rows, without what the receiver is known to smooth.

        Acceleration is not sharpened; it is that shown at the time.
        """
        later_s, gain_s = self._undone.later_s, self._undone.gain_s
        if not gain_s:
            return shown(at_s)
        acceleration, speed, distance = shown(at_s - later_s)
        return np.array([shown(at_s)[0], speed + gain_s * acceleration, distance + gain_s * speed])

    def _as_received(self, at_s: Floats) -> Floats:
        """The same as the receiver shows it: with what it smooths, where that is known."""
        curves = self._full(at_s, self._mean - self._undone.moved)
        early = at_s < self._from_s
        if self._launch is not None and early.any():
            curves[:, early] = self._launch.curve(at_s[early])
        return curves


def fit_speed(
    fixes: Fixes,
    steps_s: Sequence[float],
    ramps: Ramps | None = None,
    speeds_mps: Sequence[float] = (),
    distances_m: Sequence[float] = (),
    drive: Drive = PULLING,
) -> SpeedFit:
    """Fit a run's motion; once more where the first fit shows that the noise was not the same throughout.

    Parameters and errors are those of `SpeedFit`.
    """
    fit = SpeedFit(fixes, steps_s, ramps, speeds_mps, distances_m, drive)
    steadied = fixes.steadied(fit.residuals(fixes))
    return fit if steadied is fixes else SpeedFit(steadied, steps_s, ramps, speeds_mps, distances_m, drive)

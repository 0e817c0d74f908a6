"""A car's motion at full torque: a penalized spline of acceleration, with steps where it is lifted or braked.

What is smooth in a pull is the power a kilogram, acceleration times speed: at the limit of grip it grows with time, at
the limit of power it is steady, and neither costs anything. In a stop it is the force. The strength of the smoothing,
the noise and its lag-1 correlation maximize the restricted likelihood of the fixes (Wahba 1985; Eilers and Marx 1996).
A step is a drop of acceleration over a short fade; its instant and its fade are fitted too (Gauss-Newton, with weak
priors).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.fitting.fixes import Fixes, Whitening
from coombe_core.fitting.reml import USUAL_NOISE_MPS, Likeliest, Penalty, Terms, likeliest
from coombe_core.fitting.spline import Spline
from coombe_core.fitting.steps import STEP_FADE_S, STEP_FADE_SPREAD_S, STEP_REACH_S, Changes, Step

Floats = NDArray[np.float64]
LEAST_FIXES = 4
# The stiffness grows with a power of the time since the launch, usually the drive's, as power is soon at its limit; on
# a course that undulates, or with brakes that pulse, with one of these. They have to be likelier by so much (log).
OTHER_GROWTHS, CLEARLY_LIKELIER = (2.0, 0.0), 1.0
DRAG_SPREAD = 0.7  # 1 sigma of a car's drag by mass, as a share of the usual one: mass, shape and wind together
FIRST_STRENGTH = 10.0  # a usual one: stiff enough that a step is not taken for a bend
CORRELATIONS = (0.0, 0.15, 0.3, 0.45, 0.6, 0.72, 0.82, 0.9, 0.95)
USUAL_CORRELATION, USUAL_STEP_S = 0.3, 0.04  # of fixes so far apart; it fades with their distance
YOUNG_S = 0.5
SLOW_MPS = 5.0  # below this speed the acceleration itself is what is smooth
HIDDEN = 0.12  # eased by this, the most likely strength shows what the smoothing may hide
STEP_SIZE_MPS2 = 10.0
STEP_ROUNDS = 4


class TooFewFixesError(ValueError):
    """A stretch of the trace with too few fixes in motion to fit anything to."""


@dataclass(frozen=True)
class Drive:
    """What makes the motion: whether power is what is smooth, else force, and what drag adds (m/s2 by (m/s)2).

    The stiffness usually grows with the power `growth` of the time since the launch.
    """

    by_power: bool
    drag_per_m: float
    growth: float


# Half the density of air times drag area, by mass: that of a car of 2 t and 0.56 m2, where the fixes do not say.
PULLING, ROLLING, BRAKING = Drive(True, -1.7e-4, 4.0), Drive(True, -1.7e-4, 3.0), Drive(False, 1.7e-4, 4.0)


@dataclass(frozen=True)
class Places:
    """Where each parameter stands in the vector: speed at the first knot, the spline's coefficients, then the steps."""

    spline_size: int
    steps: int
    speed = 0

    @property
    def spline(self) -> slice:
        """The spline's coefficients."""
        return slice(1, 1 + self.spline_size)

    def step(self, number: int) -> slice:
        """Size, instant and fade of a step, counted from 0."""
        first = 1 + self.spline_size + 3 * number
        return slice(first, first + 3)

    @property
    def size(self) -> int:
        """How many parameters there are."""
        return 1 + self.spline_size + 3 * self.steps


@dataclass(frozen=True)
class Known:
    """A quantity that is known: its row (P), its value and the variance of that."""

    row: Floats
    value: float
    variance: float


@dataclass(frozen=True)
class Reduced:
    """What the fixes after the join say of the first 1 + k parameters once the others are fitted to them."""

    gram: Floats
    moment: Floats
    total: float
    rest: Floats
    rest_by_first: Floats
    rest_covariance: Floats


class Motion:
    """The normal equations of a motion, and what they say; `fit_motion` makes one.

    Parameters are placed by `places`; instants and fades enter as small changes about the fitted ones.
    """

    def __init__(self, fixes: Fixes, spline: Spline, steps_s: tuple[float, ...], launch_s: float, drive: Drive) -> None:
        self._fixes, self.spline, self._launch_s, self._drive = fixes, spline, launch_s, drive
        self.places = Places(spline.size, len(steps_s))
        self.steps = [Step(at_s, at_s) for at_s in steps_s]
        self.variance = USUAL_NOISE_MPS**2
        self.correlation = CORRELATIONS[self._usual_place]
        self.bends_unusually = False  # whether another growth of the stiffness is clearly likelier
        on_spline = spline.rows(fixes.time_s)[1]
        self._seen = np.column_stack([np.ones(fixes.time_s.size), on_spline, fixes.speed_mps])
        self._without_steps: dict[float, tuple[Whitening, Floats, Floats]] = {}
        self._nodes = spline.nodes()
        still = np.zeros(self._nodes.at_s.size)
        self._expected = np.zeros(self.places.size)
        self._roughness = FIRST_STRENGTH * next(self._penalties(still, still, still)).matrix

    def settle(self) -> None:
        """Move the steps to where they fit, choose the smoothing for the motion found, and move the steps once more."""
        for _ in range(STEP_ROUNDS if self.steps else 0):
            self._move_steps()
        speed_mps, acceleration_mps2, jerk_mps3 = self._at_nodes()
        drag_mps2 = self._drive.drag_per_m * speed_mps * np.abs(speed_mps)
        self._expected[self.places.spline] = np.linalg.lstsq(self._nodes.basis, drag_mps2, rcond=None)[0]
        self._choose_smoothing(list(self._penalties(speed_mps, acceleration_mps2, jerk_mps3)))
        self._move_steps()
        self._gram, self._moment, self._total = self._normal()

    @property
    def noise_mps(self) -> float:
        """The receiver's noise, 1 sigma."""
        return float(np.sqrt(self.variance))

    @property
    def _usual_place(self) -> int:
        """Where among CORRELATIONS the usual one of such fixes stands."""
        usual = USUAL_CORRELATION ** (self._fixes.step_s / USUAL_STEP_S)
        return int(np.argmin(np.abs(np.array(CORRELATIONS) - usual)))

    def rows(self, at_s: Floats, before: int = 0) -> Floats:
        """Rows (3 x n x P) of acceleration, speed and distance gained since the first knot, after columns of zero."""
        rows = np.zeros((3, at_s.size, before + self.places.size))
        rows[1, :, before] = 1.0
        rows[2, :, before] = at_s - self.spline.inner_s[0]
        rows[:, :, before + 1 : before + 1 + self.spline.size] = self.spline.rows(at_s)
        rows[:, :, before + 1 + self.spline.size :] = Changes.of(self.steps).rows(at_s)
        return rows

    def curve(self, parameters: Floats, at_s: Floats) -> Floats:
        """Acceleration, speed and distance since the first knot (3 x n) that parameters make."""
        curves = np.array(self.spline.curve(parameters[self.places.spline], at_s))
        curves[1] += parameters[self.places.speed]
        curves[2] += parameters[self.places.speed] * (at_s - self.spline.inner_s[0])
        return curves + Changes.of(self.steps).rows(at_s) @ parameters[1 + self.spline.size :]

    def solved(self) -> tuple[Floats, Floats]:
        """The parameters and their covariance from these fixes alone."""
        covariance = np.asarray(np.linalg.inv(self._gram), dtype=np.float64)
        return covariance @ self._moment, self.variance * covariance

    def smoothing_shift(self, known: Known) -> Floats:
        """How far the parameters move where the curve may bend more easily: what the smoothing may hide.

        `known` is what all fixes together say of the speed where these fixes begin.
        """
        weight = self.variance / known.variance
        gram = self._gram + weight * np.outer(known.row, known.row)
        moment = self._moment + weight * known.value * known.row
        less = (HIDDEN - 1.0) * self._roughness
        eased = np.linalg.solve(gram + less, moment + less @ self._expected)
        return np.asarray(eased - np.linalg.solve(gram, moment))

    def reduced(self, first: int) -> Reduced:
        """The normal equations with all but the first parameters eliminated."""
        g, m = self._gram, self._moment
        inverse = np.asarray(np.linalg.inv(g[first:, first:]), dtype=np.float64)
        rest, by_first = inverse @ m[first:], inverse @ g[first:, :first]
        gram = g[:first, :first] - g[:first, first:] @ by_first
        moment = m[:first] - g[:first, first:] @ rest
        return Reduced(gram, moment, self._total - float(m[first:] @ rest), rest, by_first, self.variance * inverse)

    def _prior(self) -> tuple[Floats, Floats, float]:
        """What is known of the steps beforehand: precision and moment of every parameter, and the constant."""
        precision = np.zeros(self.places.size)
        center = np.zeros_like(precision)
        for number, step in enumerate(self.steps):
            place = self.places.step(number)
            spread = np.array([STEP_SIZE_MPS2, STEP_REACH_S + self._fixes.step_s, STEP_FADE_SPREAD_S])
            precision[place] = self.variance / spread**2
            center[place] = 0.0, step.rough_s - step.instant_s, STEP_FADE_S - step.fade_s
        return precision, precision * center, float(precision @ center**2)

    def _penalties(self, speed_mps: Floats, acceleration_mps2: Floats, jerk_mps3: Floats) -> Iterator[Penalty]:
        """For every growth the squared second derivative of power or force, stiffer as the run goes on.

        Speeds etc. are those at the nodes (q). With the speed as it was fitted before, power is linear in the spline:
        (a v)'' = a'' v + 2 a' v' + a v''.
        """
        nodes, moving = self._nodes, (speed_mps > SLOW_MPS) & self._drive.by_power
        bend = np.where(moving, speed_mps, SLOW_MPS)[:, None] * nodes.second
        bend += np.where(moving, 2 * acceleration_mps2, 0.0)[:, None] * nodes.first
        bend += np.where(moving, jerk_mps3, 0.0)[:, None] * nodes.basis
        age_s = np.maximum(nodes.at_s - self._launch_s, YOUNG_S)
        scale = nodes.width_s / max(moving[-1] * speed_mps[-1], SLOW_MPS) ** 2
        for growth in (self._drive.growth, *OTHER_GROWTHS):
            stiffness = (age_s / age_s[-1]) ** growth * scale
            yield Penalty.of(bend.T @ (bend * stiffness[:, None]), 1, 3 * len(self.steps))

    def _at_nodes(self) -> tuple[Floats, Floats, Floats]:
        """Speed, acceleration and jerk at the nodes as fitted now, without the steps in the latter two."""
        solution = self._solved_now()
        bends = solution[self.places.spline]
        return self.curve(solution, self._nodes.at_s)[1], self._nodes.basis @ bends, self._nodes.first @ bends

    def _choose_smoothing(self, penalties: Sequence[Penalty]) -> None:
        """Set the smoothing, noise and correlation to those of highest restricted likelihood, the steps being as now.

        The correlation climbs from a usual one to a top.
        """
        place = self._usual_place
        terms = self._terms(CORRELATIONS[place]).beyond(self._expected)
        by_growth = [likeliest(terms, penalty) for penalty in penalties]
        usual, *others = (found.log_likelihood for found in by_growth)
        self.bends_unusually = max(others) > usual + CLEARLY_LIKELIER
        growth = 1 + int(np.argmax(others)) if self.bends_unusually else 0
        penalty = penalties[growth]
        seen: dict[int, Likeliest] = {place: by_growth[growth]}
        while True:
            near = range(max(place - 1, 0), min(place + 2, len(CORRELATIONS)))
            for each in near:
                if each not in seen:
                    seen[each] = likeliest(self._terms(CORRELATIONS[each]).beyond(self._expected), penalty)
            best = max(near, key=lambda each: seen[each].log_likelihood)
            if best == place:
                break
            place = best
        self.correlation, self.variance = CORRELATIONS[place], seen[place].variance
        self._roughness = self._whatever_the_drag(seen[place].strength * penalty.matrix)

    def _whatever_the_drag(self, roughness: Floats) -> Floats:
        """The roughness once averaged over the drag that a car may have: R - R e e' R / (e' R e + variance / spread^2).

        `e` is the usual drag, from which the curve is expected to depart little.
        """
        pulled = roughness @ self._expected
        return np.asarray(
            roughness - np.outer(pulled, pulled) / (self._expected @ pulled + self.variance / DRAG_SPREAD**2)
        )

    def _terms(self, correlation: float) -> Terms:
        """The normal equations without roughness."""
        whitening, seen, products = self._of_spline(correlation)
        steps = whitening(Changes.of(self.steps).speeds(self._fixes.time_s))
        crossed, size = seen.T @ steps, seen.shape[1] - 1
        precision, pull, total = self._prior()
        gram = np.diag(precision)
        gram[:size, :size] += products[:-1, :-1]
        gram[:size, size:] = crossed[:-1]
        gram[size:, :size] = crossed[:-1].T
        gram[size:, size:] += steps.T @ steps
        moment = pull + np.concatenate([products[:-1, -1], crossed[-1]])
        return Terms(gram, moment, float(products[-1, -1]) + total, seen.shape[0], whitening.log_scale)

    def _of_spline(self, correlation: float) -> tuple[Whitening, Floats, Floats]:
        """What the steps don't change: the whitening, whitened rows of speed, spline and fixes, and their products."""
        if correlation not in self._without_steps:
            whitening = self._fixes.whitening(correlation)
            seen = whitening(self._seen)
            self._without_steps[correlation] = whitening, seen, seen.T @ seen
        return self._without_steps[correlation]

    def _normal(self) -> tuple[Floats, Floats, float]:
        terms = self._terms(self.correlation)
        pull = self._roughness @ self._expected
        return terms.gram + self._roughness, terms.moment + pull, terms.total + float(pull @ self._expected)

    def _solved_now(self) -> Floats:
        gram, moment, _ = self._normal()
        return np.asarray(np.linalg.solve(gram, moment))

    def _move_steps(self) -> None:
        """One Gauss-Newton step of every step's instant and fade."""
        solution = self._solved_now()
        self.steps = [step.moved(*solution[self.places.step(number)]) for number, step in enumerate(self.steps)]


def fit_motion(fixes: Fixes, spline: Spline, steps_s: tuple[float, ...], launch_s: float, drive: Drive) -> Motion:
    """Fit a motion to fixes.

    Parameters
    ----------
    fixes : Fixes
        Those at full torque, on the caller's time axis.
    spline : Spline
        Of acceleration, over the fixes' time.
    steps_s : tuple of float
        About where acceleration changes at once, in seconds.
    launch_s : float
        About when the car left rest, from which the stiffness grows.
    drive : Drive
        Whether power or force is what is smooth.

    Returns
    -------
    Motion

    Raises
    ------
    TooFewFixesError
        For under four fixes.

    References
    ----------
    Eilers & Marx (1996), Flexible smoothing with B-splines and penalties; Wahba (1985), A comparison of GCV and GML.
    """
    if fixes.time_s.size < LEAST_FIXES:
        raise TooFewFixesError("too few fixes in motion")
    motion = Motion(fixes, spline, steps_s, launch_s, drive)
    motion.settle()
    return motion

"""What a fit does not know of itself: by what errors exceeded what its fixes say, in trials against simulated truth."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from coombe_core.fitting.fixes import Fixes
from coombe_core.fitting.motion import Motion

Floats = NDArray[np.float64]
COARSE_S, COARSE_DOUBT = 0.3, 1.3  # what is between fixes further apart than this
LINKED, LINKED_DOUBT = 0.6, 1.2  # noise that hardly changes from fix to fix passes for motion
# Noise that was not the same throughout, a pull that falters, a curve that bends as few do: the same fixes chose that.
CHOSEN_DOUBT = 1.12
USUAL_STEPS = 2  # a pull has its end, a roll-on its begin too; brakes are let go after they bit
# What is known of a step is not normal; so much more crossings within its fade showed. Before a lift alone none is.
STEP_DOUBT = 1.35
# 1 sigma of when a stop ends, beside what its ramps say: brakes that were eased off over 0.03-0.15 s look like others.
HALTED_WITHIN_S = 0.018


def widening(fixes: Fixes, motion: Motion) -> float:
    """By what every variance is widened: for fixes far apart, noise that lasts, and choices that the fixes decided."""
    coarse = COARSE_DOUBT if fixes.step_s > COARSE_S else 1.0
    lasting = LINKED_DOUBT if motion.correlation >= LINKED else 1.0
    chosen = motion.bends_unusually or fixes.uneven or len(motion.steps) > USUAL_STEPS
    return (coarse * lasting * (CHOSEN_DOUBT if chosen else 1.0)) ** 2


def steps_not_normal(covariance: Floats, steps: int) -> Floats:
    """The covariance (P x P) that steps between speeds add, whose instant and fade are not normally distributed.

    All others follow a step as they do in the fit: what is known of the sum of both stays as sure as it was.

    Parameters
    ----------
    covariance : array of float, shape (P, P)
        The steps' three parameters each stand last.
    steps : int
        How many there are.
    """
    if steps < USUAL_STEPS:
        return np.zeros_like(covariance)
    of_steps = covariance[:, covariance.shape[0] - 3 * steps :]
    follow = np.linalg.lstsq(of_steps[-3 * steps :], of_steps.T, rcond=None)[0]
    return np.asarray((STEP_DOUBT**2 - 1.0) * (of_steps @ follow))

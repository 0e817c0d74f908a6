"""How strongly a penalized curve is smoothed: normal equations, a roughness, and the restricted likelihood of both."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
STRENGTHS = 10.0 ** np.arange(-6.0, 6.1, 0.75)
UNPENALIZED = 3  # speed at the first knot, and the line of power that costs nothing
USUAL_NOISE_FIXES = 3.0  # how many fixes the usual noise counts for, where few are in motion
USUAL_NOISE_MPS = 0.05


@dataclass(frozen=True)
class Terms:
    """Normal equations: gram (P x P), moment (P), the sum of squares, how many fixes, and the log of their scaling."""

    gram: Floats
    moment: Floats
    total: float
    fixes: int
    log_scale: float

    def beyond(self, expected: Floats) -> Terms:
        """The same for what the parameters differ from those expected."""
        seen = self.gram @ expected
        total = self.total - float(expected @ (2 * self.moment - seen))
        return replace(self, moment=self.moment - seen, total=total)


@dataclass(frozen=True, eq=False)
class Penalty:
    """A roughness (P x P), directions that it leaves free (P x k), and the log of its determinant over the others."""

    matrix: Floats
    free: Floats
    log_volume: float

    @classmethod
    def of(cls, roughness: Floats, before: int, after: int) -> Penalty:
        """A spline's roughness among other parameters, with what its eigenvalues say."""
        values, vectors = np.linalg.eigh(roughness)
        reached = values > values[-1] * 1e-11
        within = slice(before, before + values.size)
        outside = np.delete(np.eye(before + values.size + after), np.r_[within], axis=1)
        free = np.zeros((before + values.size + after, int((~reached).sum())))
        free[within] = vectors[:, ~reached]
        log_volume = float(np.log(values[reached]).sum())
        return cls(np.pad(roughness, (before, after)), np.hstack([outside, free]), log_volume)

    @property
    def reached(self) -> int:
        """How many directions it reaches."""
        parameters, free = self.free.shape
        return int(parameters - free)


@dataclass(frozen=True)
class Likeliest:
    """The smoothing of highest restricted likelihood, the log of that, and whether it is at the end of the grid."""

    log_likelihood: float
    strength: float
    variance: float
    at_edge: bool


def likeliest(terms: Terms, penalty: Penalty) -> Likeliest:
    """Choose the strength of a penalty by restricted maximum likelihood.

    With W the penalty's matrix of rank r, A = gram + strength W, and n - p degrees of freedom, the criterion over a
    grid of strengths is

        -2 log L = (n - p) log(variance) + log |A| - r log(strength) - log |W|+
        variance = (total - moment' A^-1 moment) / (n - p)

    up to constants, |W|+ being the product of its positive eigenvalues. The usual noise counts for three fixes more.

    Parameters
    ----------
    terms : Terms
        The normal equations without the penalty (P parameters).
    penalty : Penalty
        Its matrix (P x P).

    Returns
    -------
    Likeliest
        `at_edge` where the likelihood still rises at an end of the grid, 1e-6 or 1e6: the fixes then ask for no
        smoothing, or for a straight line of power.

    References
    ----------
    Wahba (1985), A comparison of GCV and GML for choosing the smoothing parameter; Patterson & Thompson (1971).
    """
    terms = terms.beyond(_best_without_bend(terms, penalty))
    least = float(STRENGTHS[0])
    factor = np.asarray(np.linalg.cholesky(terms.gram + least * penalty.matrix + _ridge(terms)), dtype=np.float64)
    stretches, along = _stretches(factor, penalty, terms)
    stretched = 1.0 + (STRENGTHS - least)[:, None] * stretches
    free = max(terms.fixes - UNPENALIZED, 0) + USUAL_NOISE_FIXES
    squares = np.maximum(terms.total - (along**2 / stretched).sum(axis=1), 0.0)
    variances = (squares + USUAL_NOISE_FIXES * USUAL_NOISE_MPS**2) / free
    log_det = 2 * np.log(np.diag(factor)).sum() + np.log(stretched).sum(axis=1)
    minus_2_log = free * np.log(variances) + log_det - penalty.reached * np.log(STRENGTHS) - penalty.log_volume
    best = int(np.argmin(minus_2_log))
    return Likeliest(
        terms.log_scale - 0.5 * float(minus_2_log[best]),
        float(STRENGTHS[best]),
        float(variances[best]),
        best in (0, STRENGTHS.size - 1),
    )


def _best_without_bend(terms: Terms, penalty: Penalty) -> Floats:
    """The parameters (P) that fit best where nothing may bend.

    What is left of the fixes beyond them is small, so that what is worked out from it is not lost in rounding.
    """
    seen = penalty.free.T @ terms.gram
    return np.asarray(penalty.free @ np.linalg.solve(seen @ penalty.free, penalty.free.T @ terms.moment))


def _ridge(terms: Terms) -> Floats:
    """What keeps the factorization from failing where parameters are hardly seen."""
    return np.asarray(1e-9 * np.trace(terms.gram) * np.eye(len(terms.gram)))


def _stretches(factor: Floats, penalty: Penalty, terms: Terms) -> tuple[Floats, Floats]:
    """Eigenvalues (P) of the penalty as the fixes see it, and the moment along their directions (P).

    One decomposition serves every strength: |A| and A^-1 follow from it in closed form.
    """
    inverse = np.asarray(np.linalg.inv(factor), dtype=np.float64)
    values, vectors = np.linalg.eigh(inverse @ penalty.matrix @ inverse.T)
    return np.maximum(values, 0.0), vectors.T @ (inverse @ terms.moment)

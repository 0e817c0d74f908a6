"""How strongly a penalised curve is smoothed: normal equations, a roughness, and the restricted likelihood of both."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
STRENGTHS = 10.0 ** np.arange(-6.0, 6.1, 0.75)
UNPENALISED = 3  # speed at the first knot, and the line of power that costs nothing
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


@dataclass(frozen=True)
class Penalty:
    """A roughness (P x P), how many directions it reaches, and the log of its determinant over them."""

    matrix: Floats
    reached: int
    log_volume: float

    @classmethod
    def of(cls, roughness: Floats, before: int, after: int) -> Penalty:
        """A spline's roughness among other parameters, with what its eigenvalues say."""
        values = np.linalg.eigvalsh(roughness)
        reached = values[values > values[-1] * 1e-11]
        return cls(np.pad(roughness, (before, after)), int(reached.size), float(np.log(reached).sum()))


def likeliest(terms: Terms, penalty: Penalty) -> tuple[float, float, float]:
    """The strength of highest restricted likelihood: that likelihood's log, the strength, the variance.

    One eigendecomposition of the penalty as the fixes see it serves every strength.
    """
    least = float(STRENGTHS[0])
    ridge = 1e-9 * np.trace(terms.gram) * np.eye(len(terms.gram))
    factor = np.linalg.cholesky(terms.gram + least * penalty.matrix + ridge)
    half = np.linalg.solve(factor, np.column_stack([penalty.matrix, terms.moment]))
    values, vectors = np.linalg.eigh(np.linalg.solve(factor, half[:, :-1].T))
    values, along = np.maximum(values, 0.0), vectors.T @ half[:, -1]
    stretched = 1.0 + (STRENGTHS - least)[:, None] * values
    free = max(terms.fixes - UNPENALISED, 0) + USUAL_NOISE_FIXES
    squares = np.maximum(terms.total - (along**2 / stretched).sum(axis=1), 0.0)
    variances = (squares + USUAL_NOISE_FIXES * USUAL_NOISE_MPS**2) / free
    volumes = 2 * np.log(np.diag(factor)).sum() + np.log(stretched).sum(axis=1)
    likelihood = free * np.log(variances) + volumes - penalty.reached * np.log(STRENGTHS) - penalty.log_volume
    best = int(np.argmin(likelihood))
    return terms.log_scale - 0.5 * float(likelihood[best]), float(STRENGTHS[best]), float(variances[best])

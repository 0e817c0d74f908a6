"""A step in a sweep: a boost that ends, found as the change point of a line.

A library of change points (`ruptures`) says where, not how surely, and takes a slope for steps; here a line that may
bend a little and a step are fitted together for every place, and p is exact: of lines with noise alone, the largest t
over all places is simulated.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from coombe_core.uncertainty import Value, coverage_95

Floats = NDArray[np.float64]
DRAWS, SEED = 4999, 20_260_509
LEAST_BESIDE = 2  # runs on each side
SHOWN = 0.05
COLUMNS, STEP, LEAST_LEFT = 3, 2, 1e-15
BEND = 3.0  # how far the middle of the line may bend beforehand, 1 sigma, as a multiple of the scatter of a run


@dataclass(frozen=True)
class Step:
    """Where a measure gets worse at once as charge falls, between `low` and `high`; by how much, and p against none."""

    at: float
    low: float
    high: float
    size: Value
    p_value: float


def find_step(fallen: Floats, values: Floats, shown: float = SHOWN) -> Step | None:
    """Find a step at which values get larger.

    Parameters
    ----------
    fallen : array of float, shape (n,)
        Minus the level of each run, ascending.
    values : array of float, shape (n,)
    shown : float
        The largest p of a step that is shown.

    Returns
    -------
    Step or None
    """
    places = _places(fallen)
    if not places:
        return None
    designs = _designs(tuple(fallen.tolist()), places)
    sizes, errors, left = designs.fitted(values)
    dof = fallen.size - COLUMNS
    ratios = sizes / errors
    best = int(np.argmax(ratios))
    p_value = float((1 + (_by_chance(tuple(fallen.tolist()), places) >= ratios[best]).sum()) / (DRAWS + 1))
    if p_value > shown:
        return None
    from scipy import stats

    likely = left <= left[best] * (1.0 + float(stats.f.ppf(0.95, 1, dof)) / dof)
    among = np.flatnonzero(likely)
    quantile = coverage_95(dof)
    low, high = -fallen[places[among[-1]]], -fallen[places[among[0]] - 1]
    at = -(fallen[places[best]] + fallen[places[best] - 1]) / 2
    return Step(float(at), float(low), float(high), Value(float(sizes[best]), quantile * float(errors[best])), p_value)


def _places(fallen: Floats) -> tuple[int, ...]:
    """Before which runs a step may be: two are on each side, at other levels."""
    inner = range(LEAST_BESIDE, fallen.size - LEAST_BESIDE + 1) if fallen.size > COLUMNS + 1 else ()
    return tuple(n for n in inner if fallen[n] > fallen[n - 1])


@dataclass(frozen=True, eq=False)
class _Designs:
    """For every place of a step (k): line, step and bend (k x n + 1 x 4), what fits them, and the step's error.

    That is for noise of one. The last row holds the bend to what is expected of it.
    """

    columns: Floats
    projections: Floats
    errors: Floats

    def fitted(self, values: Floats) -> tuple[Floats, Floats, Floats]:
        """Size of the step, its standard error, and the squares that are left, at every place (... x k)."""
        seen = np.concatenate([values, np.zeros((*values.shape[:-1], 1))], axis=-1)
        solved = np.einsum("kpn,...n->...kp", self.projections, seen)
        moments = np.einsum("knp,...n->...kp", self.columns, seen)
        squares = (values**2).sum(axis=-1)[..., None]
        left = np.maximum(squares - (solved * moments).sum(axis=-1), LEAST_LEFT * squares)
        dof = values.shape[-1] - COLUMNS
        return solved[..., STEP], self.errors * np.sqrt(left / dof), left


@lru_cache(64)
def _designs(fallen: tuple[float, ...], places: tuple[int, ...]) -> _Designs:
    x = np.array(fallen)
    beyond = np.arange(x.size) >= np.array(places)[:, None]
    share = 2.0 * (x - x.min()) / np.ptp(x) - 1.0
    parts = [np.broadcast_to(part, beyond.shape) for part in (np.ones_like(x), share, 1.0 - share**2)]
    columns = np.stack([parts[0], parts[1], beyond, parts[2]], axis=2)
    columns = np.concatenate([columns, np.tile([0.0, 0.0, 0.0, 1.0 / BEND], (len(places), 1, 1))], axis=1)
    errors = np.sqrt(np.linalg.inv(columns.transpose(0, 2, 1) @ columns)[:, STEP, STEP])
    return _Designs(columns, np.linalg.pinv(columns), errors)


@lru_cache(64)
def _by_chance(fallen: tuple[float, ...], places: tuple[int, ...]) -> Floats:
    """The largest ratio of a step to its error of lines with noise alone (draws)."""
    noise = np.random.default_rng(SEED).normal(size=(DRAWS, len(fallen)))
    sizes, errors, _ = _designs(fallen, places).fitted(noise)
    return np.asarray((sizes / errors).max(axis=1))

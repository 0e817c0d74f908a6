"""A permutation test of a difference, beside its interval."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from coombe_core.comparing.statistics.layout import Floats, Ints, Layout

EXACT_UP_TO = 20_000
DRAWS = 9_999
SEED = 20_260_509


@dataclass(frozen=True)
class Permutation:
    """Two-sided p of the difference of means under relabeling; `lowest` is the least p that this design allows."""

    p_value: float
    lowest: float
    exact: bool


def permutation(values: Floats, layout: Layout) -> Permutation | None:
    """Test the difference of ordinary least squares by relabeling runs within every day and direction.

    All of up to 20,000 relabelings, else 9,999 seeded draws and the observed one.

    Parameters
    ----------
    values : array of float, shape (n,)
        Before first.
    layout : Layout

    Returns
    -------
    Permutation or None
        None where the groups never share a day: whole days are then too few.

    References
    ----------
    Phipson & Smyth (2010), Permutation p-values should never be zero.
    """
    if layout.kind == "days":
        return None
    weights = layout.weights
    cells = [np.flatnonzero(layout.cells == cell) for cell in range(int(layout.cells.max()) + 1)]
    count = math.prod(math.comb(cell.size, int(layout.after[cell].sum())) for cell in cells)
    observed = abs(float(weights @ values))
    exact = count <= EXACT_UP_TO
    found = _every(values, layout, weights, cells) if exact else _drawn(values, layout, weights, cells)
    as_far = int((np.abs(found) >= observed - 1e-12 * max(1.0, observed)).sum())
    if not exact:
        return Permutation((as_far + 1) / (DRAWS + 1), 1 / (DRAWS + 1), False)
    mirrored = all(2 * layout.after[cell].sum() == cell.size for cell in cells)
    return Permutation(as_far / count, (2 if mirrored else 1) / count, True)


def _every(values: Floats, layout: Layout, weights: Floats, cells: Sequence[Ints]) -> Floats:
    """The weighted sum under every relabeling."""
    total = np.zeros(1)
    for cell in cells:
        count = int(layout.after[cell].sum())
        taken = np.array(list(combinations(range(cell.size), count)), dtype=np.intp)
        total = (total[:, None] + _sums(values, layout, weights, cell, taken)[None, :]).ravel()
    return total


def _drawn(values: Floats, layout: Layout, weights: Floats, cells: Sequence[Ints]) -> Floats:
    """The same under relabelings that are drawn: of random keys, the runs with the least go to the after group."""
    draw = np.random.default_rng(SEED)
    total = np.zeros(DRAWS)
    for cell in cells:
        count = int(layout.after[cell].sum())
        keys = draw.random((DRAWS, cell.size), dtype=np.float32)
        taken = np.argpartition(keys, max(count - 1, 0), axis=1)[:, :count]
        total += _sums(values, layout, weights, cell, taken)
    return total


def _sums(values: Floats, layout: Layout, weights: Floats, cell: Ints, taken: Ints) -> Floats:
    """What a cell adds where those runs of it (relabelings x count) are called after; runs of a group weigh alike."""
    inside = layout.after[cell]
    by_after = float(weights[cell][inside].mean()) if inside.any() else 0.0
    by_before = float(weights[cell][~inside].mean()) if (~inside).any() else 0.0
    sums = values[cell][taken].sum(axis=1)
    return np.asarray(by_after * sums + by_before * (float(values[cell].sum()) - sums))

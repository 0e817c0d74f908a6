"""Matching instead of adjusting: only runs that have one of the other group at nearly the same charge."""

from __future__ import annotations

from collections.abc import Sequence

from coombe_core.comparing.factors import CHARGE, Factor
from coombe_core.comparing.state import State


def matched(before: Sequence[State], after: Sequence[State], factor: Factor = CHARGE) -> tuple[list[int], list[int]]:
    """Pair runs of nearly the same charge, the nearest first, each run in one pair at most.

    Parameters
    ----------
    before, after : sequence of State
        What was recorded about the runs of each group.
    factor : Factor
        Within whose band a pair must be.

    Returns
    -------
    (list of int, list of int)
        Places of the runs that have a pair.
    """
    apart = sorted(
        (abs(one - other), i, j)
        for i, first in enumerate(before)
        for j, second in enumerate(after)
        if (one := factor.of(first)) is not None and (other := factor.of(second)) is not None
    )
    taken: dict[int, int] = {}
    for distance, i, j in apart:
        if distance <= factor.band and i not in taken and j not in taken.values():
            taken[i] = j
    return sorted(taken), sorted(taken.values())

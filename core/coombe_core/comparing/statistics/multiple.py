"""Several comparisons at once: with many looks one of them shows by chance, so each has to show more."""

from __future__ import annotations

from collections.abc import Sequence


def holm(p_values: Sequence[float]) -> list[float]:
    """Adjusted p of each, in the order given (Holm 1979): the chance of any false one stays at the level chosen.

    >>> [round(p, 3) for p in holm([0.01, 0.04, 0.03])]
    [0.03, 0.06, 0.06]
    """
    order = sorted(range(len(p_values)), key=lambda place: p_values[place])
    adjusted, highest = [0.0] * len(p_values), 0.0
    for rank, place in enumerate(order):
        highest = max(highest, min((len(p_values) - rank) * p_values[place], 1.0))
        adjusted[place] = highest
    return adjusted

"""Conditions of a series of runs when only those of its first and its last pull were recorded."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import accumulate


def spread(is_pull: Sequence[bool], first: float, last: float) -> list[float]:
    """A condition of every run of a series, each pull using as much as any other; a stop has that of the pull before.

    `is_pull` says of each run, in the order of time, whether it is a pull; `first` and `last` are the condition at the
    first and the last pull, in any unit. With one pull, or none, all have the first one's.

    >>> spread([True, False, True, False, True], 90.0, 86.0)
    [90.0, 90.0, 88.0, 88.0, 86.0]
    """
    steps = sum(is_pull) - 1
    if steps < 1:
        return [first] * len(is_pull)
    places = [max(place - 1, 0) for place in accumulate(is_pull)]
    return [first + (last - first) * place / steps for place in places]

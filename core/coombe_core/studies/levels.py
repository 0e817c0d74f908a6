"""Levels of one thing, as modes, tires or battery warmth: each with its mean, and its difference to a chosen one."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from coombe_core.comparing.comparison import Comparison, Group, Known, Quantity, smaller_is_better
from coombe_core.comparing.verdict import compare, corrected_for_number
from coombe_core.studies.problem import StudyError
from coombe_core.timing.clocks import Clock
from coombe_core.timing.measures import Measure
from coombe_core.uncertainty import Value, coverage_95

LEAST_LEVELS = 2


@dataclass(frozen=True)
class Level:
    """One level: its runs' mean with Student's interval (None of a single run), the best, and its rank, best first."""

    name: str
    runs: int
    mean: float
    u95: float | None
    best: float
    rank: int
    against: Comparison | None

    @property
    def difference(self) -> Value | None:
        """Less the chosen level, as the comparison has it; None of the chosen one, and where nothing can be said."""
        found = self.against and self.against.difference
        return Value(found.value, (found.high95 - found.low95) / 2) if found else None


def levels(
    measure: Measure,
    clock: Clock,
    groups: Sequence[Group],
    reference: int = 0,
    quantity: Quantity = "time",
    known: Known | None = None,
) -> list[Level]:
    """Lay several levels side by side, each compared with one of them.

    Parameters
    ----------
    measure : Measure
    clock : Clock
    groups : sequence of Group
        The runs of every level.
    reference : int
        The place of the level that the others are compared with.
    quantity : {"time", "distance", "line_speed", "trap_speed", "peak_power"}
    known : Known, optional

    Returns
    -------
    list of Level
        In the order of the groups; with several, a difference is clear only where Holm's correction leaves it so.

    Raises
    ------
    StudyError
        With fewer than two levels.
    """

    if len(groups) < LEAST_LEVELS:
        raise StudyError("too few levels", {"levels": len(groups), "least": LEAST_LEVELS})
    others = [group for place, group in enumerate(groups) if place != reference]
    pairs = [compare(measure, clock, groups[reference], other, quantity, known) for other in others]
    compared: list[Comparison | None] = [*corrected_for_number(pairs)]
    compared.insert(reference, None)
    sign = 1.0 if smaller_is_better(quantity) else -1.0
    means = [float(np.mean(group.values)) for group in groups]
    ranks = np.argsort(np.argsort(sign * np.array(means), kind="stable"), kind="stable") + 1
    made = []
    for group, mean, rank, against in zip(groups, means, ranks.tolist(), compared, strict=True):
        count = len(group.values)
        spread = float(np.std(group.values, ddof=1)) if count > 1 else math.nan
        u95 = coverage_95(count - 1) * spread / math.sqrt(count) if count > 1 else None
        best = min(group.values) if sign > 0 else max(group.values)
        made.append(Level(group.name, count, mean, u95, best, rank, against))
    return made

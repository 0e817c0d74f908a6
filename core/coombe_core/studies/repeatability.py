"""Repeatability: passes in order, minutes apart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from coombe_core.studies.problem import StudyError
from coombe_core.studies.trend import trend
from coombe_core.uncertainty import Value

LEAST_PASSES = 3


@dataclass(frozen=True)
class Repeatability:
    """Change per pass, and how likely the first would be as quick as it was if order meant nothing.

    `scatter` is what is left beside the change, 1 sigma; `first_rank` counts from 1, the quickest.
    """

    per_pass: Value
    scatter: float
    first_rank: int
    first_quickest_p: float

    @property
    def changes(self) -> bool:
        """Whether the change per pass is clear."""
        return abs(self.per_pass.value) > self.per_pass.u95


def repeatability(values: Sequence[float], smaller_is_better: bool = True) -> Repeatability:
    """Work out how passes change in their order.

    Parameters
    ----------
    values : sequence of float
        Of one setup on one day, in the order of driving.
    smaller_is_better : bool
        Whether the quickest is the smallest.

    Returns
    -------
    Repeatability
        The probability is exact: any pass is as likely to be the first, so that one of rank r or better comes first
        with r / n.

    Raises
    ------
    StudyError
        With fewer than three passes.
    """
    found = trend([(range(len(values)), values)])
    if found is None or len(values) < LEAST_PASSES:
        raise StudyError("too few", {"runs": len(values), "least": LEAST_PASSES})
    first = values[0]
    rank = sum(value <= first if smaller_is_better else value >= first for value in values)
    return Repeatability(found.per_step, found.left, rank, rank / len(values))

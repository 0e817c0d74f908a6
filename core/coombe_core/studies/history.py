"""History: a car's measure over months, with a jump that nobody logged."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from coombe_core.studies.problem import StudyError
from coombe_core.studies.step import Step, find_step
from coombe_core.uncertainty import Value

LEAST_DAYS = 5
SHOWN_EITHER_WAY = 0.025


@dataclass(frozen=True)
class History:
    """The trend per 30 days (Theil and Sen, with its interval), a jump, and which days were the best until then.

    A jump's `size` is above zero where values became larger; its places are days since the first.
    """

    per_month: Value
    jump: Step | None
    bests: Sequence[int]


def history(days: Sequence[float], values: Sequence[float], smaller_is_better: bool = True) -> History:
    """Work out how a measure of one setup changed over months.

    Parameters
    ----------
    days : sequence of float
        Since any day, ascending.
    values : sequence of float
        The mean of each day: days differ, so that it is they that are repeated.
    smaller_is_better : bool

    Returns
    -------
    History

    Raises
    ------
    StudyError
        With fewer than five days.
    """
    from scipy import stats

    x, y = np.asarray(days, dtype=np.float64), np.asarray(values, dtype=np.float64)
    if x.size < LEAST_DAYS:
        raise StudyError("too few days", {"days": x.size, "least": LEAST_DAYS})
    slope, _, low, high = stats.theilslopes(y, x, 0.95)
    sign = 1.0 if smaller_is_better else -1.0
    best_before = np.minimum.accumulate(np.concatenate([[np.inf], sign * y[:-1]]))
    bests = np.flatnonzero(sign * y < best_before).tolist()
    up, down = find_step(x, y, SHOWN_EITHER_WAY), find_step(x, -y, SHOWN_EITHER_WAY)
    jump = min((step for step in (up, down) if step), key=lambda step: step.p_value, default=None)
    if jump is not None:
        size = jump.size if jump is up else jump.size.scaled(-1.0)
        # A step says levels that fall; days ascend.
        jump = Step(-jump.at, -jump.high, -jump.low, Value(size.value, abs(size.u95)), min(2 * jump.p_value, 1.0))
    return History(Value(30.0 * float(slope), 15.0 * float(high - low)), jump, bests)

"""What to run next to settle a question: a number of more of each group, on the same days or on days of their own."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from coombe_core.comparing.comparison import OPEN, Comparison
from coombe_core.comparing.statistics.scatter import Scatter, assumed_scatter
from coombe_core.planning.sample_size import days_needed, runs_needed

LEAST_RUNS = 5


@dataclass(frozen=True)
class NextRuns:
    """Runs per group (and days per group where the groups can't share one) that would show a difference of `target`.

    `why` says what stands in the way now: too few runs, the `factors` that differ, or a difference that is not shown
    yet; `runs` is None where no number of runs would show it.
    """

    why: Literal["too few", "unlike", "not shown"]
    runs: int | None
    days: int
    interleaved: bool
    target: float | None
    unit: str = ""
    runs_on_days: int | None = None
    factors: tuple[str, ...] = ()


def next_runs(found: Comparison) -> NextRuns | None:
    """Say which runs would settle a comparison; None where it is settled already."""
    weighed = found.weighed
    if weighed is None:
        return NextRuns("too few", LEAST_RUNS, 1, True, None)
    if found.verdict == "not comparable":
        return NextRuns("unlike", LEAST_RUNS, 1, True, None, factors=tuple(found.like.explained.names))
    target = found.asked.difference_that_matters or abs(weighed.difference.value)
    if found.verdict not in OPEN or not target:
        return None
    return _to_show(target, found, weighed.layout.kind != "days")


def _to_show(target: float, found: Comparison, interleaved: bool) -> NextRuns:
    scatter = _scatter(found)
    runs = runs_needed(target, scatter, interleaved=True)
    more = None if interleaved or runs is None else days_needed(target, scatter)
    days, runs_on_days = more or (1, None)
    return NextRuns("not shown", runs, days, interleaved, target, found.unit, runs_on_days)


def _scatter(found: Comparison) -> Scatter:
    """The runs' own scatter where they show it, with the day's from the car's history or the default."""
    sds = [(group.sd, group.n) for group in (found.before, found.after) if group and group.sd is not None]
    typical = abs(sum(found.groups[0].values) / max(len(found.groups[0].values), 1))
    known = found.known.scatter or assumed_scatter(typical)
    dof = sum(n - 1 for _, n in sds)
    if dof < 2:
        return known
    pooled = math.sqrt(sum((n - 1) * sd**2 for sd, n in sds) / dof)
    return Scatter(pooled, known.day_sd, "these runs", False, known.day_assumed)

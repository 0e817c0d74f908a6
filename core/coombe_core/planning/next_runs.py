"""What to run next to settle a question: so many more of each arm, on the same days or on days of their own."""

from __future__ import annotations

import math
from dataclasses import dataclass

from coombe_core.comparing.comparison import Comparison
from coombe_core.comparing.statistics.scatter import Scatter, assumed_scatter
from coombe_core.planning.sample_size import MOST_RUNS, days_needed, runs_needed

LEAST_RUNS = 5


@dataclass(frozen=True)
class NextRuns:
    """Runs an arm (and days an arm where arms can't share one) that would show a difference of `target`."""

    sentence: str
    runs: int | None
    days: int
    interleaved: bool
    target: float | None


def next_runs(found: Comparison) -> NextRuns | None:
    """What would settle it; None where it is settled already."""
    weighed = found.weighed
    if weighed is None:
        return NextRuns(f"Record {LEAST_RUNS} runs an arm, the arms in turn on one day.", LEAST_RUNS, 1, True, None)
    if found.verdict == "not comparable":
        names = " and ".join(found.like.explained.names)
        told = f"Run both arms again at the same {names}, {LEAST_RUNS} each in turn; or drive a sweep, and adjust."
        return NextRuns(told, LEAST_RUNS, 1, True, None)
    target = found.asked.matters or abs(weighed.difference.value)
    if found.verdict != "no difference shown" or not target:
        return None
    return _to_show(target, found, weighed.layout.kind != "days")


def _to_show(target: float, found: Comparison, interleaved: bool) -> NextRuns:
    scatter = _scatter(found)
    runs = runs_needed(target, scatter, interleaved=True)
    size = f"{target:.2f} {found.unit}"
    if runs is None:
        told = f"No number of runs up to {MOST_RUNS} would show {size}; lessen the scatter first."
        return NextRuns(told, None, 1, interleaved, target)
    told = f"{runs} runs an arm, in turn on one day, would probably show a difference of {size}."
    more = None if interleaved else days_needed(target, scatter)
    if more:
        told += f" If the change can't be undone: {more[0]} days an arm with {more[1]} runs in all."
    return NextRuns(told, runs, more[0] if more else 1, interleaved, target)


def _scatter(found: Comparison) -> Scatter:
    """The runs' own scatter where they tell, with the day's from the car's history or the default."""
    sds = [(arm.sd, arm.n) for arm in (found.before, found.after) if arm and arm.sd is not None]
    typical = abs(sum(found.arms[0].values) / max(len(found.arms[0].values), 1))
    known = found.known.scatter or assumed_scatter(typical)
    freedom = sum(n - 1 for _, n in sds)
    if freedom < 2:
        return known
    pooled = math.sqrt(sum((n - 1) * sd**2 for sd, n in sds) / freedom)
    return Scatter(pooled, known.day_sd, "these runs", False, known.day_assumed)

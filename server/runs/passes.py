"""One pass that two receivers saw: recognized by its car, its instant and its time, and counted once."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from coombe_core.wording.changes import same_passes_sentence
from runs.models import Log, Run

RECEIVERS_SHARE = 0.002  # of a time: what two receivers may differ by beside their noise
SAME_PASS = timedelta(seconds=1.5)  # receivers agree on UTC; what differs is how each run's start was found


@dataclass(frozen=True)
class Seen:
    """A run as one receiver saw it, with a time of it where both may have one."""

    run: int
    car: int
    kind: str
    log: int
    start_utc: datetime
    rate_hz: float
    time_s: float | None = None
    time_u95_s: float = 0.0


def seen_twice(rows: Iterable[Seen]) -> dict[int, int]:
    """Runs that are the same pass as another one, by number, with the run that counts: that of the quicker receiver."""
    found: dict[int, int] = {}
    groups: dict[tuple[int, str], list[Seen]] = {}
    for row in rows:
        groups.setdefault((row.car, row.kind), []).append(row)
    for group in groups.values():
        for together in _passes(sorted(group, key=lambda row: row.start_utc)):
            best, *others = sorted(together, key=lambda row: (-row.rate_hz, row.run))
            found |= {row.run: best.run for row in others if row.log != best.log}
    return found


def doubt_about(log: Log) -> str:
    """What to ask about runs of a new log that another log of the same car has too; empty where there is nothing."""
    span = (log.start_utc - SAME_PASS, log.start_utc + timedelta(seconds=log.duration_s) + SAME_PASS)
    cars = log.runs.values("setup__car")
    rows = Run.objects.filter(setup__car__in=cars, start_utc__range=span).select_related("setup", "log")
    runs = {run.pk: run for run in rows}
    twins = seen_twice(
        Seen(run.pk, run.setup.car_id, run.kind, run.log_id, run.start_utc, run.log.rate_hz) for run in runs.values()
    )
    both = [(runs[one], runs[other]) for one, other in twins.items()]
    pairs = [{one.log, other.log} for one, other in both if log.pk in (one.log_id, other.log_id)]
    others = {each.name for pair in pairs for each in pair if each.pk != log.pk}
    return same_passes_sentence(len(pairs), sorted(others))[:400]


def _is_same(one: Seen, other: Seen) -> bool:
    if abs(other.start_utc - one.start_utc) > SAME_PASS:
        return False
    if one.time_s is None or other.time_s is None:
        return True
    apart = 2.0 * math.hypot(one.time_u95_s, other.time_u95_s) + RECEIVERS_SHARE * one.time_s
    return abs(one.time_s - other.time_s) <= apart


def _passes(rows: Sequence[Seen]) -> Iterable[list[Seen]]:
    together: list[Seen] = []
    for row in rows:
        if together and not _is_same(together[0], row):
            yield together
            together = []
        together.append(row)
    if together:
        yield together

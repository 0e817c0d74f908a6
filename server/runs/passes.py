"""One pass that two receivers saw: recognized by its car, its instant and its time, and counted once."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from coombe_core.studies.receivers import LEAST_PASSES, Agreement, agreement
from coombe_core.wording.changes import same_passes_sentence
from runs.models import Log, Measured, Run

RECEIVERS_SHARE = 0.015  # of a time: what two receivers may differ by beside their noise, one of them smoothing
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
    receiver: str = ""
    receiver_used: str = ""
    time_s: float | None = None
    time_u95_s: float = 0.0

    @property
    def rank(self) -> tuple[bool, float, int]:
        """The lowest of a pass counts: the receiver that the setup names, else the quicker, else the earlier run."""
        named = bool(self.receiver) and self.receiver == self.receiver_used
        return not named, -self.rate_hz, self.run


# What `Seen` is made of, as columns of runs, in its order.
SEEN = (
    *("pk", "setup__car_id", "kind", "log_id", "start_utc", "log__rate_hz"),
    *("receiver", "setup__receiver_used"),
)


def seen_twice(rows: Iterable[Seen]) -> dict[int, int]:
    """Runs that are the same pass as another one, by number, with the run that counts."""
    found: dict[int, int] = {}
    groups: dict[tuple[int, str], list[Seen]] = {}
    for row in rows:
        groups.setdefault((row.car, row.kind), []).append(row)
    for group in groups.values():
        for together in _passes(sorted(group, key=lambda row: row.start_utc)):
            best, *others = sorted(together, key=lambda row: row.rank)
            found |= {row.run: best.run for row in others if row.log != best.log}
    return found


def doubt_about(log: Log) -> str:
    """What to ask about runs of a new log that another log of the same car has too; empty where there is nothing."""
    span = (log.start_utc - SAME_PASS, log.start_utc + timedelta(seconds=log.duration_s) + SAME_PASS)
    cars = log.runs.values("setup__car")
    rows = Run.objects.filter(setup__car__in=cars, start_utc__range=span).select_related("setup", "log")
    runs = {run.pk: run for run in rows}
    twins = seen_twice(Seen(*row) for row in rows.values_list(*SEEN))
    both = [(runs[one], runs[other]) for one, other in twins.items()]
    pairs = [
        pair if pair[1].log_id == log.pk else pair[::-1] for pair in both if log.pk in (pair[0].log_id, pair[1].log_id)
    ]
    counting = {runs[twins[one.pk]].log.name if one.pk in twins else one.log.name for pair in pairs for one in pair}
    others = {other.log.name for other, _ in pairs}
    return same_passes_sentence(len(pairs), sorted(others), sorted(counting), _agreement(pairs))[:400]


def _agreement(pairs: Sequence[tuple[Run, Run]]) -> tuple[str, Agreement] | None:
    """How the second of each pair agrees with the first, in the measure that most of them have; None of too few."""
    rows = Measured.objects.filter(run__in=[run for pair in pairs for run in pair])
    times: dict[str, dict[int, float]] = {}
    for run, measure, time_s in rows.exclude(clock="first_movement").values_list("run", "name", "time_s"):
        if time_s is not None:
            times.setdefault(measure, {})[run] = time_s
    shared = {
        name: [(of[one.pk], of[other.pk]) for one, other in pairs if one.pk in of and other.pk in of]
        for name, of in times.items()
    }
    name = max(shared, key=lambda each: (len(shared[each]), each == "0-60 mph"), default=None)
    if name is None or len(shared[name]) < LEAST_PASSES:
        return None
    return name, agreement(*zip(*shared[name], strict=True))


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

"""Two receivers that saw the same passes: pairs of what each says, and what is learned of their difference."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from itertools import combinations

from django.db.models import QuerySet

from coombe_core.studies.problem import StudyError
from coombe_core.studies.receivers import agreement
from coombe_core.timing.measures import Measure
from coombe_core.timing.results import QUANTITIES
from coombe_core.uncertainty import Value
from runs.models import Measured, Run, u95_name, value_of
from runs.passes import SAME_PASS

MOST_RUNS = 2000  # of a receiver, the latest


@dataclass(frozen=True)
class Pair:
    """One pass with what each of two receivers says of it; `run` is the first receiver's."""

    run: int
    first: Value
    second: Value


def pairs_of(
    runs: QuerySet[Run], measure: Measure, clock: str, first: str, second: str, field: str | None = None
) -> list[Pair]:
    """The passes among some runs that two receivers, by name, both saw and timed; in the order of time."""
    name = field or ("onset_distance_m" if measure.basis == "stop" else "time_s")
    assert name in QUANTITIES
    columns = ("run_id", "run__setup__car_id", "run__start_utc", "run__receiver", name, u95_name(name))
    rows = Measured.objects.filter(run__in=runs, name=measure.name, clock=clock, run__receiver__in=(first, second))
    rows = rows.filter(run__validity="valid", run__log__date_known=True, **{f"{name}__isnull": False})
    seen: dict[str, list[tuple[int, int, float, Value]]] = {first: [], second: []}
    for run, car, start, receiver, value, u95 in rows.order_by("-run__start_utc").values_list(*columns)[:MOST_RUNS]:
        if known := value_of(value, u95):
            seen.setdefault(receiver, []).append((run, car, start.timestamp(), known))
    others = seen[second]
    pairs = []
    for run, car, start_s, one in seen[first]:
        near = [each for each in others if each[1] == car and abs(each[2] - start_s) <= SAME_PASS.total_seconds()]
        if near:
            closest = min(near, key=lambda each: abs(each[2] - start_s))
            pairs.append(Pair(run, one, closest[3]))
    return pairs[::-1]


def learned_between(
    names: Collection[str], measure: Measure, clock: str, field: str
) -> Mapping[tuple[str, str], Value]:
    """By what share of a value the second of two receivers says more than the first, where passes show it."""
    found: dict[tuple[str, str], Value] = {}
    for first, second in combinations(sorted(set(names) - {""}), 2):
        pairs = pairs_of(Run.objects.all(), measure, clock, first, second, field)
        try:
            shares = agreement([1.0] * len(pairs), [pair.second.value / pair.first.value for pair in pairs]).bias
        except StudyError:
            continue
        found[first, second] = shares
        found[second, first] = shares.scaled(-1.0)
    return found

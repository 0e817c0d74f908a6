"""What is asked of a comparison, and the stored runs that it takes: which count, and why others do not."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from itertools import takewhile
from typing import Any

from comparisons.loading import PEAK, StoredRun, load
from coombe_core.comparing.comparison import Group, Quantity
from coombe_core.comparing.factors import ADJUSTABLE
from coombe_core.comparing.groups import group_of_runs, shared_quantity, value_of
from coombe_core.comparing.state import State
from coombe_core.fitting.ramp_pool import RampPool
from coombe_core.fitting.torque_ramp import LAUNCH_RAMPS
from coombe_core.timing.clocks import Clock
from coombe_core.timing.measures import Measure, parse_measure
from runs import intervals
from runs.passes import Seen, seen_twice
from runs.peaks import peaks_kw

LIFTED = ("aborted", "lifted_early")


@dataclass(frozen=True)
class AskedGroup:
    """One group as it was asked for: runs by number, or values typed from elsewhere."""

    name: str
    runs: Sequence[int]
    typed_values: Sequence[float] = ()
    source: str = ""
    typed_day: date | None = None


@dataclass(frozen=True)
class Question:
    """What is compared. Raises ValueError with a sentence where measure, clock and quantity do not fit."""

    measure: Measure
    clock: Clock
    quantity: Quantity
    groups: Sequence[AskedGroup]
    adjust: frozenset[str] = frozenset()
    difference_that_matters: float | None = None
    match: bool = False
    parted: bool = True  # whether it is asked where the time went, for which splits are read

    @classmethod
    def of(cls, asked: Mapping[str, Any]) -> Question:
        """From the API's validated data."""
        groups = [
            AskedGroup(group["name"], group["runs"], group["typed_values"], group["source"], group["typed_day"])
            for group in asked["groups"]
        ]
        measure = parse_measure(asked["measure"])
        adjust = frozenset(asked["adjust"]) & set(ADJUSTABLE)
        return cls(
            measure, asked["clock"], asked["quantity"], groups, adjust, asked["difference_that_matters"], asked["match"]
        )


@dataclass(frozen=True)
class Gathered:
    """The stored runs of each group, those of them that count, and the field of Measured that is compared."""

    question: Question
    stored: list[list[StoredRun]]
    counting: list[list[StoredRun]]
    field: str
    groups: list[Group]


def gather(question: Question) -> Gathered:
    """Load the groups. Raises ValueError with a sentence where the quantity does not fit."""
    measure, clock = question.measure, question.clock
    intervals.have([pk for group in question.groups for pk in group.runs], measure)
    chosen = {pk for group in question.groups for pk in group.runs}
    runs = load(chosen, measure, clock, parted=question.parted and question.quantity == "time")
    stored = [[runs[pk] for pk in group.runs if pk in runs] for group in question.groups]
    twice = seen_twice(_seen(row, measure, clock) for rows in stored for row in rows)
    stored = [[replace(row, same_as=twice.get(row.run.pk)) for row in rows] for rows in stored]
    counting = [[row for row in rows if not barred(row, measure, clock)] for rows in stored]
    if question.quantity == "peak_power":
        return _by_power(question, stored)
    name = shared_quantity(question.quantity, [row for rows in counting for row in rows], measure, clock)
    counting = [[row for row in rows if value_of(row, measure, clock, name)] for rows in counting]
    pool = _one_pool([row for rows in counting for row in rows]) if clock == "first_movement" else None
    groups = [_group(asked, rows, question, name, pool) for asked, rows in zip(question.groups, counting, strict=True)]
    return Gathered(question, stored, counting, name, groups)


def _by_power(question: Question, stored: list[list[StoredRun]]) -> Gathered:
    """Peak powers: the battery's where every run has CAN data of it, else those at the wheels."""
    if question.measure.basis == "stop":
        raise ValueError("a stop has no peak power: name a measure of a pull")
    peaks = peaks_kw([row.run for rows in stored for row in rows])
    if not peaks and any(stored):
        raise ValueError("peak power needs CAN data of the battery, or the car's test mass: enter it on the car's page")
    stored = [[replace(row, peak_kw=peaks.get(row.run.pk)) for row in rows] for rows in stored]
    counting = [
        [row for row in rows if row.peak_kw is not None and not barred(row, question.measure, question.clock)]
        for rows in stored
    ]
    groups = [
        Group(list(asked.typed_values), states=_typed_states(asked, question), name=asked.name)
        if asked.typed_values
        else Group([row.peak_kw or 0.0 for row in rows], states=[row.state for row in rows], name=asked.name)
        for asked, rows in zip(question.groups, counting, strict=True)
    ]
    return Gathered(question, stored, counting, PEAK, groups)


def _seen(row: StoredRun, measure: Measure, clock: Clock) -> Seen:
    run, time = row.run, value_of(row, measure, clock, "time_s")
    facts = (
        *(run.pk, run.setup.car_id, run.kind, run.log_id, run.start_utc, row.rate_hz),
        *(run.receiver, run.setup.receiver_used),
    )
    return Seen(*facts, time.value, time.u95) if time else Seen(*facts)


def _group(asked: AskedGroup, rows: Sequence[StoredRun], question: Question, name: str, pool: RampPool | None) -> Group:
    if asked.typed_values:
        return Group(list(asked.typed_values), states=_typed_states(asked, question), name=asked.name)
    made = group_of_runs(rows, question.measure, question.clock, name, pool, [row.state for row in rows])
    return Group(made.values, made.edges, made.common_u95, made.states, made.speed_edges, asked.name)


def _typed_states(asked: AskedGroup, question: Question) -> list[State]:
    """The day of typed values; their order in it where no group's runs have hours, group by group."""
    if asked.typed_day is None:
        return []
    before = sum(len(group.typed_values) for group in takewhile(lambda group: group is not asked, question.groups))
    in_order = all(group.typed_values for group in question.groups)
    return [
        State(day=f"{asked.typed_day:%Y-%m-%d}", hour=float(before + place) if in_order else None)
        for place in range(len(asked.typed_values))
    ]


def _one_pool(rows: Sequence[StoredRun]) -> RampPool | None:
    """The torque ramp of all runs, where one setup made them: its doubt then leaves the difference."""
    ramps = [row.launch_ramps for row in rows]
    known = [each for each in ramps if each]
    if len({row.run.setup_id for row in rows}) != 1 or len(known) < len(ramps):
        return None
    return RampPool.of(known, LAUNCH_RAMPS.prior)


def barred(row: StoredRun, measure: Measure, clock: Clock) -> str:
    """Why a run does not count for the measure; empty where it does.

    A pull that was lifted counts for what it reached before.
    """
    run = row.run
    if not row.date_known:
        return "its log has no date; say on which day it was driven"
    if row.same_as is not None:
        return f"the same pass as run {row.same_as}, seen by another receiver; it counts once"
    if run.validity == "void":
        return f"void: {run.void_reason}"
    if not run.complete and not _reached_before_lift(row, measure, clock):
        return f"did not reach {measure.name} at full power"
    if not run.decided and any(flag.severity == "void" for flag in row.flags):
        return "a flag proposes to void it; keep or void it first"
    excluding = None if run.decided or not measure.from_rest else next((f for f in row.flags if f.excludes), None)
    return f"{excluding.code.replace('_', ' ')}: keep the run to admit it" if excluding else ""


def _reached_before_lift(row: StoredRun, measure: Measure, clock: Clock) -> bool:
    lifts = [flag.since_s for flag in row.flags if flag.code in LIFTED and flag.since_s is not None]
    time = value_of(row, measure, clock, "time_s")
    if not lifts or time is None or not measure.from_rest:
        return False
    since_s = time.value + (row.run.rollout_s or 0.0 if clock == "rollout" else 0.0)
    return since_s <= min(lifts)

"""Working a plan out: how many runs, in which order, what is confounded, what it costs, and whether the strip fits."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

from django.db.models import Count, Q, QuerySet

from cars.models import Car, Setup
from coombe_core.comparing.statistics.scatter import Scatter
from coombe_core.planning.budget import driving_down, runs_left, top_ups
from coombe_core.planning.order import (
    DAY_AND_CHANGE,
    Confounding,
    Planned,
    charge_ladder,
    confounded,
    duration_min,
    roll_on_set,
    run_order,
    split_by_days,
    stop_series,
    with_lanes,
)
from coombe_core.planning.sample_size import (
    Design,
    days_needed,
    detectable_difference,
    power_curve,
    power_to_find,
    runs_needed,
)
from coombe_core.timing.measures import Measure, parse_measure
from coombe_core.wording.order import confounding_sentence, driving_down_sentence
from coombe_core.wording.sample_size import needed_sentence, planned_sentence, still_sentence
from coombe_core.wording.sources import learned_source, scatter_source
from coombe_core.wording.strip import strip_sentence
from courses.models import Course
from learning import services as learning
from learning import strip
from plans.models import Plan, PlanKind
from runs.models import Measured, Validity

TYPICAL_S = {"speed": 5.0, "distance": 13.0, "stop": 3.0}
FEW_RUNS = 3


def outline(plan: Plan, groups: list[str]) -> list[list[Planned]]:
    """The runs of every day of a plan, in order. Raises ValueError with a sentence where it can't be laid out."""
    runs, both = plan.runs_per_group, plan.both_directions
    if plan.kind == PlanKind.SWEEP:
        low, step = plan.ladder_low_percent, plan.ladder_step_percent
        return [charge_ladder(group, plan.high_charge_percent, low, step, runs, both) for group in groups]
    if plan.kind == PlanKind.STOPS:
        return [stop_series(group, runs, plan.cooling_min, both) for group in groups]
    if not plan.can_alternate:
        return split_by_days(groups, plan.days_per_group, runs, both)
    if plan.kind == PlanKind.ROLL_ON:
        speed = parse_measure(plan.measure).from_mps
        return [roll_on_set(groups, [speed], runs, plan.order, both, plan.seed)]  # type: ignore[arg-type]
    one = run_order(groups, runs, plan.order, both, plan.seed)  # type: ignore[arg-type]
    return [with_lanes(one) if plan.kind == PlanKind.SIDE_BY_SIDE else one]


def advise(plan: Plan, groups: list[str]) -> dict[str, Any]:
    """Everything that a plan says about itself, saved or not. Raises ValueError where it can't be planned."""
    measure = parse_measure(plan.measure)
    days = outline(plan, groups)
    planned = [step for day in days for step in day]
    cost = learning.charge_per_run(plan.car)
    longest = max(days, key=len)
    low = plan.lowest_charge_percent
    return {
        "size": _size(plan, measure, groups),
        "confounded": _confounded(plan, days),
        "days": [[asdict(step) for step in day] for day in days],
        "run_count": len(planned),
        "duration_min": duration_min(longest, plan.minutes_per_run, plan.minutes_per_change),
        "charge_per_run_percent": cost.value,
        "charge_per_run_source": learned_source(cost),
        "runs_left": asdict(runs_left(plan.high_charge_percent, low, cost)),
        "top_ups": [
            asdict(each)
            for each in top_ups(len(longest), plan.high_charge_percent, low, plan.high_charge_percent, cost)
        ],
        "driving_down": _driving_down(plan),
        "strip": strip.as_json(strip.check(plan.course, plan.car, plan.measure)),
    }


def _driving_down(plan: Plan) -> str:
    """What comes between the rungs of a sweep; empty of another test."""
    if plan.kind != PlanKind.SWEEP:
        return ""
    rungs = len(charge_ladder("", plan.high_charge_percent, plan.ladder_low_percent, plan.ladder_step_percent, 1))
    return driving_down_sentence(driving_down(plan.ladder_step_percent, plan.car.battery_kwh), rungs)


def _size(plan: Plan, measure: Measure, groups: list[str]) -> dict[str, Any] | None:
    """What the runs can show; None where there are no two groups to tell apart."""
    if len(groups) < 2:
        return None
    scatter = _scatter(plan, measure)
    days = 1 if plan.can_alternate else plan.days_per_group
    difference, power = plan.difference_that_matters, plan.power
    needed = runs_needed(difference, scatter, power, days, plan.can_alternate)
    more = None if plan.can_alternate or needed else days_needed(difference, scatter, power)
    runs = plan.runs_per_group
    design = Design(runs, days, plan.can_alternate) if runs >= max(2, days) else None
    detectable = detectable_difference(design, scatter, power) if design else None
    found = power_to_find(difference, design, scatter) if design else None
    unit = _unit(measure)
    return {
        "run_sd": scatter.run_sd,
        "day_sd": scatter.day_sd,
        "scatter_source": scatter_source(scatter),
        "runs_needed": needed,
        "days_needed": more[0] if more else None,
        "needed_sentence": needed_sentence(difference, unit, power, needed, more[0] if more else None, days),
        "detectable_difference": detectable,
        "power": found,
        "planned_sentence": ""
        if detectable is None or found is None
        else planned_sentence(difference, unit, runs, detectable, found),
        "curve": power_curve(scatter, days, plan.can_alternate),
    }


def _unit(measure: Measure) -> str:
    """The unit of a difference in a measure: a stop's result is a length."""
    return "m" if measure.basis == "stop" else "s"


def _scatter(plan: Plan, measure: Measure) -> Scatter:
    """The car's scatter of the plan's measure, on the plan's clock where the measure has it."""
    clock = plan.clock if plan.clock in measure.clocks else measure.clocks[0]
    typical = learning.typical_s(plan.car, plan.measure, clock) or TYPICAL_S[measure.basis]
    return learning.scatter(plan.car, plan.measure, clock, typical)


def _confounding(found: Confounding) -> dict[str, Any]:
    return {"what": found.what, "sentence": confounding_sentence(found), "avoided_by": found.avoided_by}


def _confounded(plan: Plan, days: list[list[Planned]]) -> list[dict[str, Any]]:
    if not plan.can_alternate:
        found = [_confounding(DAY_AND_CHANGE)]
        if plan.days_per_group < 2:
            found[0]["sentence"] += " This plan has one day each."
        return found
    return [_confounding(each) for day in days for each in confounded(day)]


@dataclass(frozen=True)
class Progress:
    """How far a group has come: runs driven, runs still open, and valid runs of its setup with the measure.

    `runs` are the recorded ones of those that were driven, by number.
    """

    group: str
    done: int
    open: int
    baseline: int
    runs: list[int]


def progress(plan: Plan) -> list[Progress]:
    """Every group's progress."""
    found = []
    for group in plan.groups.all():
        rows = list(group.scheduled_runs.order_by("pk").values_list("state", "run"))
        states, runs = [state for state, _ in rows], [run for _, run in rows if run is not None]
        baseline = valid_runs(group.setup, plan)
        found.append(Progress(group.name, states.count("done"), states.count("open"), baseline, runs))
    return found


def with_progress(plans: QuerySet[Plan]) -> QuerySet[Plan]:
    """Plans, the newest first, with how many runs of their days are `done` and `open`, and how many days they have."""
    runs = {
        state: Count("days__scheduled_runs", filter=Q(days__scheduled_runs__state=state), distinct=True)
        for state in ("done", "open")
    }
    return plans.annotate(**runs, day_count=Count("days", distinct=True)).order_by("-created_at", "-id")


def can_still_show(plan: Plan) -> dict[str, Any] | None:
    """The least difference that the runs driven and those still open detect, in words too; None for one group.

    The difference itself is None under two runs per group.
    """
    groups = progress(plan)
    if len(groups) < 2:
        return None
    runs = min(each.done + each.open for each in groups)
    days = 1 if plan.can_alternate else plan.days_per_group
    if runs < max(2, days):
        return {"difference": None, "sentence": "Too few runs are left to detect a difference."}
    measure = parse_measure(plan.measure)
    design = Design(runs, days, plan.can_alternate)
    difference = detectable_difference(design, _scatter(plan, measure), plan.power)
    sentence = still_sentence(plan.difference_that_matters, _unit(measure), difference)
    return {"difference": difference, "sentence": sentence}


def valid_runs(setup: Setup | None, plan: Plan) -> int:
    """Runs of a setup that would count for the plan's measure."""
    if setup is None:
        return 0
    rows = Measured.objects.filter(
        run__setup=setup, run__complete=True, run__validity=Validity.VALID, name=plan.measure
    )
    return rows.values("run").distinct().count()


def without_baseline(car: Car) -> list[tuple[Plan, str]]:
    """Open questions of a car whose first group has too few valid runs, with a sentence: change nothing before."""
    found = []
    for plan in car.plans.prefetch_related("groups__setup"):
        first = plan.groups.first()
        if first is None or plan.groups.count() < 2:
            continue
        runs = valid_runs(first.setup, plan)
        if runs < FEW_RUNS:
            found.append(
                (plan, f"{runs} valid runs of {plan.measure} on {first.name}; a baseline needs {FEW_RUNS} or more.")
            )
    return found


def fits(course: Course, car: Car, measure: str) -> str:
    """Empty where the strip is long enough, else the sentence that refuses it. Raises ValueError as `strip.check`."""
    checked = strip.check(course, car, measure)
    return "" if checked.fits else strip_sentence(checked)

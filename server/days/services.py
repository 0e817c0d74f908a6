"""Laying a day out, changing it while it goes on, and working its timetable out."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.db import transaction
from django.db.models import F, Max
from django.utils import timezone

from accounts.models import User
from config.errors import UnfitError
from coombe_core.planning.budget import runs_left
from coombe_core.planning.day import ASSUMED_HEATER_KW, ASSUMED_HOTTEST_C, Day, Remedy, Timetable, Window
from coombe_core.planning.order import Planned, duration_min
from coombe_core.planning.timetable import timetable
from days.checklists import template
from days.models import ChecklistItem, DayState, ScheduledRun, ScheduledRunState, TestDay
from learning import services as learning
from plans.models import Plan, PlanKind
from plans.services import fits, outline
from runs import resting
from runs.models import Run

MATCH_BAND_PERCENT = 3.0  # how near a sweep's first run must be to its top rung


class CantPlanError(UnfitError):
    """A day that can't be laid out, with the field at fault."""


def lay_out(plan: Plan, given: dict[str, Any]) -> TestDay:
    """The next day of a plan with its runs and checklist. Raises CantPlanError where that can't be."""
    groups = list(plan.groups.all())
    days = outline(plan, [group.name for group in groups])
    taken = set(plan.days.values_list("part", flat=True))
    part = next((part for part in range(len(days)) if part not in taken), None)
    if part is None:
        raise CantPlanError("Every day of this plan is planned already.", "plan")
    if refused := fits(plan.course, plan.car, plan.measure):
        raise CantPlanError(refused, "plan")
    by_name = {group.name: group for group in groups}
    with transaction.atomic():
        day = TestDay.objects.create(plan=plan, part=part, **given)
        ScheduledRun.objects.bulk_create(
            ScheduledRun(
                day=day,
                position=position,
                group=by_name[step.group],
                kind=step.kind,
                direction=step.direction,
                lane=step.lane,
                charge_percent=step.charge_percent,
                from_speed_mps=step.from_speed_mps,
                wait_min=step.wait_min,
            )
            for position, step in enumerate(days[part])
        )
        ChecklistItem.objects.bulk_create(
            ChecklistItem(day=day, position=position, section=section, text=text)
            for position, (section, text) in enumerate(template(plan.kind))
        )
    return day


def worked_out(day: TestDay) -> Timetable:
    """The day's charge-and-heat timetable, in the course's time zone."""
    plan, car = day.plan, day.plan.car
    top_rung = plan.high_charge_percent - MATCH_BAND_PERCENT
    low = top_rung if plan.kind == PlanKind.SWEEP else plan.low_charge_percent
    window = Window(low, plan.high_charge_percent, plan.low_battery_temp_c, plan.high_battery_temp_c)
    return timetable(
        Day(
            first_run_at=day.local(day.first_run_at),
            known_at=day.local(day.known_at),
            charge_percent=day.charge_percent,
            battery_temp_c=day.battery_temp_c,
            outside_temp_c=day.outside_temp_c,
            window=window,
            charger_kw=day.charger_kw,
            drive_min=day.drive_min,
            drive_charge_percent=day.drive_charge_percent,
            prepare_min=day.prepare_min,
            runs_min=_minutes(day),
            climate_kw=day.climate_kw,
            heater_kw=car.heater_kw or ASSUMED_HEATER_KW,
            hottest_c=car.hottest_battery_c or ASSUMED_HOTTEST_C,
            course_charger_kw=day.course_charger_kw,
        ),
        learning.battery_heat(car),
        learning.charge_curve(car),
    )


def changes_for(remedy: Sequence[Remedy]) -> dict[str, Any] | None:
    """What to set of a day for a remedy to be carried out; None where one of its changes is to the runs."""
    changes: dict[str, Any] = {}
    for change in remedy:
        match change.what:
            case "later first run":
                changes["first_run_at"] = change.at
            case "earlier start":
                changes["known_at"] = change.at
            case "charger at the course":
                changes["course_charger_kw"] = change.power_kw
            case _:
                return None
    return changes


def _minutes(day: TestDay) -> float:
    """What the day's runs take, the skipped ones left out."""
    steps = [
        Planned(step.group.name, step.kind, step.direction, wait_min=step.wait_min)  # type: ignore[arg-type]
        for step in day.scheduled_runs.all()
        if step.state != ScheduledRunState.SKIPPED
    ]
    return duration_min(steps, day.plan.minutes_per_run, day.plan.minutes_per_change)


def budget(day: TestDay) -> dict[str, Any]:
    """Runs left in the charge as it stands after the last run driven, and those still open."""
    cost = learning.charge_per_run(day.plan.car)
    steps = list(day.scheduled_runs.all())
    driven = [step for step in steps if step.state == ScheduledRunState.DONE]
    charges = [
        step.run.charge_after_percent for step in driven if step.run and step.run.charge_after_percent is not None
    ]
    charge = charges[-1] if charges else day.plan.high_charge_percent - cost.value * len(driven)
    left = runs_left(charge, day.plan.lowest_charge_percent, cost)
    return {
        "charge_percent": charge,
        "charge_is_estimated": not charges,
        "open": sum(step.state == ScheduledRunState.OPEN for step in steps),
        "done": len(driven),
        "sure": left.sure,
        "likely": left.likely,
        "at_best": left.at_best,
    }


def settle(step: ScheduledRun, changes: dict[str, Any]) -> ScheduledRun:
    """Change what became of a planned run; the day follows. The day is locked first, and by everybody."""
    with transaction.atomic():
        day = locked_day(step.day_id)
        step.refresh_from_db()
        for name, value in {"revision": step.revision + 1, **changes}.items():
            setattr(step, name, value)
        before = ScheduledRun.objects.filter(pk=step.pk).values_list("run_id", flat=True).first()
        step.save(update_fields=[*changes, "revision"])
        if "run" in changes:  # its window is that of the plan
            resting.look(Run.objects.filter(pk__in=[pk for pk in (before, step.run_id) if pk]))
        _follow(day)
    return step


def locked_day(day: int) -> TestDay:
    """A day's row, locked until the transaction ends: who orders its runs waits for whoever does so now."""
    return TestDay.objects.select_for_update().get(pk=day)


def _state(states: set[str]) -> str:
    if states <= {ScheduledRunState.DONE, ScheduledRunState.SKIPPED} and ScheduledRunState.DONE in states:
        return DayState.FINISHED
    return DayState.UNDER_WAY if ScheduledRunState.DONE in states else DayState.PLANNED


def repeat(step: ScheduledRun) -> ScheduledRun:
    """The same run once more, right after it."""
    with transaction.atomic():
        day = locked_day(step.day_id)
        again = ScheduledRun.objects.get(pk=step.pk)
        day.scheduled_runs.filter(position__gt=again.position).update(position=F("position") + 1)
        again.pk, again.run, again.state, again.note, again.revision = None, None, ScheduledRunState.OPEN, "", 1
        again._state.adding = True
        again.position += 1
        again.save()
        _follow(day)
    return again


def append(day: TestDay, step: ScheduledRun) -> ScheduledRun:
    """A run more, at the end."""
    with transaction.atomic():
        locked = locked_day(day.pk)
        step.day, step.position = locked, _next_position(locked.scheduled_runs)
        step.save()
        _follow(locked)
    return step


def _follow(day: TestDay) -> None:
    day.state = _state(set(day.scheduled_runs.values_list("state", flat=True)))
    day.save(update_fields=["state"])


def _next_position(rows: Any) -> int:
    last = rows.aggregate(last=Max("position"))["last"]
    return 0 if last is None else last + 1


def add_check(day: TestDay, given: dict[str, Any]) -> ChecklistItem:
    """A line more, at the end of a day's checklist."""
    with transaction.atomic():
        locked = locked_day(day.pk)
        return ChecklistItem.objects.create(**given | {"day": locked}, position=_next_position(locked.checklist))


def reorder(day: TestDay, ids: list[int]) -> None:
    """Put a day's runs into another order. Raises CantPlanError where the ids are not those of the day."""
    with transaction.atomic():
        steps = {step.pk: step for step in locked_day(day.pk).scheduled_runs.all()}
        if sorted(ids) != sorted(steps):
            raise CantPlanError("The day has other runs by now: reload and order them again.", "ids")
        for position, pk in enumerate(ids):
            steps[pk].position = position
        ScheduledRun.objects.bulk_update(steps.values(), ["position"])


def sign(item: ChecklistItem, person: User | None) -> ChecklistItem:
    """Sign a line off, or take the signature back."""
    item.signed_by = person
    item.signed_at = timezone.now() if person else None
    item.save(update_fields=["signed_by", "signed_at"])
    return item


def reset_checklist(day: TestDay) -> None:
    """Take every signature back: the list is signed for each run, not once a day."""
    day.checklist.update(signed_by=None, signed_at=None)


def is_go(day: TestDay) -> bool:
    """Whether every line that is needed is signed off."""
    return all(item.signed_by_id for item in day.checklist.all() if item.needed)

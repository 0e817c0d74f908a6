"""Laying a day out, changing it while it goes on, and working its timetable out."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from django.db import transaction
from django.db.models import F, Max
from django.utils import timezone

from accounts.models import User
from coombe_core.planning.budget import runs_left
from coombe_core.planning.day import ASSUMED_HEATER_KW, ASSUMED_HOTTEST_C, Day, Timetable, Window
from coombe_core.planning.order import Planned, duration_min
from coombe_core.planning.timetable import timetable
from days.checklists import template
from days.models import CheckItem, DayState, PlannedRun, StepState, TestDay
from learning import services as learning
from plans.models import Plan, PlanKind
from plans.services import fits, outline
from runs import resting
from runs.models import Run

MATCH_BAND_PERCENT = 3.0  # how near a sweep's first run must lie to its top rung


class CantPlanError(ValueError):
    """A day that can't be laid out, with the field at fault."""

    def __init__(self, field: str, sentence: str) -> None:
        super().__init__(sentence)
        self.field = field


def lay_out(plan: Plan, given: dict[str, Any]) -> TestDay:
    """The next day of a plan with its runs and checklist. Raises CantPlanError where that can't be."""
    arms = list(plan.arms.all())
    days = outline(plan, [arm.name for arm in arms])
    taken = set(plan.days.values_list("part", flat=True))
    part = next((part for part in range(len(days)) if part not in taken), None)
    if part is None:
        raise CantPlanError("plan", "Every day of this plan is laid out already.")
    if refused := fits(plan.course, plan.car, plan.measure):
        raise CantPlanError("plan", refused)
    by_name = {arm.name: arm for arm in arms}
    with transaction.atomic():
        day = TestDay.objects.create(plan=plan, part=part, **given)
        PlannedRun.objects.bulk_create(
            PlannedRun(
                day=day,
                position=position,
                arm=by_name[step.group],
                kind=step.kind,
                direction=step.direction,
                lane=step.lane,
                charge_percent=step.charge_percent,
                from_speed_mps=step.from_speed_mps,
                wait_min=step.wait_min,
            )
            for position, step in enumerate(days[part])
        )
        CheckItem.objects.bulk_create(
            CheckItem(day=day, position=position, section=section, text=text)
            for position, (section, text) in enumerate(template(plan.kind))
        )
    return day


def worked_out(day: TestDay) -> Timetable:
    """The day's charge-and-heat timetable, in the course's time zone."""
    plan, car = day.plan, day.plan.car
    zone = ZoneInfo(plan.course.time_zone)
    top_rung = plan.high_charge_percent - MATCH_BAND_PERCENT
    low = top_rung if plan.kind == PlanKind.SWEEP else plan.low_charge_percent
    window = Window(low, plan.high_charge_percent, plan.low_pack_temp_c, plan.high_pack_temp_c)
    return timetable(
        Day(
            first_run_at=day.first_run_at.astimezone(zone),
            known_at=day.known_at.astimezone(zone),
            charge_percent=day.charge_percent,
            pack_temp_c=day.pack_temp_c,
            outside_temp_c=day.outside_temp_c,
            window=window,
            charger_kw=day.charger_kw,
            drive_min=day.drive_min,
            drive_charge_percent=day.drive_charge_percent,
            prepare_min=day.prepare_min,
            runs_min=_minutes(day),
            climate_kw=day.climate_kw,
            heater_kw=car.heater_kw or ASSUMED_HEATER_KW,
            hottest_c=car.hottest_pack_c or ASSUMED_HOTTEST_C,
            course_charger_kw=day.course_charger_kw,
        ),
        learning.pack_heat(car),
        learning.charge_curve(car),
    )


def _minutes(day: TestDay) -> float:
    """What the day's runs take, the skipped ones left out."""
    steps = [
        Planned(step.arm.name, step.kind, step.direction, wait_min=step.wait_min)  # type: ignore[arg-type]
        for step in day.steps.all()
        if step.state != StepState.SKIPPED
    ]
    return duration_min(steps, day.plan.minutes_a_run, day.plan.minutes_a_change)


def budget(day: TestDay) -> dict[str, Any]:
    """Runs left in the charge as it stands after the last run driven, and those still open."""
    cost = learning.charge_per_run(day.plan.car)
    steps = list(day.steps.all())
    driven = [step for step in steps if step.state == StepState.DONE]
    charges = [
        step.run.charge_after_percent for step in driven if step.run and step.run.charge_after_percent is not None
    ]
    charge = charges[-1] if charges else day.plan.high_charge_percent - cost.value * len(driven)
    left = runs_left(charge, day.plan.lowest_charge_percent, cost)
    return {
        "charge_percent": charge,
        "charge_is_estimated": not charges,
        "open": sum(step.state == StepState.OPEN for step in steps),
        "done": len(driven),
        "sure": left.sure,
        "likely": left.likely,
        "at_best": left.at_best,
    }


def settle(step: PlannedRun, changes: dict[str, Any]) -> PlannedRun:
    """Change what became of a planned run; the day follows. The day is locked first, and by everybody."""
    with transaction.atomic():
        day = locked_day(step.day_id)
        step.refresh_from_db()
        for name, value in {"revision": step.revision + 1, **changes}.items():
            setattr(step, name, value)
        before = PlannedRun.objects.filter(pk=step.pk).values_list("run_id", flat=True).first()
        step.save(update_fields=[*changes, "revision"])
        if "run" in changes:  # its window is that of the plan
            resting.look(Run.objects.filter(pk__in=[pk for pk in (before, step.run_id) if pk]))
        _follow(day)
    return step


def locked_day(day: int) -> TestDay:
    """A day's row, locked until the transaction ends: who orders its runs waits for whoever does so now."""
    return TestDay.objects.select_for_update().get(pk=day)


def _state(states: set[str]) -> str:
    if states <= {StepState.DONE, StepState.SKIPPED} and StepState.DONE in states:
        return DayState.FINISHED
    return DayState.UNDER_WAY if StepState.DONE in states else DayState.PLANNED


def repeat(step: PlannedRun) -> PlannedRun:
    """The same run once more, right after it."""
    with transaction.atomic():
        day = locked_day(step.day_id)
        again = PlannedRun.objects.get(pk=step.pk)
        day.steps.filter(position__gt=again.position).update(position=F("position") + 1)
        again.pk, again.run, again.state, again.note, again.revision = None, None, StepState.OPEN, "", 1
        again._state.adding = True
        again.position += 1
        again.save()
        _follow(day)
    return again


def append(day: TestDay, step: PlannedRun) -> PlannedRun:
    """A run more, at the end."""
    with transaction.atomic():
        locked = locked_day(day.pk)
        step.day, step.position = locked, _next_position(locked.steps)
        step.save()
        _follow(locked)
    return step


def _follow(day: TestDay) -> None:
    day.state = _state(set(day.steps.values_list("state", flat=True)))
    day.save(update_fields=["state"])


def _next_position(rows: Any) -> int:
    last = rows.aggregate(last=Max("position"))["last"]
    return 0 if last is None else last + 1


def add_check(day: TestDay, given: dict[str, Any]) -> CheckItem:
    """A line more, at the end of a day's checklist."""
    with transaction.atomic():
        locked = locked_day(day.pk)
        return CheckItem.objects.create(**given | {"day": locked}, position=_next_position(locked.checks))


def reorder(day: TestDay, ids: list[int]) -> None:
    """Put a day's runs into another order. Raises CantPlanError where the ids are not those of the day."""
    with transaction.atomic():
        steps = {step.pk: step for step in locked_day(day.pk).steps.all()}
        if sorted(ids) != sorted(steps):
            raise CantPlanError("ids", "The day has other runs by now: reload and order them again.")
        for position, pk in enumerate(ids):
            steps[pk].position = position
        PlannedRun.objects.bulk_update(steps.values(), ["position"])


def sign(item: CheckItem, person: User | None) -> CheckItem:
    """Sign a line off, or take the signature back."""
    item.signed_by = person
    item.signed_at = timezone.now() if person else None
    item.save(update_fields=["signed_by", "signed_at"])
    return item


def sign_again(day: TestDay) -> None:
    """Take every signature back: the list is signed for each run, not once a day."""
    day.checks.update(signed_by=None, signed_at=None)


def is_go(day: TestDay) -> bool:
    """Whether every line that is needed is signed off."""
    return all(item.signed_by_id for item in day.checks.all() if item.needed)


def local(day: TestDay, instant: datetime) -> datetime:
    """An instant in the course's time zone."""
    return instant.astimezone(ZoneInfo(day.plan.course.time_zone))

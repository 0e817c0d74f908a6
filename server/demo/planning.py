"""The invented planning: battery readings, claims, questions, and days finished, under way and not to be met."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np
from django.utils import timezone

from accounts.models import User
from cars.models import BatteryInterval, BatteryReading, Car, ManufacturerClaim, Setup
from coombe_core.physics.battery.charge import ChargeCurve
from coombe_core.physics.battery.heat import HeatKind
from coombe_core.simulating.battery import SimulatedBattery, charge_interval, temperature_interval
from courses.models import Course
from days.models import ScheduledRunState
from days.services import lay_out, settle, sign
from plans.models import Group, Plan
from runs.models import Run, RunKind

BATTERY = SimulatedBattery(time_constant_min=290, heating_k_per_min=0.62, charge_share=0.9, charge_per_run_percent=0.8)
EVENINGS = (datetime(2026, 3, 20, 19, tzinfo=UTC), 5)
CLAIMS = (
    ("Vireo", "0-60 mph", 4.1, "", "delivery brochure, page 3"),
    ("Lumen", "0-100 km/h", 5.6, "first_movement", "maker's data sheet"),
)
QUESTIONS: dict[str, dict[str, Any]] = {
    "finished": {
        "question": "Did update 7.2 change 0-60?",
        "car": "Vireo",
        "groups": (("before", "Delivered, 7.1"), ("after", "Software 7.2")),
        "measure": "0-60 mph",
        "difference_that_matters": 0.1,
        "can_alternate": False,
        "days_per_group": 1,
        "runs_per_group": 6,
    },
    "under way": {
        "question": "19 or 20 inch: which is quicker to 60?",
        "car": "Vireo",
        "groups": (("19-inch", "Software 7.2.1"), ("20-inch", "7.2.1 on 20-inch")),
        "measure": "0-60 mph",
        "difference_that_matters": 0.12,
        "runs_per_group": 4,
        "minutes_per_change": 25,
    },
    "not to be met": {
        "question": "How does charge change the Lumen?",
        "car": "Lumen",
        "kind": "charge sweep",
        "groups": (("power unlock", "Power unlock"),),
        "measure": "0-100 km/h",
        "runs_per_group": 2,
        "low_charge_percent": 10,
        "ladder_low_percent": 50,
    },
}


def load(tester: User, course: Course) -> None:
    """Readings, claims, questions and days."""
    for name, measure, value, clock, source in CLAIMS:
        car = Car.objects.get(name=name)
        ManufacturerClaim.objects.create(car=car, measure=measure, value_s=value, clock=clock, source=source)
    vireo = Car.objects.get(name="Vireo")
    _readings(vireo)
    plans = {state: _plan(dict(facts), tester, course) for state, facts in QUESTIONS.items()}
    _finished(plans["finished"], tester)
    _under_way(plans["under way"], tester)
    now = timezone.now().replace(second=0, microsecond=0)
    early = (now + timedelta(days=1)).replace(hour=6, minute=0)
    cold = {"charge_percent": 41, "battery_temp_c": 4, "outside_temp_c": 3, "charger_kw": 7.4, "drive_min": 45}
    lay_out(plans["not to be met"], {"first_run_at": early, "known_at": early - timedelta(hours=3), **cold})


def _readings(car: Car) -> None:
    """Five evenings of rest, five of heating and five at a charger, as the tester wrote them down."""
    draw = np.random.default_rng(61)
    curve = ChargeCurve.of(car.battery_kwh or 80.0)
    kinds: tuple[tuple[HeatKind, float], ...] = (("resting", 46.0), ("heating", 11.0))
    first, evenings = EVENINGS
    for evening in range(evenings):
        at = first + timedelta(days=4 * evening)
        for hours, (kind, start_c) in enumerate(kinds):
            interval = temperature_interval(
                BATTERY, kind, start_c + draw.normal(0, 2), 7.0 + draw.normal(0, 3), 60, draw
            )
            rows = zip(
                interval.minutes,
                interval.battery_temp_c,
                interval.outside_temp_c,
                [None] * interval.minutes.size,
                strict=True,
            )
            _keep(BatteryInterval(car=car, kind=kind, began_at=at + timedelta(hours=2 * hours)), rows)
        charged = charge_interval(BATTERY, curve, float(draw.integers(30, 50)), 11.0, 150, draw)
        none = [None] * charged.minutes.size
        rows = zip(charged.minutes, none, none, charged.charge_percent, strict=True)
        _keep(BatteryInterval(car=car, kind="charging", began_at=at + timedelta(hours=5), charger_kw=11), rows)


def _keep(interval: BatteryInterval, rows: Any) -> None:
    interval.save()
    BatteryReading.objects.bulk_create(
        BatteryReading(
            interval=interval, minutes=m, battery_temp_c=battery, outside_temp_c=outside, charge_percent=charge
        )
        for m, battery, outside, charge in rows
    )


def _plan(facts: dict[str, Any], tester: User, course: Course) -> Plan:
    groups = facts.pop("groups")
    car = Car.objects.get(name=facts.pop("car"))
    plan = Plan.objects.create(car=car, course=course, created_by=tester, clock="rollout", **facts)
    for position, (name, setup) in enumerate(groups):
        Group.objects.create(plan=plan, name=name, position=position, setup=Setup.objects.get(name=setup))
    return plan


def _finished(plan: Plan, tester: User) -> None:
    """Both days driven, every planned run linked to the run of the log."""
    for group in plan.groups.all():
        runs = list(Run.objects.filter(setup=group.setup, kind=RunKind.STANDING).order_by("start_utc"))[:6]
        start = runs[0].start_utc
        state = {"charge_percent": 58, "battery_temp_c": 14, "outside_temp_c": 12, "drive_charge_percent": 2}
        day = lay_out(plan, {"first_run_at": start, "known_at": start - timedelta(hours=11), **state})
        for step, run in zip(day.scheduled_runs.all(), runs, strict=True):
            settle(step, {"state": ScheduledRunState.DONE, "run": run})
        for item in day.checklist.all():
            sign(item, tester)


def _under_way(plan: Plan, tester: User) -> None:
    """Begun a quarter of an hour ago, two runs driven, the checklist half signed."""
    start = timezone.now().replace(second=0, microsecond=0) - timedelta(minutes=15)
    state = {
        "charge_percent": 64,
        "battery_temp_c": 13,
        "outside_temp_c": 12,
        "drive_charge_percent": 2,
        "drive_min": 12,
    }
    day = lay_out(plan, {"first_run_at": start, "known_at": start - timedelta(hours=10), "prepare_min": 20, **state})
    for step in day.scheduled_runs.all()[:2]:
        settle(step, {"state": ScheduledRunState.DONE})
    for item in day.checklist.all()[:6]:
        sign(item, tester)

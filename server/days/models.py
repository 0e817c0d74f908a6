"""Test days: a date on a course with its runs in order, its timetable's inputs and its checklist."""

from __future__ import annotations

from datetime import date, datetime

from django.conf import settings
from django.db import models

from courses.models import Direction, between
from courses.zones import local
from history.recorded import recorded
from plans.models import Group, Plan
from runs.models import Run


class DayState(models.TextChoices):
    """How far a day has come."""

    PLANNED = "planned"
    UNDER_WAY = "under way"
    FINISHED = "finished"


class ScheduledRunState(models.TextChoices):
    """What became of a planned run."""

    OPEN = "open"
    DONE = "done"
    SKIPPED = "skipped"


class StepKind(models.TextChoices):
    """What is driven."""

    RUN = "run"
    STOP = "stop"
    ROLL_ON = "roll-on"


@recorded(named_by=("plan",))
class TestDay(models.Model):
    """A day of a plan. What is known of car and air now is what its timetable is worked back from."""

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="days")
    part = models.PositiveSmallIntegerField(help_text="which of the plan's days it is, from 0")
    first_run_at = models.DateTimeField()
    known_at = models.DateTimeField(help_text="when charge and battery temperature were as stated")
    charge_percent = models.FloatField(validators=between(0, 100))
    battery_temp_c = models.FloatField(validators=between(-40, 90))
    outside_temp_c = models.FloatField(validators=between(-50, 60))
    charger_kw = models.FloatField(default=11, validators=between(1, 500))
    course_charger_kw = models.FloatField(null=True, blank=True, validators=between(1, 500))
    drive_min = models.FloatField(default=20, validators=between(0, 600))
    drive_charge_percent = models.FloatField(default=3, validators=between(0, 90))
    prepare_min = models.FloatField(default=25, validators=between(0, 240))
    climate_kw = models.FloatField(default=0, validators=between(0, 15))
    state = models.CharField(max_length=10, choices=DayState.choices, default=DayState.PLANNED)
    notes = models.TextField(blank=True, max_length=4000)
    revision = models.PositiveIntegerField(default=1)

    MADE_BY = "plan_made_by"

    class Meta:
        ordering = ["first_run_at", "id"]
        constraints = [models.UniqueConstraint(fields=["plan", "part"], name="day_part_once_a_plan")]

    def __str__(self) -> str:
        return f"{self.plan}, {self.local_day:%Y-%m-%d}"

    @property
    def local_day(self) -> date:
        """Which day it is at its course."""
        return self.local(self.first_run_at).date()

    def local(self, instant: datetime) -> datetime:
        """An instant of the day by the clock at its course."""
        return local(instant, self.plan.course.time_zone)

    @property
    def plan_made_by_id(self) -> int:
        """Who asked the question may also delete its days."""
        return self.plan.created_by_id


@recorded(owner="day", named_by=("group",))
class ScheduledRun(models.Model):
    """One run of a day's order, and what became of it."""

    day = models.ForeignKey(TestDay, on_delete=models.CASCADE, related_name="scheduled_runs")
    position = models.PositiveSmallIntegerField()
    group = models.ForeignKey(Group, on_delete=models.RESTRICT, related_name="scheduled_runs")
    kind = models.CharField(max_length=8, choices=StepKind.choices, default=StepKind.RUN)
    direction = models.CharField(max_length=8, choices=Direction.choices, default=Direction.OUT)
    lane = models.CharField(max_length=8, blank=True)
    charge_percent = models.FloatField(null=True, blank=True, validators=between(0, 100))
    from_speed_mps = models.FloatField(null=True, blank=True, validators=between(0, 100))
    wait_min = models.FloatField(default=0, validators=between(0, 120))
    state = models.CharField(max_length=8, choices=ScheduledRunState.choices, default=ScheduledRunState.OPEN)
    run = models.OneToOneField(Run, on_delete=models.SET_NULL, null=True, blank=True, related_name="scheduled")
    note = models.CharField(max_length=200, blank=True)
    revision = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["position", "id"]

    def __str__(self) -> str:
        return f"{self.kind} {self.position + 1}, {self.group}"


@recorded(owner="day")
class ChecklistItem(models.Model):
    """One line of a day's checklist, and who signed it off."""

    day = models.ForeignKey(TestDay, on_delete=models.CASCADE, related_name="checklist")
    position = models.PositiveSmallIntegerField()
    section = models.CharField(max_length=40)
    text = models.CharField(max_length=200)
    needed = models.BooleanField(default=True)
    signed_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, blank=True, related_name="signed"
    )
    signed_at = models.DateTimeField(null=True, blank=True)
    revision = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["position", "id"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(signed_by__isnull=True, signed_at__isnull=True)
                | models.Q(signed_by__isnull=False, signed_at__isnull=False),
                name="check_signed_by_and_at",
            )
        ]

    def __str__(self) -> str:
        return self.text

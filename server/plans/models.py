"""Plans: the question of a test, its groups, and how it is to be driven."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from cars.models import Car, Setup
from courses.models import Course, between
from history.recorded import recorded
from runs.models import ClockName


class PlanKind(models.TextChoices):
    """What kind of test it is."""

    GROUPS = "groups"
    SWEEP = "charge sweep"
    STOPS = "braking series"
    ROLL_ON = "roll-ons"
    SIDE_BY_SIDE = "side by side"


OF_SEVERAL_CARS = (PlanKind.ROLL_ON, PlanKind.SIDE_BY_SIDE)


class OrderName(models.TextChoices):
    """In which order the groups are driven."""

    ALTERNATING = "alternating"
    ABBA = "ABBA"
    BLOCKED = "blocked"
    RANDOMIZED = "randomized"


@recorded()
class Plan(models.Model):
    """A question and how it is to be answered. Seconds or, for a stop, meters of `difference_that_matters` matter."""

    question = models.CharField(max_length=160)
    kind = models.CharField(max_length=16, choices=PlanKind.choices, default=PlanKind.GROUPS)
    car = models.ForeignKey(Car, on_delete=models.PROTECT, related_name="plans")
    course = models.ForeignKey(Course, on_delete=models.PROTECT, related_name="plans")
    measure = models.CharField(max_length=24, default="0-60 mph")
    clock = models.CharField(max_length=16, choices=ClockName.choices, default=ClockName.ROLLOUT)
    difference_that_matters = models.FloatField(default=0.1, validators=between(0.001, 50))
    power = models.FloatField(default=0.8, validators=between(0.5, 0.99))
    can_alternate = models.BooleanField(default=True, help_text="whether the groups can be swapped within a day")
    order = models.CharField(max_length=12, choices=OrderName.choices, default=OrderName.ABBA)
    both_directions = models.BooleanField(default=True)
    runs_per_group = models.PositiveSmallIntegerField(default=6, validators=between(1, 60))
    days_per_group = models.PositiveSmallIntegerField(default=1, validators=between(1, 12))
    low_charge_percent = models.FloatField(default=85, validators=between(0, 100))
    high_charge_percent = models.FloatField(default=96, validators=between(0, 100))
    low_battery_temp_c = models.FloatField(default=35, validators=between(-20, 80))
    high_battery_temp_c = models.FloatField(default=48, validators=between(-20, 80))
    minutes_per_run = models.FloatField(default=5, validators=between(1, 120))
    minutes_per_change = models.FloatField(default=0, validators=between(0, 600))
    cooling_min = models.FloatField(default=3, validators=between(0, 60), help_text="before each stop of a series")
    ladder_low_percent = models.FloatField(default=10, validators=between(0, 99), help_text="where a sweep ends")
    ladder_step_percent = models.FloatField(default=10, validators=between(1, 50))
    seed = models.PositiveIntegerField(default=1)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="plans")
    created_at = models.DateTimeField(auto_now_add=True)
    revision = models.PositiveIntegerField(default=1)

    MADE_BY = "created_by"

    class Meta:
        ordering = ["-created_at", "-id"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(low_charge_percent__lt=models.F("high_charge_percent"))
                & models.Q(low_battery_temp_c__lt=models.F("high_battery_temp_c")),
                name="plan_window_open",
            )
        ]

    def __str__(self) -> str:
        return self.question

    @property
    def lowest_charge_percent(self) -> float:
        """The charge that its last run may begin at: a sweep goes down to the end of its ladder."""
        return self.ladder_low_percent if self.kind == PlanKind.SWEEP else self.low_charge_percent


@recorded(owner="plan")
class Group(models.Model):
    """One side of the question; its setup may not exist yet, as before an update arrives."""

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="groups")
    name = models.CharField(max_length=40)
    position = models.PositiveSmallIntegerField()
    setup = models.ForeignKey(Setup, on_delete=models.PROTECT, null=True, blank=True, related_name="groups")

    class Meta:
        ordering = ["position"]
        constraints = [
            models.UniqueConstraint(fields=["plan", "name"], name="group_name_once_a_plan"),
            models.UniqueConstraint(fields=["plan", "position"], name="group_place_once_a_plan"),
        ]

    def __str__(self) -> str:
        return self.name

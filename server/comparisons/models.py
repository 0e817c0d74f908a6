"""Saved comparisons: a question, a measure on a clock, and the runs of each group."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from history.recorded import recorded
from runs.models import ClockName, Run


class QuantityName(models.TextChoices):
    """What is compared."""

    TIME = "time"
    DISTANCE = "distance"
    LINE_SPEED = "line_speed"
    TRAP_SPEED = "trap_speed"
    PEAK_POWER = "peak_power"


@recorded(fields=("title", "measure", "clock", "quantity", "adjust", "match", "difference_that_matters"))
class Comparison(models.Model):
    """A comparison worth keeping: a question, how it is asked, and what was found when it was saved.

    Its result is computed from its runs whenever it is read; `kept` says when that has changed.
    """

    title = models.CharField(max_length=160)
    measure = models.CharField(max_length=24)
    clock = models.CharField(max_length=16, choices=ClockName.choices)
    quantity = models.CharField(max_length=12, choices=QuantityName.choices, default=QuantityName.TIME)
    adjust = models.JSONField(default=list, help_text="the factors that are adjusted for, by name")
    match = models.BooleanField(
        default=False, help_text="only runs that have one of the other group at about its charge"
    )
    difference_that_matters = models.FloatField(
        null=True, blank=True, help_text="the smallest difference that matters, SI"
    )
    kept = models.JSONField(null=True, help_text="what was found when it was saved, and by which core")
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="comparisons")
    created_at = models.DateTimeField(auto_now_add=True)

    MADE_BY = "created_by"

    class Meta:
        ordering = ["-created_at", "-id"]

    def __str__(self) -> str:
        return self.title


@recorded(fields=("position", "name", "typed_values", "typed_day", "source", "clock"), owner="comparison")
class Group(models.Model):
    """One side of a comparison, the first being what the others are compared with.

    Values from elsewhere are typed, in SI units on the comparison's clock, with where they come from.
    """

    comparison = models.ForeignKey(Comparison, on_delete=models.CASCADE, related_name="groups")
    position = models.PositiveSmallIntegerField()
    name = models.CharField(max_length=40)
    runs = models.ManyToManyField(Run, through="Member", related_name="groups")
    typed_values = models.JSONField(default=list)
    typed_day = models.DateField(null=True, blank=True, help_text="of all typed values, which then stand in its order")
    source = models.CharField(max_length=200, blank=True)
    clock = models.CharField(max_length=16, choices=ClockName.choices, blank=True, help_text="of typed values")

    class Meta:
        ordering = ["position"]
        constraints = [
            models.UniqueConstraint(fields=["comparison", "position"], name="compared_group_place_once"),
            models.UniqueConstraint(fields=["comparison", "name"], name="compared_group_name_once"),
        ]

    def __str__(self) -> str:
        return self.name


@recorded(owner="group__comparison", named_by=("run",))
class Member(models.Model):
    """A run in a group."""

    group = models.ForeignKey(Group, on_delete=models.CASCADE, related_name="members")
    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="memberships")

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["group", "run"], name="member_once_a_group")]

    def __str__(self) -> str:
        return str(self.run)

"""Saved comparisons: a question, a measure on a clock, and the runs of each arm."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from runs.models import ClockName, Run


class QuantityName(models.TextChoices):
    """What is compared."""

    TIME = "time"
    DISTANCE = "distance"
    LINE_SPEED = "line_speed"
    TRAP_SPEED = "trap_speed"


class ArmName(models.TextChoices):
    """The side of a comparison that a run stands on."""

    BEFORE = "before"
    AFTER = "after"


class Comparison(models.Model):
    """A comparison worth keeping. Its result is computed from its runs whenever it is read."""

    title = models.CharField(max_length=160)
    measure = models.CharField(max_length=24)
    clock = models.CharField(max_length=16, choices=ClockName.choices)
    quantity = models.CharField(max_length=12, choices=QuantityName.choices, default=QuantityName.TIME)
    runs = models.ManyToManyField(Run, through="Member", related_name="comparisons")
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="comparisons")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created_at", "-id"]

    def __str__(self) -> str:
        return self.title


class Member(models.Model):
    """A run in an arm; a run stands in one arm of a comparison at most."""

    comparison = models.ForeignKey(Comparison, on_delete=models.CASCADE, related_name="members")
    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="memberships")
    arm = models.CharField(max_length=8, choices=ArmName.choices)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(fields=["comparison", "run"], name="member_once_a_comparison"),
            models.CheckConstraint(condition=models.Q(arm__in=ArmName.values), name="member_arm_known"),
        ]

"""The runs of logs, with their fixes, flags and attachments."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime
from typing import Any, Self

from django.conf import settings
from django.db import models
from django.utils import timezone

from cars.models import Setup
from courses.zones import local
from history.recorded import recorded
from runs.conditions import CONDITION_FIELDS, RANGES, Conditions
from runs.models.choices import RunKind, Severity, Validity, VoidReason
from runs.models.logs import Log


@recorded(
    fields=(*CONDITION_FIELDS, *("setup", "start_utc", "validity", "decided", "void_reason", "void_note", "estimated"))
)
class Run(Conditions):
    """One run of a log. Measures, splits, flags and curve come out of the core and can be computed again."""

    log = models.ForeignKey(Log, on_delete=models.CASCADE, related_name="runs")
    setup = models.ForeignKey(Setup, on_delete=models.PROTECT, related_name="runs")
    kind = models.CharField(max_length=10, choices=RunKind.choices)
    start_utc = models.DateTimeField(db_index=True)
    start_s = models.FloatField(help_text="seconds after the log's first fix")
    complete = models.BooleanField()
    slope_percent = models.FloatField(null=True)
    slope_u95_percent = models.FloatField(null=True)
    peak_acceleration_g = models.FloatField()
    peak_acceleration_u95_g = models.FloatField()
    mean_acceleration_g = models.FloatField(null=True)
    mean_acceleration_u95_g = models.FloatField(null=True)
    rollout_s = models.FloatField(null=True)
    rollout_u95_s = models.FloatField(null=True)
    heading_deg = models.FloatField(null=True)
    noise_mps = models.FloatField()
    launch_ramps = models.JSONField(null=True, help_text="weight of every torque ramp, and its first movement")
    validity = models.CharField(max_length=6, choices=Validity.choices, default=Validity.VALID)
    decided = models.BooleanField(default=False, help_text="a person kept or voided it")
    void_reason = models.CharField(max_length=20, choices=VoidReason.choices, blank=True)
    void_note = models.CharField(max_length=300, blank=True)
    timed_at = models.DateTimeField(default=timezone.now)
    timed_with = models.CharField(max_length=20, blank=True, help_text="version of the core")
    rests_on = models.CharField(max_length=32, blank=True, help_text="digest of what its results were computed from")
    stale = models.BooleanField(default=False, db_index=True, help_text="what it rests on has changed")
    retiming_trouble = models.CharField(max_length=300, blank=True, help_text="why it could not be timed again")
    estimated = models.JSONField(default=list, help_text="the conditions that were spread over a log, not read")
    revision = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["-start_utc", "-id"]
        indexes = [  # what is asked of all runs stands in them whole: no row is read for it
            models.Index(fields=["setup", "revision", "timed_at"], name="run_version"),
            models.Index(fields=["kind", "charge_before_percent", "battery_temp_before_c"], name="run_gaps"),
        ]
        constraints = [
            models.UniqueConstraint(fields=["log", "start_s"], name="run_once_a_log"),
            models.CheckConstraint(condition=models.Q(validity__in=Validity.values), name="run_validity_known"),
            models.CheckConstraint(
                condition=models.Q(validity=Validity.VALID) | ~models.Q(void_reason=""), name="run_void_has_reason"
            ),
            *(
                models.CheckConstraint(
                    condition=models.Q(**{f"{name}__isnull": True}) | models.Q(**{f"{name}__range": limits}),
                    name=f"run_{name}_in_range",
                )
                for name, limits in RANGES.items()
            ),
        ]

    def __str__(self) -> str:
        return f"{self.kind} {self.start_local:%Y-%m-%d %H:%M:%S}"

    @classmethod
    def from_db(cls, db: str | None, field_names: Collection[str], values: Collection[Any], **options: Any) -> Self:
        """A row that was read, maybe in part: each column is sought among the names, sooner in a set than in a list."""
        return super().from_db(db, frozenset(field_names), values, **options)

    @property
    def start_local(self) -> datetime:
        """When it began, by the clock at its course."""
        return local(self.start_utc, self.course.time_zone if self.course else None)

    @property
    def counts(self) -> bool:
        """Whether the run may be in a comparison."""
        severities = [flag.severity for flag in self.flags.all()]
        return may_count(self.log.date_known, self.complete, self.validity, self.decided, severities)


def may_count(date_known: bool, complete: bool, validity: str, decided: bool, severities: Collection[str]) -> bool:
    """Whether a run may be in a comparison: dated, complete, valid, and no void flag that nobody decided on."""
    return date_known and complete and validity == Validity.VALID and (decided or Severity.VOID not in severities)


class RunTrace(models.Model):
    """A run's fixes, its fitted curve and CAN data, each as one Parquet blob."""

    run = models.OneToOneField(Run, on_delete=models.CASCADE, related_name="trace")
    fixes = models.BinaryField()
    curve = models.BinaryField()
    can_data = models.BinaryField(null=True)


class Flag(models.Model):
    """Something about a run that a person should know."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="flags")
    code = models.CharField(max_length=40)
    severity = models.CharField(max_length=8, choices=Severity.choices)
    message = models.CharField(max_length=300)
    since_s = models.FloatField(null=True, help_text="where it happened, after first movement or brake onset")
    excludes = models.CharField(max_length=12, blank=True, help_text="the measures that it keeps out of comparisons")

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["run", "code"], name="flag_once_a_run")]


@recorded(fields=("name",), owner="run")
class Attachment(models.Model):
    """A photograph or PDF that goes with a run, stripped of where it was made; its bytes are in the store."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="attachments")
    name = models.CharField(max_length=255)
    sha256 = models.CharField(max_length=64)
    size_bytes = models.PositiveIntegerField()
    media_type = models.CharField(max_length=40)
    added_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="attachments")
    added_at = models.DateTimeField(auto_now_add=True)

    MADE_BY = "added_by"
    STORED = {"sha256": "attachment"}

    class Meta:
        ordering = ["added_at", "id"]

    def __str__(self) -> str:
        return self.name

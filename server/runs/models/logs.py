"""Logs that came in, what goes with them, and how their tables are read."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Mapping
from datetime import datetime
from functools import cached_property
from typing import NamedTuple

from django.conf import settings
from django.db import models

from coombe_core.formats.delimited import MEANINGS
from courses.zones import local
from history.recorded import recorded
from runs.models.choices import RunKind


class Driven(NamedTuple):
    """A run of a log: its number, what was driven, and the time zone of its course."""

    run: int
    car_name: str
    setup_name: str
    time_zone: str | None


@recorded(fields=("name", "start_utc", "date_known", "clock_shift_s"))
class Log(models.Model):
    """One log, uploaded or recorded: its bytes are in the store under `sha256`, unchanged.

    While it is being recorded it has no hash, and its bytes are in the recorder's spool.
    """

    sha256 = models.CharField(max_length=64, unique=True, null=True)  # noqa: DJ001 - two logs may lack it
    name = models.CharField(max_length=255)
    size_bytes = models.PositiveBigIntegerField()
    format = models.CharField(max_length=12)
    fixes = models.PositiveIntegerField()
    rejected = models.PositiveIntegerField()
    rate_hz = models.FloatField()
    start_utc = models.DateTimeField()
    date_known = models.BooleanField(default=True)
    clock_shift_s = models.FloatField(default=0.0, help_text="from the clock in its bytes to the time that is known")
    duration_s = models.FloatField()
    core_version = models.CharField(max_length=20)
    imported_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="logs")
    imported_at = models.DateTimeField(auto_now_add=True)

    MADE_BY = "imported_by"
    STORED = {"sha256": "log"}

    class Meta:
        ordering = ["-imported_at", "-id"]

    def __str__(self) -> str:
        return self.name

    @property
    def start_local(self) -> datetime:
        """When it began, by the clock at the course of its runs."""
        return local(self.start_utc, next((run.time_zone for run in self.driven if run.time_zone), None))

    @cached_property
    def driven(self) -> list[Driven]:
        """What was driven in it, in the order of time."""
        Log.know_driven([self])
        return self.driven

    @staticmethod
    def know_driven(logs: Collection[Log]) -> None:
        """Ask once for what was driven in each of many logs."""
        found = Log.driven_in([log.pk for log in logs])
        for log in logs:
            log.driven = found[log.pk]

    @staticmethod
    def driven_in(logs: Collection[int]) -> Mapping[int, list[Driven]]:
        """What was driven in each of many logs, in the order of time."""
        found: Mapping[int, list[Driven]] = defaultdict(list)
        runs = Log._meta.get_field("runs").related_model._base_manager.filter(log__in=logs).order_by("start_s")
        for log, *facts in runs.values_list("log", "pk", "setup__car__name", "setup__name", "course__time_zone"):
            found[log].append(Driven(*facts))
        return found


@recorded(fields=("name",), owner="log")
class CanLog(models.Model):
    """The CAN log that goes with a log, kept like it, and how its clock relates to the receiver's."""

    log = models.OneToOneField(Log, on_delete=models.CASCADE, related_name="can_log")
    sha256 = models.CharField(max_length=64)
    name = models.CharField(max_length=255)
    size_bytes = models.PositiveBigIntegerField()
    format = models.CharField(max_length=12)
    rejected = models.PositiveIntegerField()
    offset_s = models.FloatField(help_text="what to add to its clock for seconds after the log's first fix")
    offset_u95_s = models.FloatField()
    over_reading = models.FloatField(help_text="the dashboard's speed is the true speed times this")
    dbc = models.TextField(blank=True, help_text="what decodes it; Coombe's own where empty")

    STORED = {"sha256": "CAN log"}

    class Meta:
        verbose_name = "CAN log"

    def __str__(self) -> str:
        return self.name


class Rejection(models.Model):
    """A line of a log that was left out."""

    MOST_KEPT = 200

    log = models.ForeignKey(Log, on_delete=models.CASCADE, related_name="rejections")
    line = models.PositiveBigIntegerField()
    reason = models.CharField(max_length=200)

    class Meta:
        ordering = ["line", "id"]


class UntimedRun(models.Model):
    """A run that was found in a log and could not be timed, with the reason: nothing vanishes."""

    log = models.ForeignKey(Log, on_delete=models.CASCADE, related_name="untimed")
    kind = models.CharField(max_length=10, choices=RunKind.choices)
    start_s = models.FloatField(help_text="seconds after the log's first fix")
    reason = models.CharField(max_length=200)

    class Meta:
        ordering = ["start_s"]


@recorded(fields=("named_by",))
class TableLayout(models.Model):
    """What the headings of a table of fixes mean, remembered for every file with the same headings."""

    headings_sha256 = models.CharField(max_length=64, unique=True)
    named_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="table_layouts")
    named_at = models.DateTimeField(auto_now_add=True)
    revision = models.PositiveIntegerField(default=1)

    MADE_BY = "named_by"

    class Meta:
        verbose_name = "columns"
        ordering = ["-named_at", "-id"]

    def __str__(self) -> str:
        return ", ".join(column.heading for column in self.columns.all())


@recorded(owner="layout")
class TableColumn(models.Model):
    """One heading of a layout and the name that Coombe knows for it; empty where it is not used."""

    layout = models.ForeignKey(TableLayout, on_delete=models.CASCADE, related_name="columns")
    heading = models.CharField(max_length=120)
    meaning = models.CharField(max_length=24, choices=[(name, name) for name in MEANINGS], blank=True)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["layout", "heading"], name="heading_once_a_layout")]

    def __str__(self) -> str:
        return self.heading

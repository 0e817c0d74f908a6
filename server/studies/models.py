"""Saved studies: a question over many runs, the rule that picks them, and the runs that a person took out or in."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from cars.models import Car, Setup
from courses.models import Direction, between
from history.recorded import recorded
from runs.models import ClockName, Log, Run


class StudyKind(models.TextChoices):
    """What a study asks."""

    SWEEP = "charge sweep"
    WARM_UP = "warm-up"
    REPEATABILITY = "repeatability"
    BRAKING = "braking series"
    TIRES = "tires"
    ROLL_ONS = "roll-ons"
    MODES = "modes"
    ENERGY = "energy"
    RECEIVERS = "receivers"
    DASHBOARD = "dashboard speed"
    HISTORY = "history"
    LAPS = "laps"


@recorded(
    fields=(
        "title",
        "kind",
        "measure",
        "clock",
        "log",
        "start_latitude_deg",
        "start_longitude_deg",
        "start_heading_deg",
    )
)
class Study(models.Model):
    """A saved question. Its result is computed whenever it is read; `kept` says when that has changed.

    Laps are those of one log; their start line is crossed at a point with a heading.
    """

    title = models.CharField(max_length=160)
    kind = models.CharField(max_length=16, choices=StudyKind.choices)
    measure = models.CharField(max_length=24, blank=True)
    clock = models.CharField(max_length=16, choices=ClockName.choices, blank=True)
    log = models.ForeignKey(Log, on_delete=models.CASCADE, null=True, blank=True, related_name="studies")
    start_latitude_deg = models.FloatField(null=True, blank=True, validators=between(-90, 90))
    start_longitude_deg = models.FloatField(null=True, blank=True, validators=between(-180, 180))
    start_heading_deg = models.FloatField(null=True, blank=True, validators=between(0, 360))
    kept = models.JSONField(null=True, help_text="what was found when it was saved, and by which core")
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="studies")
    created_at = models.DateTimeField(auto_now_add=True)
    revision = models.PositiveIntegerField(default=1)

    MADE_BY = "created_by"

    class Meta:
        verbose_name_plural = "studies"
        ordering = ["-created_at", "-id"]

    def __str__(self) -> str:
        return self.title


@recorded(owner="study")
class Series(models.Model):
    """What a study lays beside others: the runs of a car that fit all that is stated; new ones join by themselves."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="series")
    position = models.PositiveSmallIntegerField()
    name = models.CharField(max_length=60)
    car = models.ForeignKey(Car, on_delete=models.PROTECT, related_name="+")
    setup = models.ForeignKey(Setup, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    from_day = models.DateField(null=True, blank=True)
    to_day = models.DateField(null=True, blank=True)
    drive_mode = models.CharField(max_length=40, blank=True)
    receiver = models.CharField(max_length=80, blank=True)
    direction = models.CharField(max_length=8, choices=Direction.choices, blank=True)

    class Meta:
        verbose_name_plural = "series"
        ordering = ["position"]
        constraints = [
            models.UniqueConstraint(fields=["study", "position"], name="series_place_once_a_study"),
            models.UniqueConstraint(fields=["study", "name"], name="series_name_once_a_study"),
        ]

    def __str__(self) -> str:
        return self.name


@recorded(owner="study", named_by=("run",))
class LeftOut(models.Model):
    """A run that a person left out of a study, and why."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="left_out")
    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="+")
    reason = models.CharField(max_length=200)

    class Meta:
        verbose_name = "run left out"
        verbose_name_plural = "runs left out"
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["study", "run"], name="left_out_once_a_study")]

    def __str__(self) -> str:
        return f"{self.run}: {self.reason}"


class Better(models.TextChoices):
    """Which values are the better ones."""

    MORE = "more"
    LESS = "less"
    NEITHER = "neither"


@recorded()
class OwnMeasure(models.Model):
    """Something that Coombe does not measure, as cabin noise or range: a name, its unit, and what is better."""

    name = models.CharField(max_length=60, unique=True)
    unit = models.CharField(max_length=16, blank=True)
    better = models.CharField(max_length=8, choices=Better.choices, default=Better.NEITHER)
    revision = models.PositiveIntegerField(default=1)

    class Meta:
        verbose_name = "own measure"
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


@recorded(named_by=("measure", "setup"))
class OwnValue(models.Model):
    """A value of an own measure, of a setup or of one of its runs."""

    measure = models.ForeignKey(OwnMeasure, on_delete=models.CASCADE, related_name="values")
    setup = models.ForeignKey(Setup, on_delete=models.PROTECT, related_name="own_values")
    run = models.ForeignKey(Run, on_delete=models.CASCADE, null=True, blank=True, related_name="own_values")
    value = models.FloatField()
    day = models.DateField()
    outside_temp_c = models.FloatField(null=True, blank=True, validators=between(-50, 60))
    source = models.CharField(max_length=200, blank=True)
    revision = models.PositiveIntegerField(default=1)

    class Meta:
        verbose_name = "own value"
        ordering = ["-day", "-id"]

    def __str__(self) -> str:
        return f"{self.measure} of {self.setup}: {self.value:g}"


@recorded(fields=("name", "columns", "sort", "filters", "pinned"))
class TableView(models.Model):
    """A way to look at the table of all cars: its columns, order and filters, under a name."""

    name = models.CharField(max_length=60, unique=True)
    columns = models.JSONField(default=list)
    pinned = models.PositiveSmallIntegerField(default=1, help_text="how many columns stay in sight")
    sort = models.CharField(max_length=60, blank=True)
    filters = models.JSONField(default=dict)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="table_views")
    revision = models.PositiveIntegerField(default=1)

    MADE_BY = "created_by"

    class Meta:
        verbose_name = "table view"
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name

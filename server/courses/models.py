"""Courses: a strip in one direction, with its slope."""

from __future__ import annotations

from zoneinfo import available_timezones

from django.core.exceptions import ValidationError
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from history.recorded import recorded


class Direction(models.TextChoices):
    """The way along a strip."""

    OUT = "out"
    BACK = "back"


class Surface(models.TextChoices):
    """What the strip is made of, and its condition."""

    DRY_ASPHALT = "dry asphalt"
    DAMP_ASPHALT = "damp asphalt"
    WET_ASPHALT = "wet asphalt"
    CONCRETE = "concrete"
    PREPARED = "prepared strip"


def between(low: float, high: float) -> list[MinValueValidator | MaxValueValidator]:
    """Validators for a closed range, with the numbers in their sentences."""
    return [MinValueValidator(low), MaxValueValidator(high)]


def known_zone(name: str) -> None:
    """A name of the time zone database, such as Europe/Dublin."""
    if name not in available_timezones():
        raise ValidationError(f"{name} is not a time zone that is known, such as Europe/Dublin or UTC.")


@recorded()
class Course(models.Model):
    """One direction of a strip. Slope is positive uphill, surveyed; empty where it never was."""

    name = models.CharField(max_length=80)
    direction = models.CharField(max_length=8, choices=Direction.choices)
    heading_deg = models.FloatField(validators=between(0, 360))
    length_m = models.FloatField(validators=between(50, 10_000))
    runout_m = models.FloatField(validators=between(0, 10_000))
    slope_percent = models.FloatField(null=True, blank=True, validators=between(-15, 15))
    slope_u95_percent = models.FloatField(null=True, blank=True, validators=between(0, 5))
    surface = models.CharField(max_length=20, choices=Surface.choices, default=Surface.DRY_ASPHALT)
    elevation_m = models.FloatField(null=True, blank=True, validators=between(-500, 6000))
    time_zone = models.CharField(max_length=40, default="UTC", validators=[known_zone])
    access = models.CharField(max_length=400, blank=True, help_text="gates, keys, who to ring")
    permission = models.CharField(max_length=200, blank=True, help_text="who gave leave to use it, and when")
    revision = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["name", "direction"]
        constraints = [
            models.UniqueConstraint(fields=["name", "direction"], name="course_name_and_direction_once"),
            models.CheckConstraint(
                condition=models.Q(slope_percent__isnull=True) | models.Q(slope_percent__range=(-15, 15)),
                name="course_slope_in_range",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.name}, {self.direction}"

    @property
    def available_m(self) -> float:
        """Length to pull, react and stop on."""
        return self.length_m + self.runout_m


@recorded(owner="course")
class Station(models.Model):
    """An elevation along a course, in meters from where cars stage: together the surveyed slope profile."""

    course = models.ForeignKey(Course, on_delete=models.CASCADE, related_name="stations")
    distance_m = models.FloatField(validators=between(-100, 20_000))
    elevation_m = models.FloatField(validators=between(-500, 9000))

    class Meta:
        ordering = ["distance_m"]
        constraints = [models.UniqueConstraint(fields=["course", "distance_m"], name="station_once_per_distance")]

    def __str__(self) -> str:
        return f"elevation at {self.distance_m:g} m"

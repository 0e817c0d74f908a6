"""The conditions of a run: the state of car, course and air, as columns with units and ranges."""

from __future__ import annotations

from django.db import models

from courses.models import Course, Direction, Surface, between

# Ranges of the numeric conditions: checked in forms, in the API and by the database.
RANGES: dict[str, tuple[float, float]] = {
    "charge_before_percent": (0, 100),
    "charge_after_percent": (0, 100),
    "battery_temp_before_c": (-40, 90),
    "battery_temp_after_c": (-40, 90),
    "occupants": (1, 9),
    "load_kg": (0, 1500),
    "outside_temp_c": (-50, 60),
    "pressure_hpa": (500, 1100),
    "humidity_percent": (0, 100),
    "wind_mps": (0, 60),
    "wind_from_deg": (0, 360),
    "surface_temp_c": (-50, 90),
    "brake_temp_c": (-50, 1000),
    "odometer_km": (0, 2_000_000),
}


def measured(name: str) -> models.FloatField[float | None, float | None]:
    """A condition's column: empty until recorded, within its range."""
    return models.FloatField(null=True, blank=True, validators=between(*RANGES[name]))


class Conditions(models.Model):
    """The state of car, course and air at a run. Empty means not recorded."""

    charge_before_percent = measured("charge_before_percent")
    charge_after_percent = measured("charge_after_percent")
    battery_temp_before_c = measured("battery_temp_before_c")
    battery_temp_after_c = measured("battery_temp_after_c")
    drive_mode = models.CharField(max_length=40, blank=True)
    launch_aid = models.BooleanField(null=True, blank=True)
    climate_on = models.BooleanField(null=True, blank=True)
    occupants = models.PositiveSmallIntegerField(null=True, blank=True, validators=between(*RANGES["occupants"]))
    load_kg = measured("load_kg")
    course = models.ForeignKey(Course, on_delete=models.PROTECT, null=True, blank=True, related_name="runs")
    direction = models.CharField(max_length=8, choices=Direction.choices, blank=True)
    driver = models.CharField(max_length=80, blank=True)
    receiver = models.CharField(max_length=80, blank=True)
    receiver_mount = models.CharField(max_length=80, blank=True)
    outside_temp_c = measured("outside_temp_c")
    pressure_hpa = measured("pressure_hpa")
    humidity_percent = measured("humidity_percent")
    wind_mps = measured("wind_mps")
    wind_from_deg = measured("wind_from_deg")
    surface = models.CharField(max_length=20, choices=Surface.choices, blank=True)
    surface_temp_c = measured("surface_temp_c")
    brake_temp_c = measured("brake_temp_c")
    odometer_km = measured("odometer_km")
    notes = models.TextField(blank=True, max_length=4000)

    class Meta:
        abstract = True


CONDITION_FIELDS = tuple(field.name for field in Conditions._meta.local_fields)

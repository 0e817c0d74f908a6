"""Cars, and their set-ups: frozen states of what is fitted and installed."""

from __future__ import annotations

from django.db import models

from courses.models import between


class DriveLayout(models.TextChoices):
    """Which wheels are driven."""

    FRONT = "front"
    REAR = "rear"
    ALL = "all"


class TireSeason(models.TextChoices):
    """What the tire is made for."""

    SUMMER = "summer"
    ALL_SEASON = "all-season"
    WINTER = "winter"
    TRACK = "track"


class ChangeKind(models.TextChoices):
    """What separates a set-up from the one before it."""

    AS_DELIVERED = "as delivered"
    SOFTWARE = "software update"
    UNLOCK = "paid unlock"
    WHEELS = "wheels"
    TIRES = "tires"
    BRAKES = "brakes"
    OTHER = "other"


class Car(models.Model):
    """One car, as it stands in the garage."""

    name = models.CharField(max_length=80, unique=True)
    maker = models.CharField(max_length=80, blank=True)
    model_year = models.PositiveSmallIntegerField(null=True, blank=True, validators=between(1990, 2100))
    drive_layout = models.CharField(max_length=8, choices=DriveLayout.choices, default=DriveLayout.ALL)
    test_mass_kg = models.FloatField(null=True, blank=True, validators=between(300, 6000))
    power_kw = models.FloatField(null=True, blank=True, validators=between(5, 2500))
    pack_kwh = models.FloatField(null=True, blank=True, validators=between(5, 400))
    cda_m2 = models.FloatField(null=True, blank=True, validators=between(0.2, 2))
    notes = models.TextField(blank=True, max_length=4000)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(test_mass_kg__isnull=True) | models.Q(test_mass_kg__range=(300, 6000)),
                name="car_mass_in_range",
            )
        ]

    def __str__(self) -> str:
        return self.name


class SetUp(models.Model):
    """One frozen state of a car. `change` says what separates it from the set-up before it."""

    car = models.ForeignKey(Car, on_delete=models.PROTECT, related_name="set_ups")
    name = models.CharField(max_length=80)
    since = models.DateField()
    change = models.CharField(max_length=20, choices=ChangeKind.choices, default=ChangeKind.AS_DELIVERED)
    change_note = models.CharField(max_length=300, blank=True)
    confirmed_by = models.CharField(max_length=200, blank=True, help_text="how it was seen that the change is active")
    software_version = models.CharField(max_length=40, blank=True)
    wheel_diameter_in = models.FloatField(null=True, blank=True, validators=between(10, 26))
    wheel_mass_kg = models.FloatField(null=True, blank=True, validators=between(5, 60), help_text="with tire, a corner")
    tire_season = models.CharField(max_length=12, choices=TireSeason.choices, default=TireSeason.SUMMER)
    tire_size = models.CharField(max_length=40, blank=True)
    tire_pressure_kpa = models.FloatField(null=True, blank=True, validators=between(80, 500))
    tire_tread_mm = models.FloatField(null=True, blank=True, validators=between(0, 15))
    modifications = models.TextField(blank=True, max_length=2000)

    class Meta:
        ordering = ["car", "since", "id"]
        constraints = [
            models.UniqueConstraint(fields=["car", "name"], name="set_up_name_once_a_car"),
            models.CheckConstraint(
                condition=models.Q(tire_pressure_kpa__isnull=True) | models.Q(tire_pressure_kpa__range=(80, 500)),
                name="set_up_tire_pressure_in_range",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.car.name}: {self.name}"

"""Cars, and their setups: frozen states of what is fitted and installed."""

from __future__ import annotations

from django.core.validators import MinValueValidator, RegexValidator
from django.db import models

from courses.models import between
from history.recorded import recorded


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
    """What separates a setup from the one before it."""

    AS_DELIVERED = "as delivered"
    SOFTWARE = "software update"
    UNLOCK = "paid unlock"
    WHEELS = "wheels"
    TIRES = "tires"
    BRAKES = "brakes"
    AERO = "aero"
    REPAIR = "repair"
    OTHER = "other"


class Body(models.TextChoices):
    """The shape of the car."""

    SEDAN = "sedan"
    HATCHBACK = "hatchback"
    WAGON = "wagon"
    SUV = "SUV"
    COUPE = "coupe"
    ROADSTER = "roadster"
    PICKUP = "pickup"


class Chemistry(models.TextChoices):
    """The family of the battery's cells."""

    NICKEL = "nickel"
    IRON_PHOSPHATE = "iron phosphate"
    OTHER = "other"


class MassSource(models.TextChoices):
    """How the test mass was found."""

    WEIGHED = "weighed"
    AXLES = "weighed per axle"
    STATED = "stated by the maker"
    ASSUMED = "assumed"


class IntervalKind(models.TextChoices):
    """What the car did while its battery was read."""

    RESTING = "resting"
    HEATING = "heating"
    CHARGING = "charging"


@recorded()
class Car(models.Model):
    """One car, as it stands in the garage."""

    name = models.CharField(max_length=80, unique=True)
    maker = models.CharField(max_length=80, blank=True)
    model_year = models.PositiveSmallIntegerField(null=True, blank=True, validators=between(1990, 2100))
    drive_layout = models.CharField(max_length=8, choices=DriveLayout.choices, default=DriveLayout.ALL)
    body = models.CharField(max_length=12, choices=Body.choices, blank=True)
    test_mass_kg = models.FloatField(null=True, blank=True, validators=between(300, 6000))
    mass_source = models.CharField(max_length=20, choices=MassSource.choices, default=MassSource.ASSUMED)
    front_axle_kg = models.FloatField(null=True, blank=True, validators=between(100, 4000))
    rear_axle_kg = models.FloatField(null=True, blank=True, validators=between(100, 4000))
    power_kw = models.FloatField(null=True, blank=True, validators=between(5, 2500))
    torque_nm = models.FloatField(null=True, blank=True, validators=between(20, 20_000))
    battery_kwh = models.FloatField(null=True, blank=True, validators=between(5, 400))
    chemistry = models.CharField(max_length=16, choices=Chemistry.choices, blank=True)
    cda_m2 = models.FloatField(null=True, blank=True, validators=between(0.2, 2))
    cda_source = models.CharField(max_length=120, blank=True, help_text="empty: assumed")
    rolling_coefficient = models.FloatField(null=True, blank=True, validators=between(0.003, 0.05))
    rolling_source = models.CharField(max_length=120, blank=True, help_text="empty: assumed")
    heater_kw = models.FloatField(
        null=True, blank=True, validators=between(0.5, 30), help_text="drawn to heat the battery"
    )
    hottest_battery_c = models.FloatField(
        null=True, blank=True, validators=between(20, 80), help_text="to what the car conditions its battery"
    )
    notes = models.TextField(blank=True, max_length=4000)
    revision = models.PositiveIntegerField(default=1)

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


@recorded(owner="car")
class ManufacturerClaim(models.Model):
    """What the maker says the car does: the measure, the value, on which clock, and where that was said."""

    car = models.ForeignKey(Car, on_delete=models.CASCADE, related_name="claims")
    measure = models.CharField(max_length=24)
    value_s = models.FloatField(validators=between(0.5, 60))
    clock = models.CharField(
        max_length=16, choices=[("first_movement", "first movement"), ("rollout", "rollout")], blank=True
    )
    source = models.CharField(max_length=200)
    revision = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["car", "measure", "source"], name="claim_once_a_source")]

    def __str__(self) -> str:
        return f"{self.measure}: {self.value_s:g} s"


@recorded(owner="car")
class ChargePoint(models.Model):
    """A point of the car's charge curve: what the battery takes (kW) at a charge (%)."""

    car = models.ForeignKey(Car, on_delete=models.CASCADE, related_name="charge_points")
    charge_percent = models.FloatField(validators=between(0, 100))
    power_kw = models.FloatField(validators=between(0, 500))

    class Meta:
        ordering = ["charge_percent"]
        constraints = [models.UniqueConstraint(fields=["car", "charge_percent"], name="charge_point_once")]

    def __str__(self) -> str:
        return f"{self.power_kw:g} kW at {self.charge_percent:g} %"


@recorded(named_by=("car",))
class Setup(models.Model):
    """One frozen state of a car. `change` says what separates it from the setup before it."""

    car = models.ForeignKey(Car, on_delete=models.PROTECT, related_name="setups")
    name = models.CharField(max_length=80)
    since = models.DateField()
    change = models.CharField(max_length=20, choices=ChangeKind.choices, default=ChangeKind.AS_DELIVERED)
    change_note = models.CharField(max_length=300, blank=True)
    can_undo = models.BooleanField(default=True, help_text="whether the car can go back to the setup before it")
    price = models.DecimalField(
        max_digits=9, decimal_places=2, null=True, blank=True, validators=[MinValueValidator(0)]
    )
    currency = models.CharField(
        max_length=3, blank=True, validators=[RegexValidator("^[A-Z]{3}$", "Three letters, such as EUR.")]
    )
    claimed_measure = models.CharField(max_length=24, blank=True, help_text="what was claimed to be quicker")
    claimed_gain_s = models.FloatField(
        null=True, blank=True, validators=between(0.001, 30), help_text="by how many seconds"
    )
    confirmed_by = models.CharField(max_length=200, blank=True, help_text="how it was seen that the change is active")
    software_version = models.CharField(max_length=40, blank=True)
    wheel_diameter_in = models.FloatField(null=True, blank=True, validators=between(10, 26))
    wheel_mass_kg = models.FloatField(null=True, blank=True, validators=between(5, 60), help_text="with tire, a corner")
    tire_season = models.CharField(max_length=12, choices=TireSeason.choices, default=TireSeason.SUMMER)
    tire_size = models.CharField(max_length=40, blank=True)
    tire_pressure_kpa = models.FloatField(null=True, blank=True, validators=between(80, 500))
    tire_pressure_hot_kpa = models.FloatField(null=True, blank=True, validators=between(80, 600))
    tire_distance_km = models.FloatField(null=True, blank=True, validators=between(0, 100_000))
    tire_tread_mm = models.FloatField(null=True, blank=True, validators=between(0, 15))
    test_mass_kg = models.FloatField(
        null=True, blank=True, validators=between(300, 6000), help_text="where a modification changed the car's"
    )
    cda_m2 = models.FloatField(
        null=True, blank=True, validators=between(0.2, 2), help_text="where a modification changed the car's"
    )
    modifications = models.TextField(blank=True, max_length=2000)
    receiver_used = models.CharField(
        max_length=60, blank=True, help_text="whose runs count where several receivers saw a pass; empty: the quicker"
    )
    revision = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["car", "since", "id"]
        constraints = [
            models.UniqueConstraint(fields=["car", "name"], name="setup_name_once_a_car"),
            models.CheckConstraint(
                condition=models.Q(tire_pressure_kpa__isnull=True) | models.Q(tire_pressure_kpa__range=(80, 500)),
                name="setup_tire_pressure_in_range",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.car.name}: {self.name}"


@recorded(owner="car")
class BatteryInterval(models.Model):
    """A time over which the battery was read: at rest, heated, or at a charger of known power."""

    car = models.ForeignKey(Car, on_delete=models.CASCADE, related_name="battery_intervals")
    kind = models.CharField(max_length=10, choices=IntervalKind.choices)
    began_at = models.DateTimeField()
    charger_kw = models.FloatField(null=True, blank=True, validators=between(1, 500))
    note = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["-began_at", "-id"]
        constraints = [models.UniqueConstraint(fields=["car", "kind", "began_at"], name="battery_interval_once")]

    def __str__(self) -> str:
        return f"{self.kind} {self.began_at:%Y-%m-%d %H:%M}"


@recorded(owner="interval")
class BatteryReading(models.Model):
    """One reading of an interval, in minutes since it began."""

    interval = models.ForeignKey(BatteryInterval, on_delete=models.CASCADE, related_name="readings")
    minutes = models.FloatField(validators=between(0, 2880))
    battery_temp_c = models.FloatField(null=True, validators=between(-40, 90))
    outside_temp_c = models.FloatField(null=True, validators=between(-50, 60))
    charge_percent = models.FloatField(null=True, validators=between(0, 100))

    class Meta:
        ordering = ["minutes"]
        constraints = [models.UniqueConstraint(fields=["interval", "minutes"], name="battery_reading_once")]

    def __str__(self) -> str:
        return f"reading at {self.minutes:g} min"

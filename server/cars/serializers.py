"""Cars, setups, claims and battery readings as the API shows and takes them."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from rest_framework import serializers

from cars.correcting import refuse_unexplained
from cars.models import BatteryInterval, BatteryReading, Car, ChargePoint, IntervalKind, ManufacturerClaim, Setup
from cars.readings import read_table
from config.fields import MeasureField, RowSerializer
from config.nested import WholeSerializer
from config.revisions import RevisedSerializer


class SetupSerializer(RevisedSerializer[Setup]):
    """A setup, with the number of runs made on it."""

    run_count = serializers.IntegerField(read_only=True, default=0)
    correction = serializers.CharField(
        max_length=200,
        write_only=True,
        required=False,
        allow_blank=True,
        help_text="why what was driven had been typed wrong; needed once the setup has runs",
    )

    class Meta:
        model = Setup
        fields = "__all__"

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """What was driven changes for a reason only, once there are runs. A price has a currency."""
        correction = attrs.pop("correction", "")
        if self.instance is not None:
            refuse_unexplained(self.instance, attrs, correction)
        if attrs.get("price") is not None and not attrs.get("currency", getattr(self.instance, "currency", "")):
            raise serializers.ValidationError({"currency": ["In which currency? Three letters, such as EUR."]})
        return attrs


class ManufacturerClaimSerializer(RevisedSerializer[ManufacturerClaim]):
    """What the maker says."""

    measure = MeasureField()

    class Meta:
        model = ManufacturerClaim
        fields = "__all__"


class ChargePointSerializer(WholeSerializer[ChargePoint]):
    """A point of the charge curve."""

    class Meta:
        model = ChargePoint
        fields = ("charge_percent", "power_kw")


class CarNameSerializer(RowSerializer):
    """A car by name."""

    id = serializers.IntegerField()
    name = serializers.CharField()


class CarSerializer(RevisedSerializer[Car]):
    """A car with its setups, the maker's claims and, where it is stated, its charge curve."""

    setups = SetupSerializer(many=True, read_only=True)
    claims = ManufacturerClaimSerializer(many=True, read_only=True)
    charge_points = ChargePointSerializer(many=True, required=False)

    class Meta:
        model = Car
        fields = "__all__"

    def validate_charge_points(self, points: list[dict[str, float]]) -> list[dict[str, float]]:
        """Two or more, each charge once; or none."""
        charges = {point["charge_percent"] for point in points}
        if len(charges) < len(points) or len(points) == 1:
            raise serializers.ValidationError("A charge curve has two points or more, each charge once.")
        return points

    def create(self, validated_data: dict[str, Any]) -> Car:
        """The car with its charge curve."""
        points = validated_data.pop("charge_points", [])
        with transaction.atomic():
            return self._with_curve(super().create(validated_data), points)

    def update(self, instance: Car, validated_data: dict[str, Any]) -> Car:
        """The car; a charge curve that is sent replaces the one before it."""
        points = validated_data.pop("charge_points", None)
        with transaction.atomic():
            car = super().update(instance, validated_data)
            return car if points is None else self._with_curve(car, points)

    def _with_curve(self, car: Car, points: list[dict[str, float]]) -> Car:
        car.charge_points.all().delete()
        ChargePoint.objects.bulk_create(ChargePoint(car=car, **point) for point in points)
        return car

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """Both axles together are the test mass, within what scales differ by."""
        front, rear, whole = (self._stated(attrs, name) for name in ("front_axle_kg", "rear_axle_kg", "test_mass_kg"))
        if front and rear and whole and abs(front + rear - whole) > 0.02 * whole:
            message = f"The axles add up to {front + rear:.0f} kg, the test mass is {whole:.0f} kg."
            raise serializers.ValidationError({"rear_axle_kg": [message]})
        return attrs

    def _stated(self, attrs: dict[str, Any], name: str) -> float | None:
        stated: float | None = attrs.get(name, getattr(self.instance, name, None))
        return stated


class DifferenceAskSerializer(serializers.Serializer[Any]):
    """Which two setups of a car."""

    before = serializers.IntegerField()
    after = serializers.IntegerField()


class DifferingSerializer(serializers.Serializer[Any]):
    """A field in which two setups differ, as it stands in each."""

    name = serializers.CharField()
    before = serializers.CharField(allow_null=True)
    after = serializers.CharField(allow_null=True)


class SetupDifferenceSerializer(serializers.Serializer[Any]):
    """Two setups field by field, and what a change of wheels amounts to."""

    differing = DifferingSerializer(many=True)
    wheels = serializers.CharField(allow_blank=True)


class BatteryIntervalSerializer(serializers.ModelSerializer[BatteryInterval]):
    """An interval with its readings, typed or pasted as rows of minutes, battery, outside (°C) and charge (%)."""

    table = serializers.CharField(write_only=True, max_length=100_000, required=False)
    reading_count = serializers.IntegerField(read_only=True, source="readings.count")

    class Meta:
        model = BatteryInterval
        fields = ("id", "car", "kind", "began_at", "charger_kw", "note", "table", "reading_count")

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """The rows as readings; a charging without the charger's power shows nothing."""
        kind = str(attrs.get("kind", getattr(self.instance, "kind", "")))
        if "table" in attrs:
            attrs["readings"] = read_table(attrs.pop("table"), kind)
        elif self.instance is None:
            raise serializers.ValidationError({"table": ["Paste three rows of readings or more."]})
        if kind == IntervalKind.CHARGING and not attrs.get("charger_kw", getattr(self.instance, "charger_kw", None)):
            raise serializers.ValidationError({"charger_kw": ["What the charger gave, in kW."]})
        return attrs

    def create(self, validated_data: dict[str, Any]) -> BatteryInterval:
        """The interval with all of its readings, or nothing."""
        readings = validated_data.pop("readings")
        with transaction.atomic():
            interval = BatteryInterval.objects.create(**validated_data)
            BatteryReading.objects.bulk_create(BatteryReading(interval=interval, **row) for row in readings)
        return interval

    def update(self, instance: BatteryInterval, validated_data: dict[str, Any]) -> BatteryInterval:
        """The interval; readings that are sent replace those before them."""
        readings = validated_data.pop("readings", None)
        with transaction.atomic():
            interval = super().update(instance, validated_data)
            if readings is not None:
                interval.readings.all().delete()
                BatteryReading.objects.bulk_create(BatteryReading(interval=interval, **row) for row in readings)
        return interval

"""Cars, set-ups, claims and pack readings as the API shows and takes them."""

from __future__ import annotations

from typing import Any

from django.core.exceptions import ValidationError
from django.db import transaction
from rest_framework import serializers

from cars.models import Car, ChargePoint, Claim, PackReading, PackSpell, SetUp, SpellKind
from config.nested import WholeSerializer
from config.revisions import RevisedSerializer
from coombe_core.timing.measures import parse_measure

MENDABLE = {
    *("name", "change_note", "confirmed_by", "price", "currency", "can_undo"),
    *("promised_measure", "promised_gain_s", "revision"),
}
MOST_READINGS = 2000
READING_COLUMNS = ("minutes", "pack_temp_c", "outside_temp_c", "charge_percent")


def measure_name(name: str) -> str:
    """The exact name of a measure; any other text is told at its field."""
    try:
        return parse_measure(name).name
    except ValueError as error:
        raise serializers.ValidationError(str(error)) from None


class SetUpSerializer(RevisedSerializer[SetUp]):
    """A set-up, with the number of runs made on it."""

    run_count = serializers.IntegerField(read_only=True, default=0)

    class Meta:
        model = SetUp
        fields = "__all__"

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """A set-up with runs is frozen: only what tells of the change may still be mended. A price has a currency."""
        frozen = self.instance is not None and self.instance.runs.exists()
        touched = {name for name, value in attrs.items() if self.instance and getattr(self.instance, name) != value}
        if frozen and touched - MENDABLE:
            names = ", ".join(sorted(touched - MENDABLE))
            raise serializers.ValidationError(f"Runs were made on this set-up, so {names} can't change. Add a new one.")
        if attrs.get("price") is not None and not attrs.get("currency", getattr(self.instance, "currency", "")):
            raise serializers.ValidationError({"currency": ["In which currency? Three letters, such as EUR."]})
        return attrs

    def validate_promised_measure(self, name: str) -> str:
        """Its exact name, where something was promised."""
        return name and measure_name(name)


class ClaimSerializer(RevisedSerializer[Claim]):
    """What the maker says; the measure by its exact name."""

    class Meta:
        model = Claim
        fields = "__all__"

    def validate_measure(self, name: str) -> str:
        """Its exact name, such as 0-60 mph."""
        return measure_name(name)


class ChargePointSerializer(WholeSerializer[ChargePoint]):
    """A point of the charge curve."""

    class Meta:
        model = ChargePoint
        fields = ("charge_percent", "power_kw")


class CarSerializer(RevisedSerializer[Car]):
    """A car with its set-ups, the maker's claims and, where it is stated, its charge curve."""

    set_ups = SetUpSerializer(many=True, read_only=True)
    claims = ClaimSerializer(many=True, read_only=True)
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
            told = f"The axles add up to {front + rear:.0f} kg, the test mass is {whole:.0f} kg."
            raise serializers.ValidationError({"rear_axle_kg": [told]})
        return attrs

    def _stated(self, attrs: dict[str, Any], name: str) -> float | None:
        stated: float | None = attrs.get(name, getattr(self.instance, name, None))
        return stated


class DifferenceAskSerializer(serializers.Serializer[Any]):
    """Which two set-ups of a car."""

    before = serializers.IntegerField()
    after = serializers.IntegerField()


class DifferingSerializer(serializers.Serializer[Any]):
    """A field in which two set-ups differ, as it stands in each."""

    name = serializers.CharField()
    before = serializers.CharField(allow_null=True)
    after = serializers.CharField(allow_null=True)


class SetUpDifferenceSerializer(serializers.Serializer[Any]):
    """Two set-ups field by field, and what a change of wheels amounts to."""

    differing = DifferingSerializer(many=True)
    wheels = serializers.CharField(allow_blank=True)


class PackSpellSerializer(serializers.ModelSerializer[PackSpell]):
    """A spell with its readings, typed or pasted as rows of minutes, pack, outside (°C) and charge (%)."""

    table = serializers.CharField(write_only=True, max_length=100_000)
    reading_count = serializers.IntegerField(read_only=True, source="readings.count")

    class Meta:
        model = PackSpell
        fields = ("id", "car", "kind", "began_at", "charger_kw", "note", "table", "reading_count")

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """The rows as readings; a charging without the charger's power tells nothing."""
        attrs["readings"] = read_table(attrs.pop("table"), attrs["kind"])
        if attrs["kind"] == SpellKind.CHARGING and not attrs.get("charger_kw"):
            raise serializers.ValidationError({"charger_kw": ["What the charger gave, in kW."]})
        return attrs

    def create(self, validated_data: dict[str, Any]) -> PackSpell:
        """The spell with all of its readings, or nothing."""
        readings = validated_data.pop("readings")
        with transaction.atomic():
            spell = PackSpell.objects.create(**validated_data)
            PackReading.objects.bulk_create(PackReading(spell=spell, **row) for row in readings)
        return spell


def read_table(text: str, kind: str) -> list[dict[str, float | None]]:
    """Rows of minutes, pack and outside temperature (C) and charge (%), apart by tab, semicolon or comma.

    Raises ValidationError with the line at fault; a heading is passed over.
    """
    rows: list[dict[str, float | None]] = []
    for line, cells in enumerate(map(_cells, text.strip().splitlines()), start=1):
        if line == 1 and cells and not _is_number(cells[0]):
            continue
        rows.append(_reading(line, cells, rows[-1]["minutes"] if rows else None))
    needed = "charge_percent" if kind == SpellKind.CHARGING else "pack_temp_c"
    if sum(row[needed] is not None for row in rows) < 3:
        raise serializers.ValidationError({"table": [f"At least three rows with {needed} are needed."]})
    if len(rows) > MOST_READINGS:
        raise serializers.ValidationError({"table": [f"{len(rows)} rows; at most {MOST_READINGS} are taken."]})
    return rows


def _cells(line: str) -> list[str]:
    mark = next((mark for mark in ("\t", ";") if mark in line), ",")
    return [cell.strip() for cell in line.split(mark)]


def _is_number(cell: str) -> bool:
    try:
        float(cell)
    except ValueError:
        return False
    return True


def _reading(line: int, cells: list[str], previous: float | None) -> dict[str, float | None]:
    if len(cells) > len(READING_COLUMNS) or any(cell and not _is_number(cell) for cell in cells):
        raise serializers.ValidationError({"table": [f"Line {line}: four numbers at most, empty where not read."]})
    row = dict.fromkeys(READING_COLUMNS, None) | {
        name: float(cell) for name, cell in zip(READING_COLUMNS, cells, strict=False) if cell
    }
    for name, value in row.items():
        field: Any = PackReading._meta.get_field(name)
        try:
            if value is not None:
                field.run_validators(value)
        except ValidationError as error:
            told = f"Line {line}, {name}: {' '.join(error.messages)}"
            raise serializers.ValidationError({"table": [told]}) from None
    if row["minutes"] is None or (previous is not None and row["minutes"] <= previous):
        raise serializers.ValidationError({"table": [f"Line {line}: minutes must rise from row to row."]})
    return row

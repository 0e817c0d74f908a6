"""Logs and runs as the API shows and takes them."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

from django.utils import timezone
from rest_framework import serializers

from cars.models import SetUp
from coombe_core.formats.delimited import MEANINGS
from coombe_core.units import celsius
from runs.conditions import CONDITION_FIELDS
from runs.models import (
    Attachment,
    BusRecord,
    Edit,
    Flag,
    Log,
    Measured,
    Rejection,
    Run,
    Split,
    UntimedRun,
    VoidReason,
)

HEADLINES = ("0-60 mph", "0-100 km/h", "60 ft", "1/4 mile", "60-0 mph", "100-0 km/h")
HOTTEST_PACK_C = 90
EARLIEST_DAY = date(1990, 1, 1)
COLUMNS = {field.name: field.attname for field in Run._meta.concrete_fields}


class MeasuredSerializer(serializers.ModelSerializer[Measured]):
    """A measure with every value and its u95."""

    class Meta:
        model = Measured
        exclude = ("id", "run")


class PlainSerializer(serializers.ModelSerializer[Any]):
    """Rows of plain numbers and words, of which a list has hundreds: told as they stand."""

    def to_representation(self, instance: Any) -> dict[str, Any]:
        """The fields' values."""
        return {name: getattr(instance, name) for name in self.Meta.fields}


class HeadlineSerializer(PlainSerializer):
    """The few values of a measure that a table shows."""

    class Meta:
        model = Measured
        fields = ("name", "clock", "time_s", "time_u95_s", "line_speed_mps", "distance_m", "onset_distance_m")


class SplitSerializer(serializers.ModelSerializer[Split]):
    """A split."""

    class Meta:
        model = Split
        exclude = ("id", "run")


class FlagSerializer(PlainSerializer):
    """A flag."""

    class Meta:
        model = Flag
        fields = ("code", "severity", "message", "excludes", "since_s")


class EditSerializer(serializers.ModelSerializer[Edit]):
    """A later change."""

    edited_by = serializers.CharField(source="edited_by.username", read_only=True)

    class Meta:
        model = Edit
        fields = ("field", "old_value", "new_value", "edited_by", "edited_at")


class RejectionSerializer(serializers.ModelSerializer[Rejection]):
    """A line that was left out."""

    class Meta:
        model = Rejection
        fields = ("line", "reason")


class BusSerializer(serializers.ModelSerializer[BusRecord]):
    """The CAN log that goes with a log."""

    class Meta:
        model = BusRecord
        fields = ("name", "format", "rejected", "offset_s", "offset_u95_s", "over_reading")


class UntimedSerializer(serializers.ModelSerializer[UntimedRun]):
    """A run that was found and could not be timed."""

    class Meta:
        model = UntimedRun
        fields = ("kind", "start_s", "reason")


class LogSerializer(serializers.ModelSerializer[Log]):
    """A log, without its bytes."""

    imported_by = serializers.CharField(source="imported_by.username", read_only=True)
    rejections = RejectionSerializer(many=True, read_only=True)
    untimed = UntimedSerializer(many=True, read_only=True)
    run_ids = serializers.SerializerMethodField()
    bus = BusSerializer(read_only=True, allow_null=True, default=None)

    class Meta:
        model = Log
        fields = "__all__"

    def get_run_ids(self, log: Log) -> list[int]:
        """The log's runs in the order of time."""
        return [run.pk for run in sorted(log.runs.all(), key=lambda run: run.start_s)]


class ConditionsSerializer(serializers.ModelSerializer[Run]):
    """The conditions of a run, checked for slips of unit."""

    class Meta:
        model = Run
        fields = CONDITION_FIELDS

    def validate_pack_temp_before_c(self, value: float | None) -> float | None:
        """Refuse a temperature that only makes sense in °F, and say so."""
        return plausible_pack_temp(value)

    def validate_pack_temp_after_c(self, value: float | None) -> float | None:
        """Refuse a temperature that only makes sense in °F, and say so."""
        return plausible_pack_temp(value)

    def get_fields(self) -> dict[str, serializers.Field[Any, Any, Any, Any]]:
        """The pack temperatures' range is told by `plausible_pack_temp`, which knows a better sentence."""
        fields = super().get_fields()
        for name in ("pack_temp_before_c", "pack_temp_after_c"):
            if name in fields:
                fields[name].validators = [v for v in fields[name].validators if not hasattr(v, "limit_value")]
        return fields


def plausible_pack_temp(value: float | None) -> float | None:
    """The value, where a pack can have it. Raises ValidationError that offers the other unit."""
    if value is None or -40 <= value <= HOTTEST_PACK_C:
        return value
    meant_c = celsius(value)
    offer = f" {value:g} °F would be {meant_c:.0f} °C: is the unit right?" if -40 <= meant_c <= HOTTEST_PACK_C else ""
    raise serializers.ValidationError(f"No pack runs at {value:g} °C.{offer}")


class DateLogSerializer(serializers.Serializer[Any]):
    """On which day (UTC) a log without a date was driven."""

    day = serializers.DateField()

    def validate_day(self, value: date) -> date:
        """Not in the future, and not before there were such receivers."""
        return plausible_day(value)


def plausible_day(value: date) -> date:
    """The day, where a log can be of it. Raises ValidationError."""
    if not EARLIEST_DAY <= value <= timezone.now().date() + timedelta(days=1):
        raise serializers.ValidationError(f"No log is of {value:%Y-%m-%d}. Say the day that it was driven on.")
    return value


class ImportSerializer(ConditionsSerializer):
    """An upload: one log, the set-up it was driven on, and conditions that hold for all of its runs."""

    file = serializers.FileField(write_only=True, allow_empty_file=True, max_length=1000)
    set_up = serializers.PrimaryKeyRelatedField(queryset=SetUp.objects.select_related("car"))
    car = serializers.IntegerField(required=False, write_only=True)
    bus = serializers.FileField(required=False, write_only=True, help_text="a CAN log of the same drive")
    dbc = serializers.FileField(required=False, write_only=True, help_text="what decodes it, if not Coombe's own")
    day = serializers.DateField(required=False, write_only=True, help_text="of a log that has no date, UTC")
    layout = serializers.JSONField(required=False, write_only=True, help_text='headings of a table: {"v": "speed_kmh"}')

    class Meta(ConditionsSerializer.Meta):
        fields = ("file", "set_up", "car", "bus", "dbc", "day", "layout", *CONDITION_FIELDS)

    def validate_day(self, value: date) -> date:
        """A day that can be."""
        return plausible_day(value)

    def validate_dbc(self, value: Any) -> Any:
        """Reading a DBC is running it, nearly: only administrators bring one."""
        person = self.context["request"].user
        if not person.may_delete:
            raise serializers.ValidationError("Only an administrator imports with a DBC. Leave it out, or ask one.")
        return value

    def validate_layout(self, value: object) -> dict[str, str]:
        """Headings and names that Coombe knows."""
        if not isinstance(value, dict) or not all(isinstance(key, str) for key in value):
            raise serializers.ValidationError("A layout names headings, each with what it means.")
        unknown = [str(meaning) for meaning in value.values() if meaning not in MEANINGS]
        if unknown:
            raise serializers.ValidationError(f"Not a column that Coombe knows: {', '.join(unknown)[:200]}.")
        return {key[:120]: meaning for key, meaning in value.items()}

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """The set-up must be one of the car's, where the car is named."""
        car = attrs.pop("car", None)
        if car is not None and attrs["set_up"].car_id != car:
            raise serializers.ValidationError({"set_up": f"{attrs['set_up'].name} is a set-up of another car."})
        return attrs


class ImportedSerializer(serializers.Serializer[Any]):
    """What an import came to."""

    log = LogSerializer()
    already = serializers.BooleanField()


class RunRowSerializer(serializers.ModelSerializer[Run]):
    """A run as a row of the table."""

    car = serializers.IntegerField(source="set_up.car_id", read_only=True)
    car_name = serializers.CharField(source="set_up.car.name", read_only=True)
    set_up_name = serializers.CharField(source="set_up.name", read_only=True)
    course_name = serializers.CharField(source="course.name", read_only=True, default="")
    log_name = serializers.CharField(source="log.name", read_only=True)
    rate_hz = serializers.FloatField(source="log.rate_hz", read_only=True)
    counts = serializers.BooleanField(read_only=True)
    flags = FlagSerializer(many=True, read_only=True)
    headlines = HeadlineSerializer(source="headline_rows", many=True, read_only=True)

    class Meta:
        model = Run
        exclude = ("launch_ramps", "rests_on")
        read_only_fields = tuple(field.name for field in Run._meta.fields)

    def to_representation(self, instance: Run) -> dict[str, Any]:
        """Columns as they stand, since a page has thousands; the rest field by field."""
        told: dict[str, Any] = {}
        for field in self._readable_fields:
            name = str(field.field_name)
            if name in COLUMNS:
                told[name] = getattr(instance, COLUMNS[name])
                continue
            value = field.get_attribute(instance)
            told[name] = None if value is None else field.to_representation(value)
        return told


class AttachmentSerializer(serializers.ModelSerializer[Attachment]):
    """A photograph or PDF."""

    added_by = serializers.CharField(source="added_by.username", read_only=True)

    class Meta:
        model = Attachment
        fields = ("id", "name", "size_bytes", "media_type", "added_by", "added_at")
        read_only_fields = fields


class AttachSerializer(serializers.Serializer[Any]):
    """A file to attach."""

    file = serializers.FileField()


class RunSerializer(RunRowSerializer):
    """A run with everything on its sheet but the curve."""

    headlines = None  # type: ignore[assignment]
    measured = MeasuredSerializer(many=True, read_only=True)
    splits = SplitSerializer(source="split_rows", many=True, read_only=True)
    edits = EditSerializer(many=True, read_only=True)
    attachments = AttachmentSerializer(many=True, read_only=True)
    core_version = serializers.CharField(source="timed_with", read_only=True)
    date_known = serializers.BooleanField(source="log.date_known", read_only=True)
    bus = BusSerializer(source="log.bus", read_only=True, allow_null=True, default=None)


class RunChangeSerializer(ConditionsSerializer):
    """Changed conditions or set-up, with the revision that they were read at."""

    revision = serializers.IntegerField()
    set_up = serializers.PrimaryKeyRelatedField(queryset=SetUp.objects.all(), required=False)

    class Meta(ConditionsSerializer.Meta):
        fields = ("revision", "set_up", *CONDITION_FIELDS)

    def validate_set_up(self, value: SetUp) -> SetUp:
        """A run stays with its car."""
        if isinstance(self.instance, Run) and value.car_id != self.instance.set_up.car_id:
            raise serializers.ValidationError(f"{value.name} is a set-up of another car.")
        return value


class VoidSerializer(serializers.Serializer[Any]):
    """Voiding a run."""

    revision = serializers.IntegerField()
    reason = serializers.ChoiceField(choices=VoidReason.choices)
    note = serializers.CharField(max_length=300, allow_blank=True, default="")


class KeepSerializer(serializers.Serializer[Any]):
    """Keeping a run."""

    revision = serializers.IntegerField()

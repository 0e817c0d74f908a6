"""Logs and runs as the API shows and takes them."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date, timedelta
from typing import Any
from zoneinfo import available_timezones

from django.utils import timezone
from rest_framework import serializers

from cars.models import Setup
from config.columns import ColumnsSerializer
from config.errors import ProblemSerializer
from config.fields import LocalTimeField
from coombe_core.formats.delimited import MEANINGS
from coombe_core.units import celsius
from runs.conditions import CONDITION_FIELDS
from runs.models import (
    Attachment,
    CanLog,
    Driven,
    Flag,
    Import,
    Log,
    Measured,
    Rejection,
    Run,
    Split,
    UntimedRun,
    VoidReason,
)
from runs.question_serializers import AskedSerializer

HEADLINES = ("0-60 mph", "0-100 km/h", "60 ft", "1/4 mile", "60-0 mph", "100-0 km/h")
HOTTEST_BATTERY_C = 90
EARLIEST_DAY = date(1990, 1, 1)


class MeasuredSerializer(ColumnsSerializer[Measured]):
    """A measure with every value and its u95."""

    class Meta:
        model = Measured
        exclude = ("id", "run")


class HeadlineSerializer(ColumnsSerializer[Measured]):
    """The few values of a measure that a table shows."""

    class Meta:
        model = Measured
        fields = ("name", "clock", "time_s", "time_u95_s", "line_speed_mps", "distance_m", "onset_distance_m")


class SplitSerializer(ColumnsSerializer[Split]):
    """A split."""

    class Meta:
        model = Split
        exclude = ("id", "run")


class FlagSerializer(ColumnsSerializer[Flag]):
    """A flag."""

    class Meta:
        model = Flag
        fields = ("code", "severity", "message", "excludes", "since_s")


class RejectionSerializer(ColumnsSerializer[Rejection]):
    """A line that was left out."""

    class Meta:
        model = Rejection
        fields = ("line", "reason")


class CanLogSerializer(ColumnsSerializer[CanLog]):
    """The CAN log that goes with a log."""

    class Meta:
        model = CanLog
        fields = ("name", "format", "rejected", "offset_s", "offset_u95_s", "over_reading")


class UntimedSerializer(ColumnsSerializer[UntimedRun]):
    """A run that was found and could not be timed."""

    class Meta:
        model = UntimedRun
        fields = ("kind", "start_s", "reason")


def names_of_setups(driven: Iterable[Driven]) -> list[str]:
    """The setups that runs were made on, each with its car."""
    return sorted({f"{run.car_name}: {run.setup_name}" for run in driven})


class LogSerializer(ColumnsSerializer[Log]):
    """A log, without its bytes."""

    imported_by = serializers.CharField(source="imported_by.username", read_only=True)
    rejections = RejectionSerializer(many=True, read_only=True)
    untimed = UntimedSerializer(many=True, read_only=True)
    run_ids = serializers.SerializerMethodField()
    setup_names = serializers.SerializerMethodField()
    start_local = LocalTimeField()
    can_log = CanLogSerializer(read_only=True, allow_null=True, default=None)

    class Meta:
        model = Log
        fields = "__all__"

    def get_setup_names(self, log: Log) -> list[str]:
        """The setups that its runs were made on."""
        return names_of_setups(log.driven)

    def get_run_ids(self, log: Log) -> list[int]:
        """The log's runs in the order of time."""
        return [run.run for run in log.driven]


class LogDeletionSerializer(serializers.Serializer[Any]):
    """What deleting a log would take with it."""

    sentence = serializers.CharField()


class ConditionsSerializer(serializers.ModelSerializer[Run]):
    """The conditions of a run, checked for slips of unit."""

    class Meta:
        model = Run
        fields = CONDITION_FIELDS

    def validate_battery_temp_before_c(self, value: float | None) -> float | None:
        """Refuse a temperature that only makes sense in °F, and say so."""
        return plausible_battery_temp(value)

    def validate_battery_temp_after_c(self, value: float | None) -> float | None:
        """Refuse a temperature that only makes sense in °F, and say so."""
        return plausible_battery_temp(value)

    def get_fields(self) -> dict[str, serializers.Field[Any, Any, Any, Any]]:
        """The battery temperatures' range is reported by `plausible_battery_temp`, which knows a better sentence."""
        fields = super().get_fields()
        for name in ("battery_temp_before_c", "battery_temp_after_c"):
            if name in fields:
                fields[name].validators = [v for v in fields[name].validators if not hasattr(v, "limit_value")]
        return fields


def plausible_battery_temp(value: float | None) -> float | None:
    """The value, where a battery can have it. Raises ValidationError that offers the other unit."""
    if value is None or -40 <= value <= HOTTEST_BATTERY_C:
        return value
    meant_c = celsius(value)
    offer = (
        f" {value:g} °F would be {meant_c:.0f} °C: is the unit right?" if -40 <= meant_c <= HOTTEST_BATTERY_C else ""
    )
    raise serializers.ValidationError(f"No battery runs at {value:g} °C.{offer}")


class DateLogSerializer(serializers.Serializer[Any]):
    """When a log was driven: the day, and the time zone of its clock."""

    day = serializers.DateField()
    zone = serializers.CharField(max_length=60, default="UTC", help_text="IANA name, such as America/Denver")

    def validate_day(self, value: date) -> date:
        """Not in the future, and not before there were such receivers."""
        return plausible_day(value)

    def validate_zone(self, value: str) -> str:
        """A time zone that there is."""
        return known_zone(value)


def known_zone(value: str) -> str:
    """The time zone, where there is one of that name. Raises ValidationError."""
    if value not in available_timezones():
        raise serializers.ValidationError(f"There is no time zone {value}. Name one such as Europe/Berlin, or UTC.")
    return value


def plausible_day(value: date) -> date:
    """The day, where a log can be of it. Raises ValidationError."""
    if not EARLIEST_DAY <= value <= timezone.now().date() + timedelta(days=1):
        raise serializers.ValidationError(f"No log is of {value:%Y-%m-%d}. Say the day that it was driven on.")
    return value


class ImportSerializer(ConditionsSerializer):
    """An upload: one log, the setup it was driven on, and conditions that hold for all of its runs."""

    file = serializers.FileField(write_only=True, allow_empty_file=True, max_length=1000)
    setup = serializers.PrimaryKeyRelatedField(queryset=Setup.objects.select_related("car"))
    car = serializers.IntegerField(required=False, write_only=True)
    can_log = serializers.FileField(required=False, write_only=True, help_text="a CAN log of the same drive")
    dbc = serializers.FileField(required=False, write_only=True, help_text="what decodes it, if not Coombe's own")
    day = serializers.DateField(required=False, write_only=True, help_text="of a log that has no date")
    zone = serializers.CharField(
        required=False, write_only=True, max_length=60, help_text="of its clock; UTC if not said"
    )
    later = serializers.BooleanField(required=False, write_only=True, help_text="take it without its date for now")
    last_charge_before_percent = serializers.FloatField(
        required=False, write_only=True, allow_null=True, min_value=0, max_value=100, help_text="at the last pull"
    )
    last_battery_temp_before_c = serializers.FloatField(
        required=False, write_only=True, allow_null=True, min_value=-40, max_value=90, help_text="at the last pull"
    )
    layout = serializers.JSONField(required=False, write_only=True, help_text='headings of a table: {"v": "speed_kmh"}')

    class Meta(ConditionsSerializer.Meta):
        fields = (
            "file",
            "setup",
            "car",
            "can_log",
            "dbc",
            "day",
            "zone",
            "later",
            "layout",
            "last_charge_before_percent",
            "last_battery_temp_before_c",
            *CONDITION_FIELDS,
        )

    def validate_day(self, value: date) -> date:
        """A day that can be."""
        return plausible_day(value)

    def validate_zone(self, value: str) -> str:
        """A time zone that there is."""
        return known_zone(value)

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
        """The setup must be one of the car's, where the car is named."""
        car = attrs.pop("car", None)
        if car is not None and attrs["setup"].car_id != car:
            raise serializers.ValidationError({"setup": f"{attrs['setup'].name} is a setup of another car."})
        return attrs


class ImportedSerializer(serializers.ModelSerializer[Import]):
    """An import: how far it has come, and what it came to."""

    log = LogSerializer(read_only=True, allow_null=True)
    refusal = ProblemSerializer(read_only=True, allow_null=True)

    class Meta:
        model = Import
        fields = (
            *("id", "name", "can_name", "setup", "state", "runs_found", "runs_timed", "log", "already"),
            *("doubt", "refusal", "created_at", "ended_at"),
        )
        read_only_fields = fields


class RunRowSerializer(ColumnsSerializer[Run]):
    """A run as a row of the table; `rows.run_rows` reads them."""

    car = serializers.IntegerField(source="setup.car_id", read_only=True)
    car_name = serializers.CharField(source="setup.car.name", read_only=True)
    setup_name = serializers.CharField(source="setup.name", read_only=True)
    course_name = serializers.CharField(source="course.name", read_only=True, default="")
    log_name = serializers.CharField(source="log.name", read_only=True)
    rate_hz = serializers.FloatField(source="log.rate_hz", read_only=True)
    counts = serializers.BooleanField(read_only=True)
    flags = FlagSerializer(many=True, read_only=True)
    start_local = LocalTimeField()
    headlines = HeadlineSerializer(many=True, read_only=True)

    class Meta:
        model = Run
        exclude = ("launch_ramps", "rests_on")
        read_only_fields = tuple(field.name for field in Run._meta.fields)


class AttachmentSerializer(serializers.ModelSerializer[Attachment]):
    """A photograph or PDF."""

    added_by = serializers.CharField(source="added_by.username", read_only=True)

    class Meta:
        model = Attachment
        fields = ("id", "name", "size_bytes", "media_type", "added_by", "added_at")
        read_only_fields = fields


class NameSerializer(serializers.Serializer[Any]):
    """What an attachment is called."""

    name = serializers.CharField(max_length=255)


class AttachSerializer(serializers.Serializer[Any]):
    """A file to attach, and to which run."""

    run = serializers.PrimaryKeyRelatedField(queryset=Run.objects.all())
    file = serializers.FileField()


class RunSerializer(RunRowSerializer):
    """A run with everything on its sheet but the curve."""

    headlines = None  # type: ignore[assignment]
    measured = MeasuredSerializer(many=True, read_only=True)
    splits = SplitSerializer(source="split_rows", many=True, read_only=True)
    attachments = AttachmentSerializer(many=True, read_only=True)
    core_version = serializers.CharField(source="timed_with", read_only=True)
    date_known = serializers.BooleanField(source="log.date_known", read_only=True)
    can_log = CanLogSerializer(source="log.can_log", read_only=True, allow_null=True, default=None)


class RunChangedSerializer(RunSerializer):
    """A run that was changed, and what to ask about the change."""

    questions = AskedSerializer(many=True, read_only=True)


class RunChangeSerializer(ConditionsSerializer):
    """Changed conditions or setup, with the revision that they were read at."""

    revision = serializers.IntegerField()
    setup = serializers.PrimaryKeyRelatedField(queryset=Setup.objects.all(), required=False)

    class Meta(ConditionsSerializer.Meta):
        fields = ("revision", "setup", *CONDITION_FIELDS)


class VoidSerializer(serializers.Serializer[Any]):
    """Voiding a run."""

    revision = serializers.IntegerField()
    reason = serializers.ChoiceField(choices=VoidReason.choices)
    note = serializers.CharField(max_length=300, allow_blank=True, default="")


class KeepSerializer(serializers.Serializer[Any]):
    """Keeping a run."""

    revision = serializers.IntegerField()

"""What the sheet of a run asks for and shows beside its rows: curves, corrections, weather, power, pasted rows."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from coombe_core.formats.conditions_table import Remark
from coombe_core.wording.conditions_table import remark
from runs.models import ClockName
from runs.question_serializers import AskedSerializer


class FixColumnsSerializer(serializers.Serializer[Any]):
    """The fixes of a run, a list a column; null where a fix lacks the value. Places are meters from the first fix."""

    since_s = serializers.ListField(child=serializers.FloatField())
    speed_mps = serializers.ListField(child=serializers.FloatField())
    altitude_m = serializers.ListField(child=serializers.FloatField(allow_null=True))
    east_m = serializers.ListField(child=serializers.FloatField(allow_null=True))
    north_m = serializers.ListField(child=serializers.FloatField(allow_null=True))


class CurveColumnsSerializer(serializers.Serializer[Any]):
    """The fitted curve of a run, a list a column."""

    since_s = serializers.ListField(child=serializers.FloatField())
    speed_mps = serializers.ListField(child=serializers.FloatField())
    distance_m = serializers.ListField(child=serializers.FloatField())
    acceleration_mps2 = serializers.ListField(child=serializers.FloatField())


class CurveSerializer(serializers.Serializer[Any]):
    """What the charts of a run are drawn from; times count from first movement or brake onset."""

    fixes = FixColumnsSerializer()
    curve = CurveColumnsSerializer()


class NamedSerializer(serializers.Serializer[Any]):
    """An interval that a person names, such as 50-80 mph."""

    name = serializers.CharField(max_length=24)


class RetimingSerializer(serializers.Serializer[Any]):
    """How many runs wait to be timed again, and how many could not be."""

    waiting = serializers.IntegerField()
    failed = serializers.IntegerField()


class ReportSerializer(serializers.Serializer[Any]):
    """A METAR line."""

    report = serializers.CharField(max_length=400)


class WeatherSerializer(serializers.Serializer[Any]):
    """Conditions that a weather report states; null where it does not."""

    outside_temp_c = serializers.FloatField(allow_null=True)
    pressure_hpa = serializers.FloatField(allow_null=True)
    humidity_percent = serializers.FloatField(allow_null=True)
    wind_mps = serializers.FloatField(allow_null=True)
    wind_from_deg = serializers.FloatField(allow_null=True)


class CorrectionAskSerializer(serializers.Serializer[Any]):
    """Which differences to the reference conditions to take out."""

    slope = serializers.BooleanField(default=False)
    density = serializers.BooleanField(default=False)
    wind = serializers.BooleanField(default=False)


class CorrectedTimeSerializer(serializers.Serializer[Any]):
    """One corrected time."""

    name = serializers.CharField()
    clock = serializers.ChoiceField(choices=ClockName.choices)
    time_s = serializers.FloatField(allow_null=True)
    time_u95_s = serializers.FloatField(allow_null=True)


class CorrectedSerializer(serializers.Serializer[Any]):
    """Corrected times, what they refer to, what was corrected, and what was missing or assumed."""

    reference = serializers.CharField(allow_blank=True)
    parts = serializers.ListField(child=serializers.CharField())
    missing = serializers.ListField(child=serializers.CharField())
    assumed = serializers.ListField(child=serializers.CharField())
    measured = CorrectedTimeSerializer(many=True)


class PowerSerializer(serializers.Serializer[Any]):
    """Wheel power against speed; kW first, and horsepower by the name of its school."""

    speed_mps = serializers.ListField(child=serializers.FloatField())
    power_kw = serializers.ListField(child=serializers.FloatField())
    peak_kw = serializers.FloatField()
    peak_metric_hp = serializers.FloatField()
    peak_mechanical_hp = serializers.FloatField()
    peak_at_mps = serializers.FloatField()
    tapers_from_mps = serializers.FloatField(allow_null=True)
    assumed = serializers.ListField(child=serializers.CharField())
    mass_kg = serializers.FloatField()
    density_kg_m3 = serializers.FloatField()
    density_altitude_m = serializers.FloatField()
    head_wind_mps = serializers.FloatField()


class BatteryPowerSerializer(serializers.Serializer[Any]):
    """The battery's power against speed, from CAN data."""

    speed_mps = serializers.ListField(child=serializers.FloatField())
    power_kw = serializers.ListField(child=serializers.FloatField())
    peak_kw = serializers.FloatField()
    peak_at_mps = serializers.FloatField()
    tapers_from_mps = serializers.FloatField(allow_null=True)


class PowerAnswerSerializer(serializers.Serializer[Any]):
    """Wheel power, or what it lacks, and the battery's power where CAN data has it."""

    power = PowerSerializer(allow_null=True)
    battery = BatteryPowerSerializer(allow_null=True)
    missing = serializers.CharField(allow_blank=True)


class PastedSerializer(serializers.Serializer[Any]):
    """Rows of a spreadsheet for runs; `apply` does so."""

    text = serializers.CharField(max_length=200_000, trim_whitespace=False)
    runs = serializers.ListField(child=serializers.IntegerField(), max_length=2000)
    fahrenheit = serializers.BooleanField(default=False)
    apply = serializers.BooleanField(default=False)


class RemarkField(serializers.CharField):
    """What is doubtful or wrong, as a sentence."""

    def to_representation(self, value: Remark) -> str:  # type: ignore[override]
        """The sentence."""
        return remark(value)


class PastedRowSerializer(serializers.Serializer[Any]):
    """One row as it was understood; `run` is the place in the list of runs."""

    line = serializers.IntegerField()
    run = serializers.IntegerField(allow_null=True)
    values = serializers.DictField(child=serializers.FloatField())
    questions = AskedSerializer(many=True)
    doubts = serializers.ListField(child=RemarkField())
    wrong = serializers.ListField(child=RemarkField())


class PastedAnswerSerializer(serializers.Serializer[Any]):
    """All rows as they were understood."""

    rows = PastedRowSerializer(many=True)
    doubts = serializers.ListField(child=RemarkField())


class BesideSerializer(serializers.Serializer[Any]):
    """Runs beside one, by number; `of_setup` are the other valid ones of its kind and setup."""

    previous = serializers.IntegerField(allow_null=True)
    next = serializers.IntegerField(allow_null=True)
    best = serializers.IntegerField(allow_null=True)
    of_setup = serializers.ListField(child=serializers.IntegerField())
    density_altitude_m = serializers.FloatField(allow_null=True)


class TrackSerializer(serializers.Serializer[Any]):
    """The way that a run took, in meters east and north of a common place."""

    run = serializers.IntegerField()
    east_m = serializers.ListField(child=serializers.FloatField())
    north_m = serializers.ListField(child=serializers.FloatField())

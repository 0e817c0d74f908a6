"""Studies as the API takes, keeps and shows them."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from config.fields import LocalTimeField, RowSerializer, shown_local
from config.nested import WholeSerializer
from config.revisions import RevisedSerializer
from coombe_core.timing.measures import parse_measure
from coombe_core.uncertainty import Value
from runs.models import ClockName, Log, Run
from studies.choosing import Picked
from studies.models import LeftOut, OwnMeasure, OwnValue, Series, Study, StudyKind, TableView
from studies.services import Result, answer, changes, keep, question_of
from studies.showing import Axis, Chart, Drive, Table

MOST_SERIES, MOST_LEFT_OUT = 8, 200


class SeriesSerializer(WholeSerializer[Series]):
    """What picks the runs of one series."""

    class Meta:
        model = Series
        fields = ("name", "car", "setup", "from_day", "to_day", "drive_mode", "receiver", "direction")

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """A setup of the car; days in their order."""
        setup, car = attrs.get("setup"), attrs.get("car")
        if setup and car and setup.car_id != car.pk:
            raise serializers.ValidationError({"setup": [f"{setup.name} is a setup of {setup.car.name}."]})
        first, last = attrs.get("from_day"), attrs.get("to_day")
        if first and last and first > last:
            raise serializers.ValidationError({"to_day": ["The last day is before the first."]})
        return attrs


class LeftOutSerializer(WholeSerializer[LeftOut]):
    """A run that is left out, with the reason."""

    class Meta:
        model = LeftOut
        fields = ("run", "reason")


class StudyAxisSerializer(serializers.Serializer[Axis]):
    """What is counted: its label, kind of quantity, and SI unit."""

    label = serializers.CharField()  # type: ignore[assignment]  # a name that DRF uses too
    kind = serializers.CharField()
    unit = serializers.CharField()


class StudyPointSerializer(serializers.Serializer[Any]):
    """A value at a place."""

    x = serializers.FloatField()
    y = serializers.FloatField()
    u95 = serializers.FloatField(allow_null=True)
    run = serializers.IntegerField(allow_null=True)
    label = serializers.CharField()  # type: ignore[assignment]


class StudyBandSerializer(serializers.Serializer[Any]):
    """A curve with its band."""

    x = serializers.ListField(child=serializers.FloatField())
    y = serializers.ListField(child=serializers.FloatField())
    u95 = serializers.ListField(child=serializers.FloatField())


class StudyMarkSerializer(serializers.Serializer[Any]):
    """A place with its interval."""

    x = serializers.FloatField()
    low = serializers.FloatField()
    high = serializers.FloatField()
    label = serializers.CharField()  # type: ignore[assignment]


class StudyChartSeriesSerializer(serializers.Serializer[Any]):
    """Points, curve and marks of one name."""

    name = serializers.CharField()
    points = StudyPointSerializer(many=True)
    band = StudyBandSerializer(allow_null=True)
    marks = StudyMarkSerializer(many=True)


class StudyChartSerializer(serializers.Serializer[Chart]):
    """One picture."""

    title = serializers.CharField()
    x = StudyAxisSerializer()
    y = StudyAxisSerializer()
    series = StudyChartSeriesSerializer(many=True)
    names = serializers.ListField(child=serializers.CharField())
    falling = serializers.BooleanField()


class StudyCellSerializer(serializers.Serializer[Any]):
    """Words, or a number with its u95 where it has one."""

    text = serializers.CharField(allow_null=True)
    value = serializers.FloatField(allow_null=True)
    u95 = serializers.FloatField(allow_null=True)


class StudyTableSerializer(serializers.Serializer[Table]):
    """One table."""

    title = serializers.CharField()
    columns = StudyAxisSerializer(many=True)
    rows = serializers.SerializerMethodField()

    @extend_schema_field(serializers.ListField(child=StudyCellSerializer(many=True)))
    def get_rows(self, table: Table) -> list[list[dict[str, Any]]]:
        """Every row's cells."""
        return [[_cell(cell) for cell in row] for row in table.rows]


def _cell(cell: object) -> dict[str, Any]:
    if isinstance(cell, Value):
        return {"text": None, "value": cell.value, "u95": cell.u95}
    if isinstance(cell, float | int):
        return {"text": None, "value": float(cell), "u95": None}
    return {"text": cell, "value": None, "u95": None}


class StudiedRunSerializer(RowSerializer):
    """A run that a series' rule picked, with its value, or why it does not count."""

    id = serializers.IntegerField()
    series = serializers.IntegerField()
    start_utc = serializers.DateTimeField()
    start_local = LocalTimeField()
    setup_name = serializers.CharField()
    value = serializers.FloatField(allow_null=True)
    u95 = serializers.FloatField(allow_null=True)
    dropped = serializers.CharField()


class StudyDriveSerializer(serializers.Serializer[Drive]):
    """The places of a drive with the heading there, and meters east and north of the first; where the start line is."""

    latitude_deg = serializers.ListField(child=serializers.FloatField())
    longitude_deg = serializers.ListField(child=serializers.FloatField())
    heading_deg = serializers.ListField(child=serializers.FloatField())
    east_m = serializers.ListField(child=serializers.FloatField())
    north_m = serializers.ListField(child=serializers.FloatField())
    start = serializers.IntegerField(allow_null=True)


class StudyResultSerializer(serializers.Serializer[Result]):
    """What a study says; `trouble` is why it can't say anything."""

    sentences = serializers.SerializerMethodField()
    cautions = serializers.SerializerMethodField()
    charts = serializers.SerializerMethodField()
    tables = serializers.SerializerMethodField()
    trouble = serializers.CharField()
    runs = serializers.SerializerMethodField()
    drive = StudyDriveSerializer(allow_null=True)

    @extend_schema_field(serializers.ListField(child=serializers.CharField()))
    def get_sentences(self, result: Result) -> list[str]:
        """What was found, the largest first."""
        return list(result.shown.sentences) if result.shown else []

    @extend_schema_field(serializers.ListField(child=serializers.CharField()))
    def get_cautions(self, result: Result) -> list[str]:
        """What to beware of."""
        return list(result.shown.cautions) if result.shown else []

    @extend_schema_field(StudyChartSerializer(many=True))
    def get_charts(self, result: Result) -> Any:
        """The pictures."""
        return [StudyChartSerializer(chart).data for chart in (result.shown.charts if result.shown else [])]

    @extend_schema_field(StudyTableSerializer(many=True))
    def get_tables(self, result: Result) -> Any:
        """The tables."""
        return [StudyTableSerializer(table).data for table in (result.shown.tables if result.shown else [])]

    @extend_schema_field(StudiedRunSerializer(many=True))
    def get_runs(self, result: Result) -> Any:
        """The runs that it rests on, and those that it does not."""
        return [_run_json(place, picked) for place, picked in result.runs]


def _run_json(place: int, picked: Picked) -> dict[str, Any]:
    return {
        "id": picked.run.pk,
        "series": place,
        "start_utc": picked.run.start_utc,
        "start_local": shown_local(picked.run.start_local),
        "setup_name": picked.run.setup.name,
        "value": picked.value and picked.value.value,
        "u95": picked.value and picked.value.u95,
        "dropped": picked.dropped,
    }


class StudyAskSerializer(serializers.Serializer[Any]):
    """A study as it is asked, saved or not."""

    kind = serializers.ChoiceField(choices=StudyKind.choices)
    measure = serializers.CharField(max_length=24, allow_blank=True, default="")
    clock = serializers.ChoiceField(choices=ClockName.choices, allow_blank=True, default="")
    series = SeriesSerializer(many=True, default=list)
    left_out = LeftOutSerializer(many=True, default=list)
    log = serializers.PrimaryKeyRelatedField(queryset=Log.objects.all(), allow_null=True, default=None)
    start_latitude_deg = serializers.FloatField(min_value=-90, max_value=90, allow_null=True, default=None)
    start_longitude_deg = serializers.FloatField(min_value=-180, max_value=180, allow_null=True, default=None)
    start_heading_deg = serializers.FloatField(min_value=0, max_value=360, allow_null=True, default=None)

    def validate_measure(self, name: str) -> str:
        """A measure's name, or none for the usual one."""
        if name:
            try:
                parse_measure(name)
            except ValueError as error:
                raise serializers.ValidationError(str(error)) from None
        return name

    def validate_series(self, series: list[dict[str, Any]]) -> list[dict[str, Any]]:
        """Up to eight, of different names."""
        if len(series) > MOST_SERIES:
            raise serializers.ValidationError(f"At most {MOST_SERIES} series lie beside one another.")
        if len({row["name"] for row in series}) < len(series):
            raise serializers.ValidationError("Give the series different names.")
        return series

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """All but laps take a series. A run is left out once."""
        if attrs["kind"] != StudyKind.LAPS and not attrs["series"]:
            raise serializers.ValidationError({"series": ["Choose a car."]})
        runs = [row["run"].pk for row in attrs["left_out"]]
        if len(set(runs)) < len(runs) or len(runs) > MOST_LEFT_OUT:
            raise serializers.ValidationError({"left_out": [f"Each run once, and at most {MOST_LEFT_OUT} of them."]})
        return attrs


class StudyRowSerializer(serializers.ModelSerializer[Study]):
    """A saved study in the list, with what it said when it was saved."""

    created_by = serializers.CharField(source="created_by.username", read_only=True)
    sentence = serializers.SerializerMethodField()

    class Meta:
        model = Study
        fields = ("id", "title", "kind", "measure", "clock", "sentence", "created_by", "created_at")

    def get_sentence(self, study: Study) -> str:
        """The first that was kept."""
        sentences = (study.kept or {}).get("sentences", [])
        return sentences[0] if sentences else ""


class StudySerializer(StudyAskSerializer):
    """A saved study with its rules, its result, and what has changed since it was saved."""

    id = serializers.IntegerField(read_only=True)
    title = serializers.CharField(max_length=160)
    created_by = serializers.CharField(source="created_by.username", read_only=True)
    created_at = serializers.DateTimeField(read_only=True)
    revision = serializers.IntegerField(required=False)
    changes = serializers.ListField(child=serializers.CharField(), read_only=True)
    result = StudyResultSerializer(read_only=True)

    def to_representation(self, instance: Study) -> dict[str, Any]:
        """The row, how it is asked, and the result."""
        asked = question_of(instance)
        result = answer(asked)
        shown = StudyAskSerializer(asked).data
        named = {name: getattr(instance, name) for name in ("id", "title", "created_at", "revision")}
        return {
            **named,
            **shown,
            "created_by": instance.created_by.username,
            "changes": changes(instance.kept, result),
            "result": StudyResultSerializer(result).data,
        }

    @transaction.atomic
    def create(self, validated_data: dict[str, Any]) -> Study:
        """Save the question, its series and what was found."""
        validated_data.pop("revision", None)
        series, left_out = validated_data.pop("series"), validated_data.pop("left_out")
        study = Study.objects.create(**validated_data)
        return _with_parts(study, series, left_out)


def _with_parts(study: Study, series: list[dict[str, Any]], left_out: list[dict[str, Any]]) -> Study:
    Series.objects.bulk_create(Series(study=study, position=place, **row) for place, row in enumerate(series))
    LeftOut.objects.bulk_create(LeftOut(study=study, **row) for row in left_out)
    keep(study)
    return study


class StudyChangeSerializer(serializers.Serializer[Any]):
    """Another title, or other runs left out."""

    title = serializers.CharField(max_length=160, required=False)
    left_out = LeftOutSerializer(many=True, required=False)
    revision = serializers.IntegerField()

    def validate_left_out(self, rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
        """Each run once."""
        runs: list[Run] = [row["run"] for row in rows]
        if len(set(runs)) < len(runs) or len(runs) > MOST_LEFT_OUT:
            raise serializers.ValidationError(f"Each run once, and at most {MOST_LEFT_OUT} of them.")
        return rows


class OwnMeasureSerializer(RevisedSerializer[OwnMeasure]):
    """An own measure."""

    class Meta:
        model = OwnMeasure
        fields = "__all__"


class OwnValueSerializer(RevisedSerializer[OwnValue]):
    """A value of an own measure."""

    class Meta:
        model = OwnValue
        fields = "__all__"

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """A run is of the setup."""
        run = attrs.get("run", getattr(self.instance, "run", None))
        setup = attrs.get("setup", getattr(self.instance, "setup", None))
        if run and setup and run.setup_id != setup.pk:
            raise serializers.ValidationError({"run": ["This run was made on another setup."]})
        return attrs


class TableViewSerializer(RevisedSerializer[TableView]):
    """A saved view of the table of all cars."""

    columns = serializers.ListField(child=serializers.CharField(max_length=80), max_length=60)
    filters = serializers.DictField(child=serializers.CharField(max_length=80, allow_blank=True), required=False)
    created_by = serializers.CharField(source="created_by.username", read_only=True)

    class Meta:
        model = TableView
        fields = ("id", "name", "columns", "pinned", "sort", "filters", "created_by", "revision")

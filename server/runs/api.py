"""Logs and runs over the API."""

from __future__ import annotations

from typing import Any, cast

import numpy as np
from django.conf import settings
from django.db.models import Prefetch, QuerySet
from django.http import HttpResponse
from drf_spectacular.utils import extend_schema
from numpy.typing import NDArray
from rest_framework import mixins, serializers, status, viewsets
from rest_framework.decorators import action
from rest_framework.generics import GenericAPIView
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.models import User
from config.errors import InUse, TooLarge
from config.pagination import NarrowPages
from config.parsing import BoundedJSONParser
from coombe_core.formats import ReadError
from coombe_core.formats.parquet import read_columns
from coombe_core.formats.reading import CanError, UnknownColumnsError
from coombe_core.physics.course import flat_track
from courses.models import Course
from runs import exports, filling, services
from runs.car_bus import BusUpload, pack_power_of
from runs.filters import RunFilter
from runs.models import Log, Measured, Run
from runs.physics import corrected_times, power_of, weather_of
from runs.serializers import (
    HEADLINES,
    DateLogSerializer,
    HeadlineSerializer,
    ImportedSerializer,
    ImportSerializer,
    KeepSerializer,
    LogSerializer,
    MeasuredSerializer,
    RunChangeSerializer,
    RunRowSerializer,
    RunSerializer,
    VoidSerializer,
)
from runs.sheet_serializers import (
    CorrectedSerializer,
    CorrectionAskSerializer,
    CurveSerializer,
    NamedSerializer,
    PastedAnswerSerializer,
    PastedSerializer,
    PowerAnswerSerializer,
    ReportSerializer,
    RetimingSerializer,
    TrackSerializer,
    WeatherSerializer,
)
from runs.tracks import tracks

FORM_OVERHEAD_BYTES = 64 * 1024


class LogViewSet(
    mixins.CreateModelMixin,
    mixins.ListModelMixin,
    mixins.RetrieveModelMixin,
    mixins.DestroyModelMixin,
    viewsets.GenericViewSet[Log],
):
    """Logs: upload one, list them, delete one with its runs (administrators)."""

    queryset = Log.objects.select_related("imported_by", "bus").prefetch_related("rejections", "runs", "untimed")
    serializer_class = LogSerializer
    parser_classes = [MultiPartParser]

    @extend_schema(request={"multipart/form-data": ImportSerializer}, responses={201: ImportedSerializer})
    def create(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        """Import a log: 201 where it is new, 200 where the same bytes are known already."""
        _refuse_oversize(request)
        given = ImportSerializer(data=request.data, context=self.get_serializer_context())
        given.is_valid(raise_exception=True)
        values = dict(given.validated_data)
        upload, set_up, layout = values.pop("file"), values.pop("set_up"), values.pop("layout", None)
        day = values.pop("day", None)
        bus, person = _bus_of(values), cast(User, request.user)
        _refuse_size(upload.size)
        try:
            done = services.import_log(upload.name, upload.read(), set_up, person, values, layout, bus, day)
        except CanError as error:
            raise serializers.ValidationError({"bus": [f"{bus.name if bus else 'CAN log'}: {error}"]}) from None
        except services.UndatedError as error:
            raise serializers.ValidationError({"day": [f"{upload.name}: {error}."]}) from None
        except UnknownColumnsError as error:
            told = {"file": [f"{upload.name}: {error}"], "headings": error.columns}
            raise serializers.ValidationError(told) from None
        except ReadError as error:
            raise serializers.ValidationError({"file": [f"{upload.name}: {error}"]}) from None
        code = status.HTTP_200_OK if done.already else status.HTTP_201_CREATED
        return Response(ImportedSerializer(done).data, status=code)

    @extend_schema(request=DateLogSerializer, responses=LogSerializer)
    @action(detail=True, methods=["post"], parser_classes=[BoundedJSONParser])
    def date(self, request: Request, pk: str) -> Response:
        """Say on which day a log without a date was driven."""
        given = DateLogSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        services.date_log(self.get_object(), given.validated_data["day"], cast(User, request.user))
        return Response(LogSerializer(self.get_object()).data)

    def perform_destroy(self, instance: Log) -> None:
        """Not while it is recorded: its bytes are still on their way to the store."""
        if instance.sha256 is None:
            raise InUse("This log is still being recorded or stored. Stop the recording first.")
        instance.delete()


def _bus_of(values: dict[str, Any]) -> BusUpload | None:
    """The CAN log of an import, taken out of its values."""
    bus, dbc = values.pop("bus", None), values.pop("dbc", None)
    if bus is None:
        return None
    _refuse_size(bus.size)
    return BusUpload(bus.name, bus.read(), dbc.read().decode("utf-8", errors="replace") if dbc else None)


def _refuse_oversize(request: Request) -> None:
    """Refuse by the stated length, before the body is read."""
    _refuse_size(int(request.META.get("CONTENT_LENGTH") or 0) - FORM_OVERHEAD_BYTES)


def _refuse_size(size_bytes: int) -> None:
    limit = settings.MAX_LOG_BYTES
    if size_bytes > limit:
        raise TooLarge(f"The file is larger than the limit of {limit / 1024**2:.0f} MB; split the log.")


class RunViewSet(
    mixins.ListModelMixin, mixins.RetrieveModelMixin, mixins.UpdateModelMixin, viewsets.GenericViewSet[Run]
):
    """Runs: list, one sheet, its curve, change its conditions, void it or keep it."""

    filterset_class = RunFilter
    pagination_class = NarrowPages
    http_method_names = ["get", "patch", "post", "head", "options"]

    def get_queryset(self) -> QuerySet[Run]:
        """All runs for the list, which takes a page of them; with all that belongs to them elsewhere."""
        if self.action == "list":
            return Run.objects.all()
        runs = Run.objects.select_related("set_up__car", "course", "log__bus")
        return runs.prefetch_related("flags", "measured", "split_rows", "edits__edited_by", "attachments__added_by")

    def with_rows(self, runs: QuerySet[Run]) -> QuerySet[Run]:
        """Runs with what a row of the list needs, in a fixed number of queries."""
        rows = Measured.objects.filter(name__in=HEADLINES).only("run_id", *HeadlineSerializer.Meta.fields)
        headlines = Prefetch("measured", rows, to_attr="headline_rows")
        return (
            runs.select_related("set_up__car", "course", "log")
            .defer("launch_ramps")
            .prefetch_related("flags", headlines)
        )

    def get_serializer_class(self) -> type[serializers.BaseSerializer[Run]]:
        """A row in the list, the whole run elsewhere."""
        return RunRowSerializer if self.action == "list" else RunSerializer

    @extend_schema(request=RunChangeSerializer, responses=RunSerializer)
    def partial_update(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        """Change conditions; every change is kept with who, when and the old value."""
        run = self.get_object()
        given = RunChangeSerializer(run, data=request.data, partial=True)
        given.is_valid(raise_exception=True)
        values = dict(given.validated_data)
        if "revision" not in values:
            raise serializers.ValidationError({"revision": ["Say which revision of the run this changes."]})
        revision = values.pop("revision")
        services.change_run(run, values, revision, cast(User, request.user))
        return self._sheet()

    @extend_schema(request=VoidSerializer, responses=RunSerializer)
    @action(detail=True, methods=["post"])
    def void(self, request: Request, pk: str | None = None) -> Response:
        """Void a run with a reason."""
        given = VoidSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        services.void_run(self.get_object(), **given.validated_data, person=cast(User, request.user))
        return self._sheet()

    @extend_schema(request=KeepSerializer, responses=RunSerializer)
    @action(detail=True, methods=["post"])
    def keep(self, request: Request, pk: str | None = None) -> Response:
        """Count a run again, or against a flag."""
        given = KeepSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        services.keep_run(self.get_object(), **given.validated_data, person=cast(User, request.user))
        return self._sheet()

    @extend_schema(request=PastedSerializer, responses=PastedAnswerSerializer)
    @action(detail=False, methods=["post"])
    def pasted(self, request: Request) -> Response:
        """Conditions pasted from a spreadsheet: a preview, or, with `write_down`, all of them written down or none."""
        given = PastedSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        asked = given.validated_data
        runs = list(Run.objects.filter(pk__in=asked["runs"]).select_related("course").order_by("start_utc"))
        found = filling.preview(asked["text"], runs, asked["fahrenheit"])
        if asked["write_down"]:
            try:
                filling.fill(found, runs, cast(User, request.user))
            except ValueError as error:
                raise serializers.ValidationError({"text": [str(error)]}) from None
        return Response(PastedAnswerSerializer(found).data)

    @extend_schema(responses=RetimingSerializer, filters=False)
    @action(detail=False, pagination_class=None, filterset_class=None)
    def retiming(self, request: Request) -> Response:
        """How many runs wait to be timed again, since something that they rest on has changed."""
        counts = {
            "waiting": Run.objects.filter(stale=True).count(),
            "failed": Run.objects.exclude(retiming_trouble="").count(),
        }
        return Response(RetimingSerializer(counts).data)

    @extend_schema(responses=CurveSerializer)
    @action(detail=True)
    def curve(self, request: Request, pk: str | None = None) -> Response:
        """The fixes and the fitted curve, for the charts."""
        run = self.get_object()
        fixes = read_columns(bytes(run.trace.fixes))
        fixes["since_s"] = fixes["elapsed_s"] - run.start_s
        fixes["east_m"], fixes["north_m"] = flat_track(fixes["latitude_deg"], fixes["longitude_deg"])
        shown = ("since_s", "speed_mps", "altitude_m", "east_m", "north_m")
        curve = read_columns(bytes(run.trace.curve))
        return Response(
            {
                "fixes": {name: _listed(fixes[name]) for name in shown},
                "curve": {name: _listed(column) for name, column in curve.items()},
            }
        )

    @extend_schema(parameters=[CorrectionAskSerializer], responses=CorrectedSerializer)
    @action(detail=True)
    def corrected(self, request: Request, pk: str | None = None) -> Response:
        """Times corrected to a level course, standard air or calm, as asked; the raw ones stay what they are."""
        asked = CorrectionAskSerializer(data=request.query_params)
        asked.is_valid(raise_exception=True)
        return Response(CorrectedSerializer(corrected_times(self.get_object(), **asked.validated_data)).data)

    @extend_schema(parameters=[NamedSerializer], responses=MeasuredSerializer(many=True))
    @action(detail=True, pagination_class=None, filterset_class=None)
    def named(self, request: Request, pk: str | None = None) -> Response:
        """Any interval that a person names, on each of its clocks; empty where the run did not reach it."""
        asked = NamedSerializer(data=request.query_params)
        asked.is_valid(raise_exception=True)
        run = self.get_object()
        try:
            rows = services.time_named(run, asked.validated_data["name"])
        except ValueError as error:
            raise serializers.ValidationError({"name": [str(error)]}) from None
        return Response(MeasuredSerializer([Measured.of(run, row) for row in rows], many=True).data)

    @extend_schema(parameters=[ReportSerializer], responses=WeatherSerializer)
    @action(detail=True)
    def weather(self, request: Request, pk: str | None = None) -> Response:
        """The conditions that a METAR line states, with the pressure at the height of the run."""
        asked = ReportSerializer(data=request.query_params)
        asked.is_valid(raise_exception=True)
        try:
            found = weather_of(self.get_object(), asked.validated_data["report"])
        except ValueError as error:
            raise serializers.ValidationError({"report": [f"This is {error}."]}) from None
        return Response(WeatherSerializer(found).data)

    @extend_schema(responses=PowerAnswerSerializer)
    @action(detail=True)
    def power(self, request: Request, pk: str | None = None) -> Response:
        """Wheel power against speed with what was assumed, and the pack's power from CAN data."""
        run = self.get_object()
        found = power_of(run)
        missing = "" if found else "Wheel power needs the car's test mass: write it down on the car's page."
        answer = {"power": found, "pack": pack_power_of(run), "missing": "" if run.kind == "stop" else missing}
        return Response(PowerAnswerSerializer(answer).data)

    @extend_schema(responses={(200, "application/octet-stream"): bytes})
    @action(detail=True, url_path="trace/(?P<file_format>csv|gpx|parquet)")
    def trace_file(self, request: Request, file_format: str, pk: str | None = None) -> HttpResponse:
        """The fixes near the run as a file."""
        run = self.get_object()
        return _file(exports.trace_as(run, file_format), exports.file_name(run, "trace", file_format), file_format)

    @extend_schema(responses={(200, "application/octet-stream"): bytes})
    @action(detail=True, url_path="measures/(?P<file_format>csv|json)")
    def measures_file(self, request: Request, file_format: str, pk: str | None = None) -> HttpResponse:
        """The run's measures as a file."""
        run = self.get_object()
        return _file(
            exports.measures_as(run, file_format), exports.file_name(run, "measures", file_format), file_format
        )

    def _sheet(self) -> Response:
        return Response(RunSerializer(self.get_object()).data)


def _file(data: bytes, name: str, file_format: str) -> HttpResponse:
    answer = HttpResponse(data, content_type=exports.MEDIA_TYPES[file_format])
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer


def _listed(column: NDArray[np.float64]) -> list[float | None]:
    """A column for JSON: four decimals, null for what a fix lacks."""
    return [None if np.isnan(value) else round(value, 4) for value in column.tolist()]


class TracksView(GenericAPIView[Course]):
    """The runs on a course."""

    queryset = Course.objects.all()
    pagination_class = None

    @extend_schema(responses=TrackSerializer(many=True))
    def get(self, request: Request, pk: int) -> Response:
        """The ways that the latest runs took over this course."""
        return Response(TrackSerializer(tracks(self.get_object()), many=True).data)

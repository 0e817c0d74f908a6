"""Logs and runs over the API."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Any, cast

import numpy as np
from django.db.models import QuerySet
from django.http import Http404, HttpResponse
from drf_spectacular.utils import extend_schema
from numpy.typing import NDArray
from rest_framework import mixins, serializers, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.models import User
from config.errors import Conflict, at_field
from config.pagination import NarrowPages
from config.revisions import STALE
from coombe_core.formats.parquet import read_columns
from coombe_core.physics.course import flat_track
from coombe_core.wording.changes import many_runs_sentence
from runs import exports, filling, services, together
from runs.beside import beside
from runs.can_logs import battery_power_of
from runs.filters import RunFilter
from runs.intervals import time_named
from runs.models import Measured, Run
from runs.physics import corrected_times, power_of, weather_of
from runs.question_serializers import written
from runs.questions import about_run, questions_about
from runs.rows import run_rows
from runs.serializers import (
    ConditionsSerializer,
    KeepSerializer,
    MeasuredSerializer,
    RunChangedSerializer,
    RunChangeSerializer,
    RunRowSerializer,
    RunSerializer,
    VoidSerializer,
)
from runs.sheet_serializers import (
    BesideSerializer,
    CorrectedSerializer,
    CorrectionAskSerializer,
    CurveSerializer,
    NamedSerializer,
    PastedAnswerSerializer,
    PastedSerializer,
    PowerAnswerSerializer,
    ReportSerializer,
    RetimingSerializer,
    WeatherSerializer,
)
from runs.spreadsheet import workbook_of
from runs.together_serializers import (
    ChangedManySerializer,
    ChangeEachSerializer,
    ChangeManySerializer,
    RunIdsSerializer,
)

ANSWERED_BY_SHEET = ("retrieve", "partial_update", "void", "keep")


def _asked_runs(rows: list[dict[str, int]]) -> list[Run]:
    """The runs that a change names. Raises Conflict where one is gone, or is at another revision than was read."""
    found = {
        run.pk: run
        for run in Run.objects.filter(pk__in=[row["id"] for row in rows]).select_related("setup__car", "course")
    }
    gone = [row["id"] for row in rows if row["id"] not in found]
    if gone:
        raise Conflict(f"{len(gone)} of the {len(rows)} runs were deleted in the meantime. Nothing was changed.")
    if any(row.get("revision", found[row["id"]].revision) != found[row["id"]].revision for row in rows):
        raise Conflict(STALE)
    return [found[row["id"]] for row in rows]


def _changed_many(runs: list[Run], effects: list[together.Effect]) -> dict[str, Any]:
    unchanged, retimed = len(runs) - len(effects), sum(effect.retimes for effect in effects)
    compared = services.comparisons_of([effect.run for effect in effects])
    return {
        "sentence": many_runs_sentence(len(effects), unchanged, retimed, compared),
        "changed": len(effects),
        "unchanged": unchanged,
        "retimed": retimed,
        "effects": [
            {
                "id": effect.run.pk,
                "revision": effect.run.revision,
                "start_utc": effect.run.start_utc,
                "start_local": effect.run.start_local,
                "name": str(effect.run),
                "fields_changed": [
                    {"name": name, "old": together.shown(old), "new": together.shown(new)}
                    for name, (old, new) in effect.fields.items()
                ],
            }
            for effect in effects
        ],
        "questions": questions_about(effects),
    }


class RunViewSet(
    mixins.ListModelMixin, mixins.RetrieveModelMixin, mixins.UpdateModelMixin, viewsets.GenericViewSet[Run]
):
    """Runs: list, one sheet, its curve, change its conditions, void it or keep it."""

    filterset_class = RunFilter
    pagination_class = NarrowPages
    http_method_names = ["get", "patch", "post", "head", "options"]

    def get_queryset(self) -> QuerySet[Run]:
        """All runs for the list, which takes a page of them; with all that a sheet shows where one is answered."""
        if self.action == "list":
            return Run.objects.all()
        runs = Run.objects.select_related("setup__car", "course", "log__can_log")
        if self.action not in ANSWERED_BY_SHEET:
            return runs
        return runs.prefetch_related("flags", "measured", "split_rows", "attachments__added_by")

    def rows_of(self, keys: Collection[int]) -> Mapping[int, Any]:
        """The runs of a page of the list."""
        return run_rows(keys)

    def get_serializer_class(self) -> type[serializers.BaseSerializer[Run]]:
        """A row in the list, the whole run elsewhere."""
        return RunRowSerializer if self.action == "list" else RunSerializer

    @extend_schema(request=RunChangeSerializer, responses=RunChangedSerializer)
    def partial_update(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        """Change conditions, kept with who, when and the old value; the answer asks about what looks like a slip."""
        run = self.get_object()
        given = RunChangeSerializer(run, data=request.data, partial=True)
        given.is_valid(raise_exception=True)
        values = dict(given.validated_data)
        if "revision" not in values:
            raise serializers.ValidationError({"revision": ["Say which revision of the run this changes."]})
        revision = values.pop("revision")
        asked = about_run(run, values)
        services.change_run(run, values, revision, cast(User, request.user))
        return Response({**RunSerializer(self.get_object()).data, "questions": written(asked)})

    @extend_schema(responses=ConditionsSerializer)
    @action(detail=True)
    def previous(self, request: Request, pk: str | None = None) -> Response:
        """The conditions of the run of the same car before this one; 404 where there is none."""
        run = self.get_object()
        before = Run.objects.filter(setup__car=run.setup.car_id, start_utc__lt=run.start_utc).first()
        if before is None:
            raise Http404
        return Response(ConditionsSerializer(before).data)

    @extend_schema(responses=BesideSerializer)
    @action(detail=True)
    def beside(self, request: Request, pk: str | None = None) -> Response:
        """The runs before and after it, the best of its setup, and the density altitude it was driven at."""
        return Response(BesideSerializer(beside(self.get_object())).data)

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

    @extend_schema(responses=RunIdsSerializer, filters=True)
    @action(detail=False, pagination_class=None)
    def ids(self, request: Request) -> Response:
        """The numbers of all runs that the filters leave, as for one change of all of them."""
        runs = self.filter_queryset(self.get_queryset()).order_by("-start_utc", "-id")
        return Response(RunIdsSerializer({"ids": runs.values_list("pk", flat=True)}).data)

    @extend_schema(request=ChangeManySerializer, responses=ChangedManySerializer)
    @action(detail=False, methods=["post"], url_path="change-many")
    def change_many(self, request: Request) -> Response:
        """One change of many runs: a preview, or, with `apply`, all of it as one action."""
        given = ChangeManySerializer(data=request.data)
        given.is_valid(raise_exception=True)
        asked = given.validated_data
        runs = _asked_runs(asked["runs"])
        found = together.effects(runs, asked["changes"])
        if asked["apply"]:
            together.change(found, cast(User, request.user))
        return Response(ChangedManySerializer(_changed_many(runs, found)).data)

    @extend_schema(request=ChangeEachSerializer, responses=ChangedManySerializer)
    @action(detail=False, methods=["post"], url_path="change-each")
    def change_each(self, request: Request) -> Response:
        """Changes of several runs, each its own, as one action."""
        given = ChangeEachSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        rows = given.validated_data["runs"]
        runs = _asked_runs(rows)
        pairs = zip(runs, rows, strict=True)
        found = [effect for run, row in pairs for effect in together.effects([run], row["changes"])]
        together.change(found, cast(User, request.user))
        return Response(ChangedManySerializer(_changed_many(runs, found)).data)

    @extend_schema(request=PastedSerializer, responses=PastedAnswerSerializer)
    @action(detail=False, methods=["post"])
    def conditions(self, request: Request) -> Response:
        """Conditions pasted from a spreadsheet: a preview, or, with `apply`, all of them recorded or none."""
        given = PastedSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        asked = given.validated_data
        runs = list(Run.objects.filter(pk__in=asked["runs"]).select_related("course", "setup").order_by("start_utc"))
        found = filling.preview(asked["text"], runs, asked["fahrenheit"])
        questions = filling.questions(found, runs)
        if asked["apply"]:
            with at_field("text"):
                filling.fill(found, runs, cast(User, request.user))
        rows = [{**vars(row), "questions": each} for row, each in zip(found.rows, questions, strict=True)]
        return Response(PastedAnswerSerializer({"rows": rows, "doubts": found.doubts}).data)

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
    @action(detail=True, url_path="corrected-times")
    def corrected(self, request: Request, pk: str | None = None) -> Response:
        """Times corrected to a level course, standard air or calm, as asked; uncorrected ones stay as they are."""
        asked = CorrectionAskSerializer(data=request.query_params)
        asked.is_valid(raise_exception=True)
        return Response(CorrectedSerializer(corrected_times(self.get_object(), **asked.validated_data)).data)

    @extend_schema(parameters=[NamedSerializer], responses=MeasuredSerializer(many=True))
    @action(detail=True, pagination_class=None, filterset_class=None)
    def measure(self, request: Request, pk: str | None = None) -> Response:
        """Any interval that a person names, on each of its clocks; empty where the run did not reach it."""
        asked = NamedSerializer(data=request.query_params)
        asked.is_valid(raise_exception=True)
        run = self.get_object()
        with at_field("name"):
            rows = time_named(run, asked.validated_data["name"])
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
        """Wheel power against speed with what was assumed, and the battery's power from CAN data."""
        run = self.get_object()
        found = power_of(run)
        missing = "" if found else "Wheel power needs the car's test mass: enter it on the car's page."
        answer = {"power": found, "battery": battery_power_of(run), "missing": "" if run.kind == "stop" else missing}
        return Response(PowerAnswerSerializer(answer).data)

    @extend_schema(responses={(200, "application/octet-stream"): bytes})
    @action(detail=True, url_path="trace/(?P<file_format>csv|gpx|parquet)")
    def trace_file(self, request: Request, file_format: str, pk: str | None = None) -> HttpResponse:
        """The fixes near the run as a file."""
        run = self.get_object()
        return exports.as_file(
            exports.trace_as(run, file_format), exports.file_name(run, "trace", file_format), file_format
        )

    @extend_schema(responses={(200, "application/octet-stream"): bytes})
    @action(detail=True, url_path="measures/(?P<file_format>csv|json)")
    def measures_file(self, request: Request, file_format: str, pk: str | None = None) -> HttpResponse:
        """The run's measures as a file."""
        run = self.get_object()
        return exports.as_file(
            exports.measures_as(run, file_format), exports.file_name(run, "measures", file_format), file_format
        )

    @extend_schema(responses={(200, exports.MEDIA_TYPES["xlsx"]): bytes})
    @action(detail=False, pagination_class=None)
    def spreadsheet(self, request: Request) -> HttpResponse:
        """The runs that the list's filters leave, with all their measures, as a spreadsheet."""
        runs = self.filter_queryset(Run.objects.select_related("setup__car", "course", "log"))
        return exports.as_file(workbook_of(runs), "runs.xlsx", "xlsx")

    def _sheet(self) -> Response:
        return Response(RunSerializer(self.get_object()).data)


def _listed(column: NDArray[np.float64]) -> list[float | None]:
    """A column for JSON: four decimals, null for what a fix lacks."""
    return [None if np.isnan(value) else round(value, 4) for value in column.tolist()]

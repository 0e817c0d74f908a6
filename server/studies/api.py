"""Studies, own measures and the table of all cars over the API."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.db.models import QuerySet
from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import mixins, serializers, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from config.errors import at_field
from config.revisions import locked
from coombe_core.timing.measures import parse_measure
from history.viewsets import KeepsHistory
from runs.models import ClockName
from studies import all_cars, exports
from studies.models import LeftOut, OwnMeasure, OwnValue, Study, TableView
from studies.serializers import (
    OwnMeasureSerializer,
    OwnValueSerializer,
    StudyAskSerializer,
    StudyChangeSerializer,
    StudyResultSerializer,
    StudyRowSerializer,
    StudySerializer,
    TableViewSerializer,
)
from studies.services import answer, keep

MOST_MEASURES = 24


class StudyViewSet(
    KeepsHistory[Study],
    mixins.CreateModelMixin,
    mixins.ListModelMixin,
    mixins.RetrieveModelMixin,
    mixins.DestroyModelMixin,
):
    """Saved studies; their results are computed whenever they are read."""

    filterset_fields = ["kind", "series__car"]
    http_method_names = ["get", "post", "patch", "delete", "head", "options"]  # another question is another study

    def get_queryset(self) -> QuerySet[Study]:
        """The studies, the latest first."""
        return Study.objects.select_related("created_by", "log").distinct()

    def get_serializer_class(self) -> type[serializers.BaseSerializer[Any]]:
        """A row in the list, everything elsewhere."""
        return StudyRowSerializer if self.action == "list" else StudySerializer

    def perform_create(self, serializer: serializers.BaseSerializer[Study]) -> None:
        """Save, once it is sure that measure and clock fit."""
        with at_field("measure"):
            serializer.save(created_by=self.request.user)

    @extend_schema(request=StudyChangeSerializer, responses=StudySerializer)
    def partial_update(self, request: Request, pk: str | None = None) -> Response:
        """Give it another title, or leave other runs out."""
        study = self.get_object()
        given = StudyChangeSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        values = given.validated_data
        with self.acting(self.change_title(study), study), transaction.atomic():
            study = locked(study, values["revision"])
            study.title = values.get("title", study.title)
            study.revision += 1
            study.save(update_fields=["title", "revision"])
            if "left_out" in values:
                study.left_out.all().delete()
                LeftOut.objects.bulk_create(LeftOut(study=study, **row) for row in values["left_out"])
        return Response(StudySerializer(study).data)

    @extend_schema(request=StudyAskSerializer, responses=StudyResultSerializer)
    @action(detail=False, methods=["post"])
    def preview(self, request: Request) -> Response:
        """Make a study without saving it."""
        given = StudyAskSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        with at_field("measure"):
            result = answer(given.validated_data)
        return Response(StudyResultSerializer(result).data)

    @extend_schema(request=None, responses=StudySerializer)
    @action(detail=True, methods=["post"])
    def refresh(self, request: Request, pk: str | None = None) -> Response:
        """Save the result of today's runs and core in place of the one saved before."""
        study = self.get_object()
        keep(study)
        return Response(StudySerializer(study).data)

    @extend_schema(responses={(200, "application/octet-stream"): OpenApiTypes.BINARY})
    @action(detail=True, url_path="export/(?P<file_format>csv|json)", url_name="export")
    def export(self, request: Request, file_format: str, pk: str | None = None) -> HttpResponse:
        """The study as CSV or JSON."""
        study = self.get_object()
        write = exports.as_csv if file_format == "csv" else exports.as_json
        named = {"Content-Disposition": f'attachment; filename="study-{study.pk}.{file_format}"'}
        data = write(dict(StudySerializer(study).data))
        return HttpResponse(data, content_type=exports.MEDIA_TYPES[file_format], headers=named)


class OwnMeasureViewSet(KeepsHistory[OwnMeasure], viewsets.ModelViewSet[OwnMeasure]):
    """What Coombe does not measure itself."""

    queryset = OwnMeasure.objects.all()
    serializer_class = OwnMeasureSerializer


class OwnValueViewSet(KeepsHistory[OwnValue], viewsets.ModelViewSet[OwnValue]):
    """Values of own measures."""

    queryset = OwnValue.objects.select_related("measure", "setup__car")
    serializer_class = OwnValueSerializer
    filterset_fields = ["measure", "setup", "setup__car", "run"]


class TableViewViewSet(KeepsHistory[TableView], viewsets.ModelViewSet[TableView]):
    """Saved views of the table of all cars."""

    queryset = TableView.objects.select_related("created_by")
    serializer_class = TableViewSerializer

    def perform_create(self, serializer: serializers.BaseSerializer[TableView]) -> None:
        """Whoever saved it may delete it."""
        serializer.save(created_by=self.request.user)


class ClaimSerializer(serializers.Serializer[Any]):
    """What the maker says."""

    measure = serializers.CharField()
    clock = serializers.CharField()
    value_s = serializers.FloatField()
    source = serializers.CharField()  # type: ignore[assignment]  # a name that DRF uses too


class CarValueSerializer(serializers.Serializer[Any]):
    """A measure of a setup: mean with u95, best, and from how many runs; `alike` where other setups have the same."""

    mean = serializers.FloatField()
    u95 = serializers.FloatField(allow_null=True)
    best = serializers.FloatField()
    n = serializers.IntegerField()
    kind = serializers.CharField()
    unit = serializers.CharField()
    alike = serializers.BooleanField()


class AllCarsRowSerializer(serializers.Serializer[Any]):
    """A setup with what is fitted, what is claimed, and its values by `measure|clock` or `own|number`."""

    setup = serializers.IntegerField()
    setup_name = serializers.CharField()
    car = serializers.IntegerField()
    car_name = serializers.CharField()
    maker = serializers.CharField()
    model_year = serializers.IntegerField(allow_null=True)
    drive_layout = serializers.CharField()
    body = serializers.CharField()
    software_version = serializers.CharField()
    tires = serializers.CharField()
    wheel_diameter_in = serializers.FloatField(allow_null=True)
    wheel_mass_kg = serializers.FloatField(allow_null=True)
    test_mass_kg = serializers.FloatField(allow_null=True)
    power_kw = serializers.FloatField(allow_null=True)
    mass_per_power_kg_per_kw = serializers.FloatField(allow_null=True)
    battery_kwh = serializers.FloatField(allow_null=True)
    claims = ClaimSerializer(many=True)
    values = serializers.DictField(child=CarValueSerializer())


class AllCarsView(APIView):
    """Every setup of every car."""

    @extend_schema(
        operation_id="all_cars_list",
        parameters=[
            OpenApiParameter("measures", str, description="measure|clock, apart by commas; the usual ones if empty")
        ],
        responses=AllCarsRowSerializer(many=True),
    )
    def get(self, request: Request) -> Response:
        """The table."""
        asked = request.query_params.get("measures", "")
        names = tuple(dict.fromkeys(filter(None, asked.split(",")))) if asked else all_cars.USUAL
        return Response(all_cars.rows_of(_checked(names), all_cars.version()))


def _checked(names: tuple[str, ...]) -> tuple[str, ...]:
    if len(names) > MOST_MEASURES:
        raise serializers.ValidationError({"measures": [f"At most {MOST_MEASURES} measures."]})
    for each in names:
        name, _, clock = each.partition("|")
        if clock not in ClockName.values:
            raise serializers.ValidationError(
                {"measures": [f"Write measure|clock, such as 0-60 mph|rollout, not {each[:40]}."]}
            )
        with at_field("measures"):
            parse_measure(name)
    return names

"""Comparisons over the API."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict
from typing import Any, TypeVar, cast

from django.db.models import QuerySet
from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import mixins, serializers
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.models import User
from comparisons import exports
from comparisons.candidates import BANDS, WORDS, Filter, candidates
from comparisons.details import details
from comparisons.gathering import Question
from comparisons.models import Comparison
from comparisons.packaging import package_of
from comparisons.result_serializers import DetailsSerializer, ResultSerializer
from comparisons.saved import ask
from comparisons.serializers import (
    AskSerializer,
    CandidatesAskSerializer,
    CandidatesSerializer,
    ComparisonRowSerializer,
    ComparisonSerializer,
    PackageAskSerializer,
    TitleSerializer,
    keep,
)
from comparisons.services import answer
from config.errors import Failure, at_field
from config.metrics import COMPARING
from coombe_core.timing.measures import parse_measure
from history.viewsets import KeepsHistory

Made = TypeVar("Made")


class ComparisonViewSet(
    KeepsHistory[Comparison],
    mixins.CreateModelMixin,
    mixins.ListModelMixin,
    mixins.RetrieveModelMixin,
    mixins.DestroyModelMixin,
):
    """Saved comparisons, and comparing without saving."""

    READS = ("preview", "details")

    def get_queryset(self) -> QuerySet[Comparison]:
        """All, newest first."""
        return Comparison.objects.select_related("created_by")

    def get_serializer_class(self) -> type[serializers.BaseSerializer[Any]]:
        """A row in the list, everything elsewhere."""
        return ComparisonRowSerializer if self.action == "list" else ComparisonSerializer

    def perform_create(self, serializer: serializers.BaseSerializer[Comparison]) -> None:
        """Save, once it is sure that the comparison can be made."""
        with at_field("measure"):
            Question.of(serializer.validated_data)
            serializer.save(created_by=self.request.user)

    @extend_schema(request=TitleSerializer, responses=ComparisonRowSerializer)
    def partial_update(self, request: Request, pk: str | None = None) -> Response:
        """Give it another title; other groups or another measure are another comparison."""
        comparison = self.get_object()
        given = TitleSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        with self.acting(self.change_title(comparison), comparison):
            comparison.title = given.validated_data["title"]
            comparison.save(update_fields=["title"])
        return Response(ComparisonRowSerializer(comparison).data)

    @extend_schema(request=AskSerializer, responses=ResultSerializer)
    @action(detail=False, methods=["post"])
    def preview(self, request: Request) -> Response:
        """Compare without saving."""
        asked = _asked(request)
        with at_field("measure"), COMPARING.labels("verdict").time():
            found = answer(Question.of(asked))
        return Response(ResultSerializer(found).data)

    @extend_schema(parameters=[CandidatesAskSerializer], responses=CandidatesSerializer, filters=False)
    @action(detail=False, pagination_class=None)
    def candidates(self, request: Request) -> Response:
        """The runs that a group can be chosen from, and what filters offer."""
        given = CandidatesAskSerializer(data=request.query_params)
        given.is_valid(raise_exception=True)
        asked = given.validated_data
        ends = {name: (asked.get(f"{name}_from"), asked.get(f"{name}_to")) for name in BANDS}
        bands = {name: both for name, both in ends.items() if both != (None, None)}
        wanted = Filter({name: asked[name] for name in WORDS if name in asked}, bands)
        found = candidates(parse_measure(asked["measure"]), asked["clock"], asked["quantity"], asked["car"], wanted)
        return Response(asdict(found))  # thousands of rows: as they stand

    @extend_schema(request=AskSerializer, responses=DetailsSerializer)
    @action(detail=False, methods=["post"])
    def details(self, request: Request) -> Response:
        """Curves, gaps, other measures and projections of what is asked."""
        asked = _asked(request)
        with at_field("measure"), COMPARING.labels("details").time():
            found = details(Question.of(asked))
        return Response(DetailsSerializer(found).data)

    @extend_schema(request=None, responses=ComparisonSerializer)
    @action(detail=True, methods=["post"])
    def refresh(self, request: Request, pk: str | None = None) -> Response:
        """Save the result of today's runs and core in place of the one saved before."""
        comparison = self.get_object()
        _still_fitting(lambda: keep(comparison))
        return Response(_still_fitting(lambda: ComparisonSerializer(comparison).data))

    def retrieve(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        """The comparison with its result, computed anew."""
        comparison = self.get_object()
        with COMPARING.labels("verdict").time():
            return Response(_still_fitting(lambda: ComparisonSerializer(comparison).data))

    @extend_schema(responses={(200, "application/octet-stream"): OpenApiTypes.BINARY})
    @action(detail=True, url_path="export/(?P<file_format>csv|json)", url_name="export")
    def export(self, request: Request, file_format: str, pk: str | None = None) -> HttpResponse:
        """The comparison as CSV or JSON."""
        comparison = self.get_object()
        write = exports.as_csv if file_format == "csv" else exports.as_json
        data = _still_fitting(lambda: write(comparison.title, answer(ask(comparison))))
        named = {"Content-Disposition": f'attachment; filename="comparison-{comparison.pk}.{file_format}"'}
        return HttpResponse(data, content_type=exports.MEDIA_TYPES[file_format], headers=named)

    @extend_schema(
        parameters=[PackageAskSerializer], responses={(200, "application/zip"): OpenApiTypes.BINARY}, filters=False
    )
    @action(detail=True)
    def package(self, request: Request, pk: str | None = None) -> HttpResponse:
        """A data package with the logs, which `coombe verify` works out again."""
        comparison = self.get_object()
        asked = PackageAskSerializer(data=request.query_params)
        asked.is_valid(raise_exception=True)
        person = cast(User, request.user).username
        data = _still_fitting(
            lambda: package_of(comparison.title, [comparison], person, asked.validated_data["license"])
        )
        named = {"Content-Disposition": f'attachment; filename="comparison-{comparison.pk}.zip"'}
        return HttpResponse(data, content_type="application/zip", headers=named)


def _asked(request: Request) -> dict[str, Any]:
    given = AskSerializer(data=request.data)
    given.is_valid(raise_exception=True)
    return dict(given.validated_data)


def _still_fitting(make: Callable[[], Made]) -> Made:
    """Make something of a saved comparison; where its runs or its measure do not allow it any more, say so."""
    try:
        return make()
    except ValueError as error:
        message = f"This comparison can no longer be made: {error}. Choose its runs again, or delete it."
        raise Failure(409, message, "no_longer_fits") from None

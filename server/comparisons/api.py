"""Comparisons over the API."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema
from rest_framework import mixins, serializers, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from comparisons.models import ArmName, Comparison
from comparisons.serializers import AskSerializer, ComparisonRowSerializer, ComparisonSerializer, ResultSerializer
from comparisons.services import compare_runs, load_arms


class ComparisonViewSet(
    mixins.CreateModelMixin,
    mixins.ListModelMixin,
    mixins.RetrieveModelMixin,
    mixins.DestroyModelMixin,
    viewsets.GenericViewSet[Comparison],
):
    """Saved comparisons, and comparing without saving."""

    def get_queryset(self) -> QuerySet[Comparison]:
        """All, newest first."""
        return Comparison.objects.select_related("created_by")

    def get_serializer_class(self) -> type[serializers.BaseSerializer[Any]]:
        """A row in the list, everything elsewhere."""
        return ComparisonRowSerializer if self.action == "list" else ComparisonSerializer

    def perform_create(self, serializer: serializers.BaseSerializer[Comparison]) -> None:
        """Save, once it is sure that the comparison can be made."""
        asked = serializer.validated_data
        _compare(asked)
        with transaction.atomic():
            serializer.save(created_by=self.request.user)

    @extend_schema(request=AskSerializer, responses=ResultSerializer)
    @action(detail=False, methods=["post"])
    def preview(self, request: Request) -> Response:
        """Compare without saving."""
        given = AskSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        return Response(ResultSerializer(_compare(given.validated_data)).data)


def _compare(asked: dict[str, Any]) -> dict[str, Any]:
    arms = load_arms({arm: asked[arm] for arm in ArmName.values})
    try:
        return compare_runs(asked["measure"], asked["clock"], asked["quantity"], arms)
    except ValueError as error:
        raise serializers.ValidationError({"measure": [str(error)]}) from None

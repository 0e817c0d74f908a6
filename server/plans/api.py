"""Plans over the API."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, viewsets
from rest_framework.decorators import action
from rest_framework.generics import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response

from cars.models import Car
from config.errors import at_field
from history.viewsets import KeepsHistory
from plans.models import Plan
from plans.serializers import AdviceSerializer, PlanAskSerializer, PlanRowSerializer, PlanSerializer
from plans.services import advise, with_progress, without_baseline


class ReminderAskSerializer(serializers.Serializer[Any]):
    """Of which car."""

    car = serializers.IntegerField()


class ReminderSerializer(serializers.Serializer[Any]):
    """An open question without a baseline."""

    plan = serializers.IntegerField()
    question = serializers.CharField()
    sentence = serializers.CharField()


class PlanViewSet(KeepsHistory[Plan], viewsets.ModelViewSet[Plan]):
    """The questions and how they are to be answered."""

    READS = ("advice",)

    filterset_fields = ["car"]

    def get_queryset(self) -> QuerySet[Plan]:
        """All, newest first."""
        plans = Plan.objects.select_related("car", "course", "created_by").prefetch_related("groups__setup", "days")
        return with_progress(plans) if self.action == "list" else plans

    def get_serializer_class(self) -> type[serializers.BaseSerializer[Any]]:
        """A row in the list, everything elsewhere."""
        return PlanRowSerializer if self.action == "list" else PlanSerializer

    def perform_create(self, serializer: serializers.BaseSerializer[Plan]) -> None:
        """Saved under the name of whoever asks."""
        serializer.save(created_by=self.request.user)

    @extend_schema(request=PlanAskSerializer, responses=AdviceSerializer)
    @action(detail=False, methods=["post"])
    def advice(self, request: Request) -> Response:
        """What a plan would say about itself, without saving it; a strip that is too short is reported, not refused."""
        given = PlanAskSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        asked = dict(given.validated_data)
        groups = [group["name"] for group in asked.pop("groups")]
        with at_field("measure"):
            report = advise(Plan(**asked), groups)
        return Response(AdviceSerializer(report).data)

    @extend_schema(parameters=[ReminderAskSerializer], responses=ReminderSerializer(many=True), filters=False)
    @action(detail=False, pagination_class=None)
    def reminders(self, request: Request) -> Response:
        """Questions of a car that have no valid baseline yet: change nothing on it before they have."""
        asked = ReminderAskSerializer(data=request.query_params)
        asked.is_valid(raise_exception=True)
        car = get_object_or_404(Car, pk=asked.validated_data["car"])
        rows = [
            {"plan": plan.pk, "question": plan.question, "sentence": sentence}
            for plan, sentence in without_baseline(car)
        ]
        return Response(ReminderSerializer(rows, many=True).data)

"""Questions about what a person enters, asked while they type."""

from __future__ import annotations

from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from runs.models import Run
from runs.question_serializers import AskedSerializer, written
from runs.questions import about_run, about_thing

NUMBERS = (
    *("charge_before_percent", "charge_after_percent", "battery_temp_before_c", "battery_temp_after_c"),
    *("outside_temp_c", "load_kg", "test_mass_kg", "tire_pressure_kpa", "tire_pressure_hot_kpa"),
)


class EnteredSerializer(serializers.Serializer[Any]):
    """Values of a form, in SI, not yet stored: those that somebody may be asked about. Any number is taken."""

    def get_fields(self) -> dict[str, serializers.Field[Any, Any, Any, Any]]:
        """Every number, and the dates."""
        numbers = {name: serializers.FloatField(required=False, allow_null=True) for name in NUMBERS}
        dates = {name: serializers.DateField(required=False, allow_null=True) for name in ("since", "day")}
        return {**numbers, **dates}


class QuestionsAskSerializer(serializers.Serializer[Any]):
    """What is entered; for a run that is there, its number."""

    run = serializers.IntegerField(required=False, allow_null=True)
    values = EnteredSerializer()


class QuestionsView(APIView):
    """Questions."""

    @extend_schema(operation_id="questions_ask", request=QuestionsAskSerializer, responses=AskedSerializer(many=True))
    def post(self, request: Request) -> Response:
        """What to ask about values before they are stored; nothing is refused, and nothing is changed."""
        given = QuestionsAskSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        values, run = given.validated_data["values"], given.validated_data.get("run")
        asked = about_thing(values) if run is None else about_run(_run(run), values)
        return Response(written(asked))


def _run(number: int) -> Run:
    return get_object_or_404(Run.objects.select_related("setup"), pk=number)

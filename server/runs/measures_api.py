"""What can be measured, parsed: so that no page reads the names of measures itself."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from config.fields import MeasureField
from coombe_core.timing.measures import STANDARD_MEASURES, parse_measure
from runs.models import ClockName

BASES = ("speed", "distance", "stop")


class MeasureSerializer(serializers.Serializer[Any]):
    """A measure: between two speeds, over a distance, or a stop, and the clocks that time it."""

    name = serializers.CharField()
    basis = serializers.ChoiceField(choices=BASES)
    from_rest = serializers.BooleanField()
    clocks = serializers.ListField(child=serializers.ChoiceField(choices=ClockName.choices))


class MeasureAskSerializer(serializers.Serializer[Any]):
    """Any measure by its name; none asks for those that every run lists."""

    name = MeasureField(required=False)


class MeasuresView(APIView):
    """Measures."""

    @extend_schema(
        operation_id="measures_list", parameters=[MeasureAskSerializer], responses=MeasureSerializer(many=True)
    )
    def get(self, request: Request) -> Response:
        """The measures that every run lists, or the one that is named."""
        asked = MeasureAskSerializer(data=request.query_params)
        asked.is_valid(raise_exception=True)
        name = asked.validated_data.get("name")
        found = [parse_measure(name)] if name else STANDARD_MEASURES
        return Response(MeasureSerializer(found, many=True).data)

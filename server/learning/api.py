"""What is known of a car from its own runs, over the API."""

from __future__ import annotations

import math
from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework.generics import GenericAPIView
from rest_framework.request import Request
from rest_framework.response import Response

from cars.models import Car
from config.errors import at_field
from coombe_core.learned import Bounded, Learned
from coombe_core.wording.sources import learned_source
from courses.models import Course
from learning import services, strip
from learning.serializers import BatteryModelSerializer, StripAskSerializer, StripCheckSerializer


class BatteryModelView(GenericAPIView[Car]):
    """The battery model of a car."""

    queryset = Car.objects.all()
    pagination_class = None

    @extend_schema(responses=BatteryModelSerializer)
    def get(self, request: Request, pk: int) -> Response:
        """What this car's readings show of its battery, and what is assumed."""
        car = self.get_object()
        heat = services.battery_heat(car)
        model = {
            "time_constant_min": _bounded(heat.time_constant_min, heat.loss_per_min),
            "heating_k_per_min": _learned(heat.heating_k_per_min),
            "charge_share": _learned(services.charge_curve(car).share),
            "charge_per_run_percent": _learned(services.charge_per_run(car)),
        }
        return Response(BatteryModelSerializer(model).data)


class StripCheckView(GenericAPIView[Course]):
    """A car's run to a target on a course."""

    queryset = Course.objects.all()
    pagination_class = None

    @extend_schema(parameters=[StripAskSerializer], responses=StripCheckSerializer)
    def get(self, request: Request, pk: int) -> Response:
        """Whether a run fits the strip: pull, reaction, stop and a margin against its length and runout."""
        given = StripAskSerializer(data=request.query_params)
        given.is_valid(raise_exception=True)
        asked = given.validated_data
        course, car = self.get_object(), get_object_or_404(Car, pk=asked["car"])
        with at_field("target"):
            checked = strip.check(course, car, asked["target"], asked.get("outside_temp_c"), asked["tire_season"])
        return Response(StripCheckSerializer(strip.as_json(checked)).data)


def _learned(learned: Learned) -> dict[str, Any]:
    value, half = learned.value, learned.u95
    return _bounded(Bounded(value, max(value - half, 0.0), value + half), learned)


def _bounded(bounded: Bounded, learned: Learned) -> dict[str, Any]:
    high = bounded.high95 if math.isfinite(bounded.high95) else None
    ends = {"low95": bounded.low95, "high95": high}
    return {"value": bounded.value, **ends, "learned_from": learned_source(learned), "assumed": learned.assumed}

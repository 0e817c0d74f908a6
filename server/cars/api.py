"""Cars, setups, claims and battery readings over the API."""

from __future__ import annotations

from typing import Any, cast

from django.db.models import Count, OuterRef, Prefetch, QuerySet, Subquery
from django.db.models.functions import Coalesce
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import mixins, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from cars.models import BatteryInterval, Car, ManufacturerClaim, Setup
from cars.serializers import (
    BatteryIntervalSerializer,
    CarNameSerializer,
    CarSerializer,
    DifferenceAskSerializer,
    ManufacturerClaimSerializer,
    SetupDifferenceSerializer,
    SetupSerializer,
)
from coombe_core.physics.wheels import wheel_change
from coombe_core.wording.wheels import wheels_sentence
from history.viewsets import KeepsHistory

NOT_COMPARED = {"id", "car", "name", "since", "change", "change_note", "confirmed_by", "price", "currency", "can_undo"}


def counted_setups() -> QuerySet[Setup]:
    """Setups with the number of their runs."""
    runs = Setup._meta.get_field("runs").related_model._base_manager.filter(setup=OuterRef("pk")).order_by()
    counted = Subquery(runs.values("setup").annotate(count=Count("pk")).values("count"))
    return Setup.objects.annotate(run_count=Coalesce(counted, 0)).order_by("car", "since", "id")


class CarViewSet(KeepsHistory[Car], viewsets.ModelViewSet[Car]):
    """The cars."""

    serializer_class = CarSerializer

    def get_queryset(self) -> QuerySet[Car]:
        """Cars with their claims and counted setups, in four queries."""
        return Car.objects.prefetch_related(Prefetch("setups", counted_setups()), "claims", "charge_points")

    @extend_schema(responses=CarNameSerializer(many=True), filters=False)
    @action(detail=False, pagination_class=None)
    def names(self, request: Request) -> Response:
        """Every car by name: what a choice of cars needs, in one query."""
        return Response(list(Car.objects.order_by("name", "id").values("id", "name")))

    @extend_schema(
        parameters=[DifferenceAskSerializer],
        responses=SetupDifferenceSerializer,
    )
    @action(detail=True, url_path="setup-difference")
    def difference(self, request: Request, pk: str) -> Response:
        """Any two setups of this car, field by field."""
        car = self.get_object()
        asked = DifferenceAskSerializer(data=request.query_params)
        asked.is_valid(raise_exception=True)
        before, after = (get_object_or_404(car.setups, pk=asked.validated_data[group]) for group in ("before", "after"))
        return Response(SetupDifferenceSerializer(_difference(car, before, after)).data)


def _difference(car: Car, before: Setup, after: Setup) -> dict[str, Any]:
    differing = [
        {"name": field.name, "before": _written(old), "after": _written(new)}
        for field in Setup._meta.concrete_fields
        if field.name not in NOT_COMPARED
        and (old := getattr(before, field.name)) != (new := getattr(after, field.name))
    ]
    wheels = ""
    if (
        before.wheel_mass_kg
        and after.wheel_mass_kg
        and before.wheel_mass_kg != after.wheel_mass_kg
        and car.test_mass_kg
    ):
        wheels = wheels_sentence(wheel_change(before.wheel_mass_kg, after.wheel_mass_kg, car.test_mass_kg))
    return {"differing": differing, "wheels": wheels}


def _written(value: object) -> str | None:
    return None if value in (None, "") else str(value)


class SetupViewSet(KeepsHistory[Setup], viewsets.ModelViewSet[Setup]):
    """The setups of all cars."""

    serializer_class = SetupSerializer
    filterset_fields = ["car"]

    def get_queryset(self) -> QuerySet[Setup]:
        """Setups with the number of their runs."""
        return counted_setups()

    def change_title(self, row: Setup) -> str:
        """A correction is kept with its reason."""
        correction = str(cast(dict[str, Any], self.request.data).get("correction", "")).strip()
        return f"Corrected setup {row}: {correction}" if correction else super().change_title(row)


class ManufacturerClaimViewSet(KeepsHistory[ManufacturerClaim], viewsets.ModelViewSet[ManufacturerClaim]):
    """What makers say of their cars."""

    queryset = ManufacturerClaim.objects.all()
    serializer_class = ManufacturerClaimSerializer
    filterset_fields = ["car"]


class BatteryIntervalViewSet(
    KeepsHistory[BatteryInterval],
    mixins.CreateModelMixin,
    mixins.ListModelMixin,
    mixins.RetrieveModelMixin,
    mixins.UpdateModelMixin,
    mixins.DestroyModelMixin,
):
    """Times over which a battery was read; from these its heating and cooling are learned."""

    queryset = BatteryInterval.objects.prefetch_related("readings")
    serializer_class = BatteryIntervalSerializer
    filterset_fields = ["car", "kind"]

"""Cars, set-ups, claims and pack readings over the API."""

from __future__ import annotations

from typing import Any

from django.db.models import Count, Prefetch, QuerySet
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import mixins, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from cars.models import Car, Claim, PackSpell, SetUp
from cars.serializers import (
    CarSerializer,
    ClaimSerializer,
    DifferenceAskSerializer,
    PackSpellSerializer,
    SetUpDifferenceSerializer,
    SetUpSerializer,
)
from coombe_core.physics.wheels import wheel_change
from coombe_core.wording.wheels import wheels_sentence

NOT_COMPARED = {"id", "car", "name", "since", "change", "change_note", "confirmed_by", "price", "currency", "can_undo"}


def counted_set_ups() -> QuerySet[SetUp]:
    """Set-ups with the number of their runs."""
    return SetUp.objects.annotate(run_count=Count("runs")).order_by("car", "since", "id")


class CarViewSet(viewsets.ModelViewSet[Car]):
    """The cars."""

    serializer_class = CarSerializer

    def get_queryset(self) -> QuerySet[Car]:
        """Cars with their claims and counted set-ups, in four queries."""
        return Car.objects.prefetch_related(Prefetch("set_ups", counted_set_ups()), "claims", "charge_points")

    @extend_schema(
        parameters=[DifferenceAskSerializer],
        responses=SetUpDifferenceSerializer,
    )
    @action(detail=True)
    def difference(self, request: Request, pk: str) -> Response:
        """Any two set-ups of this car, field by field."""
        car = self.get_object()
        asked = DifferenceAskSerializer(data=request.query_params)
        asked.is_valid(raise_exception=True)
        before, after = (get_object_or_404(car.set_ups, pk=asked.validated_data[arm]) for arm in ("before", "after"))
        return Response(SetUpDifferenceSerializer(_difference(car, before, after)).data)


def _difference(car: Car, before: SetUp, after: SetUp) -> dict[str, Any]:
    differing = [
        {"name": field.name, "before": _written(old), "after": _written(new)}
        for field in SetUp._meta.concrete_fields
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


class SetUpViewSet(viewsets.ModelViewSet[SetUp]):
    """The set-ups of all cars."""

    serializer_class = SetUpSerializer
    filterset_fields = ["car"]

    def get_queryset(self) -> QuerySet[SetUp]:
        """Set-ups with the number of their runs."""
        return counted_set_ups()


class ClaimViewSet(viewsets.ModelViewSet[Claim]):
    """What makers say of their cars."""

    queryset = Claim.objects.all()
    serializer_class = ClaimSerializer
    filterset_fields = ["car"]


class PackSpellViewSet(
    mixins.CreateModelMixin,
    mixins.ListModelMixin,
    mixins.RetrieveModelMixin,
    mixins.DestroyModelMixin,
    viewsets.GenericViewSet[PackSpell],
):
    """Times over which a pack was read; from these its heating and cooling are learned."""

    queryset = PackSpell.objects.prefetch_related("readings")
    serializer_class = PackSpellSerializer
    filterset_fields = ["car", "kind"]

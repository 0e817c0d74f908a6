"""Cars and set-ups over the API."""

from __future__ import annotations

from typing import Any

from django.db.models import Count, Prefetch, QuerySet
from rest_framework import serializers, viewsets

from cars.models import Car, SetUp


class SetUpSerializer(serializers.ModelSerializer[SetUp]):
    """A set-up, with the number of runs made on it."""

    run_count = serializers.IntegerField(read_only=True, default=0)

    class Meta:
        model = SetUp
        fields = "__all__"

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """A set-up with runs is frozen: only its name and notes may still be mended."""
        frozen = self.instance is not None and self.instance.runs.exists()
        touched = {name for name, value in attrs.items() if self.instance and getattr(self.instance, name) != value}
        if frozen and touched - {"name", "change_note", "confirmed_by"}:
            names = ", ".join(sorted(touched - {"name", "change_note", "confirmed_by"}))
            raise serializers.ValidationError(f"Runs were made on this set-up, so {names} can't change. Add a new one.")
        return attrs


class CarSerializer(serializers.ModelSerializer[Car]):
    """A car with its set-ups."""

    set_ups = SetUpSerializer(many=True, read_only=True)

    class Meta:
        model = Car
        fields = "__all__"


def counted_set_ups() -> QuerySet[SetUp]:
    """Set-ups with the number of their runs."""
    return SetUp.objects.annotate(run_count=Count("runs"))


class CarViewSet(viewsets.ModelViewSet[Car]):
    """The cars."""

    serializer_class = CarSerializer

    def get_queryset(self) -> QuerySet[Car]:
        """Cars with their counted set-ups, in two queries."""
        return Car.objects.prefetch_related(Prefetch("set_ups", counted_set_ups()))


class SetUpViewSet(viewsets.ModelViewSet[SetUp]):
    """The set-ups of all cars."""

    serializer_class = SetUpSerializer
    filterset_fields = ["car"]

    def get_queryset(self) -> QuerySet[SetUp]:
        """Set-ups with the number of their runs."""
        return counted_set_ups()

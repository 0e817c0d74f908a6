"""Recorders over the API: set up, start and stop, keys, and orders to the stand-ins."""

from __future__ import annotations

from typing import Any, cast

from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.models import User
from recording import live, stand_in
from recording.keeping import next_step
from recording.models import Recorder
from recording.pressing import CantPressError, Key, press
from recording.serializers import (
    KeySerializer,
    OrderSerializer,
    RecorderSerializer,
    StandInSerializer,
    StripSerializer,
)


class RecorderViewSet(viewsets.ModelViewSet[Recorder]):
    """The recorders, one a test car."""

    serializer_class = RecorderSerializer
    http_method_names = ["get", "post", "patch", "delete", "head", "options"]

    def get_queryset(self) -> QuerySet[Recorder]:
        """With what names them."""
        return Recorder.objects.select_related("set_up__car", "course", "day__plan")

    @extend_schema(responses=StripSerializer)
    @action(detail=True)
    def strip(self, request: Request, pk: str) -> Response:
        """What a strip screen shows beside what it is told live."""
        return self._strip(self.get_object())

    @extend_schema(request=None, responses=StripSerializer)
    @action(detail=True, methods=["post"])
    def start(self, request: Request, pk: str) -> Response:
        """Record, under the name of whoever starts it."""
        recorder = self.get_object()
        recorder.wanted, recorder.started_by = True, cast(User, request.user)
        recorder.save(update_fields=["wanted", "started_by"])
        return self._strip(recorder)

    @extend_schema(request=None, responses=StripSerializer)
    @action(detail=True, methods=["post"])
    def stop(self, request: Request, pk: str) -> Response:
        """End the recording."""
        recorder = self.get_object()
        recorder.wanted = False
        recorder.save(update_fields=["wanted"])
        return self._strip(recorder)

    @extend_schema(request=KeySerializer, responses=StripSerializer)
    @action(detail=True, methods=["post"])
    def press(self, request: Request, pk: str) -> Response:
        """A key of the strip screen; one that is sent again acts once."""
        recorder = self.get_object()
        given = KeySerializer(data=request.data)
        given.is_valid(raise_exception=True)
        values = given.validated_data
        key = Key(values["id"], values["action"], values["pressed_at"], values.get("run"), values["changes"])
        try:
            press(recorder, key, cast(User, request.user))
        except CantPressError as error:
            raise serializers.ValidationError({"action": [str(error)]}) from None
        live.say(recorder, {"seen": True})
        return self._strip(self.get_object())

    @extend_schema(request=OrderSerializer, responses=StandInSerializer)
    @action(detail=True, methods=["post"], url_path="stand-in")
    def order(self, request: Request, pk: str) -> Response:
        """An order to the stand-ins; an empty one asks how they stand."""
        recorder = self.get_object()
        if not recorder.stand_in:
            raise serializers.ValidationError({"detail": ["This recorder has real devices."]})
        given = OrderSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        asked: dict[str, Any] = dict(given.validated_data)
        step = next_step(recorder)
        if asked.pop("set_up", False):
            asked["car"] = stand_in.simulated_car((step.arm.set_up if step else None) or recorder.set_up)
        asked["measure"] = recorder.day.plan.measure if recorder.day else recorder.measure
        try:
            return Response(StandInSerializer(stand_in.order(recorder.stand_in, asked)).data)
        except stand_in.StandInError as error:
            raise serializers.ValidationError({"detail": [str(error)]}) from None

    def _strip(self, recorder: Recorder) -> Response:
        return Response(StripSerializer(recorder, context=self.get_serializer_context()).data)

"""Recorders over the API: set up, start and stop, keys, and orders to the simulated devices."""

from __future__ import annotations

from typing import Any, cast

from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone
from drf_spectacular.utils import extend_schema
from rest_framework import mixins, serializers, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.models import User
from accounts.permissions import AdministratorsWrite
from config.errors import InUse
from history.viewsets import KeepsHistory
from recording import finishing, heads_up, live, simulation
from recording.models import Device, HeadsUp, Recorder, Recording
from recording.pressing import Key, press
from recording.serializers import (
    AlsoSerializer,
    DeviceSerializer,
    HeadsUpRowSerializer,
    HeadsUpSerializer,
    KeySerializer,
    OrderSerializer,
    RecorderSerializer,
    RecordingSerializer,
    SimulationSerializer,
    StripSerializer,
)


class DeviceViewSet(KeepsHistory[Device], viewsets.ModelViewSet[Device]):
    """What recorders may be connected to. Only administrators say how."""

    queryset = Device.objects.all()
    serializer_class = DeviceSerializer
    permission_classes = [AdministratorsWrite]


class RecordingViewSet(
    mixins.ListModelMixin, mixins.RetrieveModelMixin, mixins.DestroyModelMixin, viewsets.GenericViewSet[Recording]
):
    """Recordings that have ended and could not be stored yet."""

    queryset = finishing.unstored().select_related("setup__car")
    serializer_class = RecordingSerializer

    @extend_schema(request=None, responses=RecordingSerializer)
    @action(detail=True, methods=["post"])
    def retry(self, request: Request, pk: str) -> Response:
        """Have it tried again, in a few seconds."""
        recording = self.get_object()
        Recording.objects.filter(pk=recording.pk).update(trouble="")
        return Response(RecordingSerializer(self.get_object()).data)

    def perform_destroy(self, instance: Recording) -> None:
        """Give it up: its bytes are moved aside, into the spool's folder of discarded recordings."""
        try:
            finishing.discard(instance)
        except BlockingIOError:
            raise InUse("This recording is being stored right now. Reload in a moment.") from None


class RecorderViewSet(KeepsHistory[Recorder], viewsets.ModelViewSet[Recorder]):
    """The recorders, one a test car."""

    serializer_class = RecorderSerializer
    http_method_names = ["get", "post", "patch", "delete", "head", "options"]

    def get_queryset(self) -> QuerySet[Recorder]:
        """With what names them."""
        devices = ("receiver", "can", "weather_station", "simulation")
        return Recorder.objects.select_related("setup__car", "course", "day__plan", *devices)

    def perform_destroy(self, instance: Recorder) -> None:
        """Not while it records: what it still has to store is named after it."""
        if instance.wanted or instance.recordings.filter(stopped_at=None).exists():
            raise InUse("This recorder is recording. Stop it first, then delete it.")
        super().perform_destroy(instance)

    @extend_schema(responses=StripSerializer)
    @action(detail=True)
    def strip(self, request: Request, pk: str) -> Response:
        """What a strip screen shows beside what it receives live."""
        return self._strip(self.get_object())

    @extend_schema(request=None, responses=StripSerializer)
    @action(detail=True, methods=["post"])
    def start(self, request: Request, pk: str) -> Response:
        """Record, under the name of whoever starts it."""
        recorder = self.get_object()
        values = {"wanted": True, "started_by": cast(User, request.user), "trouble": ""}
        Recorder.objects.filter(pk=recorder.pk).update(**values)
        return self._strip(self.get_object())

    @extend_schema(request=None, responses=StripSerializer)
    @action(detail=True, methods=["post"])
    def stop(self, request: Request, pk: str) -> Response:
        """End the recording."""
        recorder = self.get_object()
        with transaction.atomic():
            Recorder.objects.filter(pk=recorder.pk).update(wanted=False)
            recorder.recordings.filter(stopped_at=None).update(stopped_at=timezone.now())
        return self._strip(self.get_object())

    @extend_schema(request=KeySerializer, responses=StripSerializer)
    @action(detail=True, methods=["post"], url_path="key-presses")
    def press(self, request: Request, pk: str) -> Response:
        """A key of the strip screen; one that is sent again acts once."""
        recorder = self.get_object()
        given = KeySerializer(data=request.data)
        given.is_valid(raise_exception=True)
        values = given.validated_data
        key = Key(
            values["id"],
            values["action"],
            values["pressed_at"],
            values.get("run"),
            values["changes"],
            values.get("revision"),
        )
        press(recorder, key, cast(User, request.user))
        live.say_seen(recorder)
        return self._strip(self.get_object())

    @extend_schema(request=OrderSerializer, responses=SimulationSerializer)
    @action(detail=True, methods=["post"], url_path="simulation")
    def order(self, request: Request, pk: str) -> Response:
        """An order to the simulated devices; an empty one asks for their state."""
        recorder = self.get_object()
        if not recorder.simulation:
            raise serializers.ValidationError({"detail": ["This recorder has real devices."]})
        given = OrderSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        asked: dict[str, Any] = dict(given.validated_data)
        setup = asked.pop("setup", None)
        if setup:
            asked["car"] = simulation.simulated_car(setup)
        asked["measure"] = recorder.day.plan.measure if recorder.day else recorder.measure
        return Response(SimulationSerializer(simulation.order(recorder.simulation, asked)).data)

    def _strip(self, recorder: Recorder) -> Response:
        return Response(StripSerializer(recorder, context=self.get_serializer_context()).data)


class HeadsUpViewSet(
    KeepsHistory[HeadsUp],
    mixins.CreateModelMixin,
    mixins.ListModelMixin,
    mixins.RetrieveModelMixin,
    mixins.DestroyModelMixin,
):
    """Two cars at once."""

    def get_serializer_class(self) -> type[serializers.BaseSerializer[HeadsUp]]:
        """A row in the list, which works out no outcome."""
        return HeadsUpRowSerializer if self.action == "list" else HeadsUpSerializer

    def get_queryset(self) -> QuerySet[HeadsUp]:
        """With what names the cars."""
        return HeadsUp.objects.select_related("left__setup__car", "right__setup__car")

    @extend_schema(parameters=[AlsoSerializer])
    def retrieve(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        """What it came to, at one more distance too."""
        return super().retrieve(request, *args, **kwargs)

    def perform_create(self, serializer: serializers.BaseSerializer[HeadsUp]) -> None:
        """Armed from now on."""
        serializer.instance = heads_up.arm(serializer.validated_data["left"], serializer.validated_data["right"])

    @extend_schema(request=None, responses=HeadsUpSerializer)
    @action(detail=True, methods=["post"], url_path="start-signal")
    def start_signal(self, request: Request, pk: str) -> Response:
        """Give the start signal in a few seconds, at a moment that nobody can count."""
        return Response(HeadsUpSerializer(heads_up.give_signal(self.get_object())).data)

    @extend_schema(request=None, responses=HeadsUpSerializer)
    @action(detail=True, methods=["post"])
    def repeat(self, request: Request, pk: str) -> Response:
        """The next one, lanes swapped."""
        pair = self.get_object()
        return Response(HeadsUpSerializer(heads_up.arm(pair.right, pair.left)).data, status=201)

"""Recorders and the keys of their screens as the API shows and takes them."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from cars.models import Setup
from config.fields import MeasureField
from config.revisions import RevisedSerializer
from coombe_core.formats.can_log import load_dbc
from coombe_core.formats.reading import CanError
from coombe_core.simulating.driver import INTENTS
from days.models import ScheduledRunState
from days.serializers import ScheduledRunSerializer
from learning.services import charge_per_run
from recording.connecting import place_of, refused
from recording.heads_up import outcome
from recording.keeping import next_step, suggested
from recording.models import Action, Connection, Device, DeviceKind, Gap, HeadsUp, Press, Recorder, Recording
from recording.pressing import last_press
from runs.conditions import CONDITION_FIELDS
from runs.models import ClockName, Run, VoidReason
from runs.serializers import ConditionsSerializer, RunSerializer


class GapSerializer(serializers.ModelSerializer[Gap]):
    """A time without fixes."""

    to_utc = serializers.SerializerMethodField()

    class Meta:
        model = Gap
        fields = ("from_s", "to_s", "to_utc", "cause")

    @extend_schema_field(serializers.DateTimeField())
    def get_to_utc(self, gap: Gap) -> datetime:
        """When the fixes came back."""
        log = gap.recording.log
        return log.start_utc + timedelta(seconds=gap.to_s) if log else gap.recording.began_at


class DeviceSerializer(RevisedSerializer[Device]):
    """How a device is reached."""

    class Meta:
        model = Device
        fields = (
            *("id", "name", "kind", "connection", "path", "baud_rate", "host", "port", "channel", "dbc", "revision"),
        )

    def validate_dbc(self, value: str) -> str:
        """One that can be read, or none."""
        try:
            load_dbc(value or None)
        except CanError as error:
            raise serializers.ValidationError(f"{error}.") from None
        return value

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """A connection that the kind has, to a place that may be opened."""
        device = Device(**{name: getattr(self.instance, name) for name in PLACED} if self.instance else {})
        for name in set(PLACED) & set(attrs):
            setattr(device, name, attrs[name])
        if device.connection not in CONNECTIONS[DeviceKind(device.kind)]:
            usual = ", ".join(CONNECTIONS[DeviceKind(device.kind)])
            raise serializers.ValidationError({"connection": [f"A {device.kind} is connected by {usual}."]})
        if wrong := refused(place_of(device)):
            raise serializers.ValidationError({name: [sentence] for name, sentence in wrong.items()})
        return attrs


PLACED = ("kind", "connection", "path", "baud_rate", "host", "port", "channel", "dbc")
CONNECTIONS = {
    DeviceKind.RECEIVER: (Connection.SERIAL, Connection.TCP),
    DeviceKind.CAN: (Connection.SOCKETCAN, Connection.SOCKETCAND),
    DeviceKind.WEATHER: (Connection.TCP,),
    DeviceKind.SIMULATION: (Connection.TCP,),
}
ROLES = {
    "receiver": DeviceKind.RECEIVER,
    "can": DeviceKind.CAN,
    "weather_station": DeviceKind.WEATHER,
    "simulation": DeviceKind.SIMULATION,
}


class RecordingSerializer(serializers.ModelSerializer[Recording]):
    """A recording that waits to be stored, and why."""

    setup_name = serializers.CharField(source="setup.name", read_only=True, default="")
    car_name = serializers.CharField(source="setup.car.name", read_only=True, default="")

    class Meta:
        model = Recording
        fields = ("id", "name", "setup_name", "car_name", "began_at", "stopped_at", "log", "trouble")
        read_only_fields = fields


class RecorderSerializer(RevisedSerializer[Recorder]):
    """A recorder's devices and what it records for."""

    setup_name = serializers.CharField(source="setup.name", read_only=True)
    car = serializers.IntegerField(source="setup.car_id", read_only=True)
    car_name = serializers.CharField(source="setup.car.name", read_only=True)
    course_name = serializers.CharField(source="course.name", read_only=True, default=None, allow_null=True)
    question = serializers.CharField(source="day.plan.question", read_only=True, default=None, allow_null=True)
    measure = MeasureField(required=False)
    receiver = serializers.PrimaryKeyRelatedField(queryset=Device.objects.all())

    class Meta:
        model = Recorder
        fields = (
            *("id", "name", "setup", "setup_name", "car", "car_name", "course", "course_name", "day", "question"),
            *("measure", "clock", "receiver", "can", "weather_station", "simulation", "wanted", "trouble"),
            "revision",
        )
        read_only_fields = ("wanted", "trouble")

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """A day is one of the car's, and each device is of the kind that is asked for."""
        day = attrs.get("day", getattr(self.instance, "day", None))
        setup = attrs.get("setup", getattr(self.instance, "setup", None))
        if day and setup and day.plan.car_id != setup.car_id:
            raise serializers.ValidationError({"day": ["That day is another car's."]})
        for role, kind in ROLES.items():
            device = attrs.get(role)
            if device and device.kind != kind:
                raise serializers.ValidationError({role: [f"{device.name} is a {device.kind}, not a {kind}."]})
        return attrs


class PressSerializer(serializers.ModelSerializer[Press]):
    """A key as it acted."""

    class Meta:
        model = Press
        fields = ("id", "action", "run", "undone")


class WindowSerializer(serializers.Serializer[Any]):
    """The band of charge and battery temperature that the plan allows."""

    low_charge_percent = serializers.FloatField()
    high_charge_percent = serializers.FloatField()
    low_battery_temp_c = serializers.FloatField()
    high_battery_temp_c = serializers.FloatField()


class StripSerializer(serializers.Serializer[Recorder]):
    """All that a strip screen needs beside what it receives live."""

    recorder = RecorderSerializer(source="*")
    next = serializers.SerializerMethodField()
    runs_open = serializers.SerializerMethodField()
    runs_done = serializers.SerializerMethodField()
    window = serializers.SerializerMethodField()
    clock = serializers.SerializerMethodField()
    cooling_min = serializers.SerializerMethodField()
    last_run = serializers.SerializerMethodField()
    last_stop = serializers.SerializerMethodField()
    suggested = serializers.SerializerMethodField()
    undoable = serializers.SerializerMethodField()
    gaps = serializers.SerializerMethodField()
    charge_per_run_percent = serializers.SerializerMethodField()
    reasons = serializers.SerializerMethodField()

    def to_representation(self, instance: Recorder) -> Any:
        """With the day's next run looked up once."""
        self._next = next_step(instance)
        return super().to_representation(instance)

    @extend_schema_field(ScheduledRunSerializer(allow_null=True))
    def get_next(self, recorder: Recorder) -> Any:
        """What the day wants next."""
        step = self._next
        return ScheduledRunSerializer(step).data if step else None

    def get_runs_open(self, recorder: Recorder) -> int:
        """How many runs the day still wants."""
        return recorder.day.scheduled_runs.filter(state=ScheduledRunState.OPEN).count() if recorder.day else 0

    def get_runs_done(self, recorder: Recorder) -> int:
        """How many runs of the day are driven."""
        return recorder.day.scheduled_runs.filter(state=ScheduledRunState.DONE).count() if recorder.day else 0

    @extend_schema_field(WindowSerializer(allow_null=True))
    def get_window(self, recorder: Recorder) -> Any:
        """The plan's window; none without a day."""
        return WindowSerializer(recorder.day.plan).data if recorder.day else None

    @extend_schema_field(serializers.ChoiceField(ClockName.choices))
    def get_clock(self, recorder: Recorder) -> str:
        """The clock that is asked about."""
        return recorder.day.plan.clock if recorder.day else recorder.clock

    def get_cooling_min(self, recorder: Recorder) -> float:
        """How long brakes and battery are to cool before the next run."""
        step = self._next
        return step.wait_min if step else 0.0

    @extend_schema_field(RunSerializer(allow_null=True))
    def get_last_run(self, recorder: Recorder) -> Any:
        """The last pull that was recorded."""
        return self._last(recorder, ("standing", "rolling"))

    @extend_schema_field(RunSerializer(allow_null=True))
    def get_last_stop(self, recorder: Recorder) -> Any:
        """The last stop that was recorded."""
        return self._last(recorder, ("stop",))

    def _last(self, recorder: Recorder, kinds: tuple[str, ...]) -> Any:
        runs = Run.objects.filter(log__recording__recorder=recorder, kind__in=kinds).order_by("-start_utc")
        run = runs.select_related("setup__car", "course", "log__can_log").first()
        return RunSerializer(run, context=self.context).data if run else None

    @extend_schema_field(serializers.DictField(child=serializers.FloatField()))
    def get_suggested(self, recorder: Recorder) -> dict[str, float]:
        """Charge and battery temperature of the last pull, as the one before it and the cost of a run have it."""
        return suggested(recorder)

    @extend_schema_field(PressSerializer(allow_null=True))
    def get_undoable(self, recorder: Recorder) -> Any:
        """What an undo would take back."""
        last = last_press(recorder)
        return PressSerializer(last).data if last else None

    @extend_schema_field(GapSerializer(many=True))
    def get_gaps(self, recorder: Recorder) -> Any:
        """The last times without fixes of the recording that goes on."""
        recording = recorder.recordings.filter(stopped_at=None).first()
        return GapSerializer(recording.gaps.order_by("-from_s")[:5], many=True).data if recording else []

    def get_charge_per_run_percent(self, recorder: Recorder) -> float:
        """What a run costs, as far as it is known."""
        return charge_per_run(recorder.setup.car).value

    @extend_schema_field(serializers.ListField(child=serializers.ChoiceField(VoidReason.choices)))
    def get_reasons(self, recorder: Recorder) -> list[str]:
        """Why a run may be void, in the order of the number keys."""
        return list(VoidReason.values)


class KeyConditionsSerializer(ConditionsSerializer):
    """Conditions as a strip screen writes them down: what is read off the car, not where it was driven."""

    class Meta(ConditionsSerializer.Meta):
        fields = tuple(name for name in CONDITION_FIELDS if name != "course")


class KeySerializer(serializers.Serializer[Any]):
    """A key as a page sends it; `id` is made by the page, once for each key."""

    id = serializers.UUIDField()
    action = serializers.ChoiceField(Action.choices)
    pressed_at = serializers.DateTimeField()
    run = serializers.PrimaryKeyRelatedField(queryset=Run.objects.all(), required=False, allow_null=True)
    reason = serializers.ChoiceField(VoidReason.choices, required=False)
    note = serializers.CharField(max_length=300, required=False, allow_blank=True)
    revision = serializers.IntegerField(required=False, help_text="of the run, as the screen showed it")
    conditions = KeyConditionsSerializer(required=False)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """The changes that the action needs, in one place."""
        if attrs["action"] == Action.CONDITIONS:
            attrs["changes"] = dict(attrs.get("conditions", {}))
        else:
            attrs["changes"] = {name: attrs[name] for name in ("reason", "note") if name in attrs}
        return attrs


class OrderSerializer(serializers.Serializer[Any]):
    """What the simulated devices are asked to do."""

    drive = serializers.ChoiceField([(name, name) for name in INTENTS], required=False)
    setup = serializers.PrimaryKeyRelatedField(
        queryset=Setup.objects.select_related("car"), required=False, help_text="make the car what it says"
    )
    charge_percent = serializers.FloatField(min_value=0, max_value=100, required=False)
    battery_temp_c = serializers.FloatField(min_value=-30, max_value=70, required=False)
    head_wind_mps = serializers.FloatField(min_value=-20, max_value=20, required=False)
    drop_out_s = serializers.FloatField(min_value=0, max_value=60, required=False)
    rate_hz = serializers.FloatField(min_value=1, max_value=100, required=False)


class SimulationSerializer(serializers.Serializer[Any]):
    """The state of the simulated car."""

    idle = serializers.BooleanField()
    charge_percent = serializers.FloatField()
    battery_temp_c = serializers.FloatField()
    head_wind_mps = serializers.FloatField()
    rate_hz = serializers.FloatField()
    pace = serializers.FloatField()
    intents = serializers.ListField(child=serializers.CharField())


class MeasuredValueSerializer(serializers.Serializer[Any]):
    """A value and the half-width of its 95 % interval."""

    value = serializers.FloatField()
    u95 = serializers.FloatField()


class AheadSerializer(serializers.Serializer[Any]):
    """How two cars stood at a distance: above zero the left one was ahead."""

    name = serializers.CharField(help_text="empty for a distance that was asked for")
    distance_m = serializers.FloatField()
    gap_s = MeasuredValueSerializer()
    gap_m = serializers.FloatField()
    gap_lengths = serializers.FloatField(help_text="of a mid-size car")
    shown = serializers.BooleanField()
    sentence = serializers.CharField()


class OutcomeSerializer(serializers.Serializer[Any]):
    """What a heads-up came to; reaction plays no part in the standings."""

    left_run = serializers.IntegerField()
    right_run = serializers.IntegerField()
    standings = AheadSerializer(many=True)
    left_first_s = MeasuredValueSerializer()
    left_reaction_s = MeasuredValueSerializer(allow_null=True)
    right_reaction_s = MeasuredValueSerializer(allow_null=True)
    sentences = serializers.ListField(child=serializers.CharField())


class AlsoSerializer(serializers.Serializer[Any]):
    """One more distance to say it of who was ahead."""

    also_m = serializers.FloatField(required=False, min_value=1, max_value=5000)


class HeadsUpRowSerializer(serializers.ModelSerializer[HeadsUp]):
    """Two recorders, a lane each."""

    left_name = serializers.CharField(source="left.name", read_only=True)
    right_name = serializers.CharField(source="right.name", read_only=True)
    left_car = serializers.CharField(source="left.setup.car.name", read_only=True)
    right_car = serializers.CharField(source="right.setup.car.name", read_only=True)

    class Meta:
        model = HeadsUp
        fields: tuple[str, ...] = (
            *("id", "left", "right", "left_name", "right_name", "left_car", "right_car"),
            *("signal_at", "armed_at"),
        )
        read_only_fields = ("signal_at",)


class HeadsUpSerializer(HeadsUpRowSerializer):
    """A heads-up with what it came to."""

    outcome = serializers.SerializerMethodField()

    class Meta(HeadsUpRowSerializer.Meta):
        fields = (*HeadsUpRowSerializer.Meta.fields, "outcome")

    @extend_schema_field(OutcomeSerializer(allow_null=True))
    def get_outcome(self, pair: HeadsUp) -> Any:
        """Once both runs are there."""
        asked = AlsoSerializer(data=request.query_params if (request := self.context.get("request")) else {})
        asked.is_valid(raise_exception=True)
        found = outcome(pair, asked.validated_data.get("also_m"))
        return OutcomeSerializer(found).data if found else None

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """Two cars, not one twice."""
        if attrs["left"] == attrs["right"]:
            raise serializers.ValidationError({"right": ["A heads-up needs two recorders."]})
        return attrs

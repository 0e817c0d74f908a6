"""Recorders: what stands in a test car, what it recorded and what it missed, and the keys that were pressed."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models

from cars.models import Setup
from courses.models import Course, between
from days.models import TestDay
from history.recorded import recorded
from runs.models import ClockName, Log, Run


class DeviceKind(models.TextChoices):
    """What a device measures."""

    RECEIVER = "receiver", "GPS receiver"
    CAN = "CAN"
    WEATHER = "weather station"
    SIMULATION = "simulation", "simulated car and driver"


class Connection(models.TextChoices):
    """How a device is reached: nothing else is ever opened."""

    SERIAL = "serial", "serial port"
    TCP = "tcp", "TCP"
    SOCKETCAN = "socketcan", "CAN interface of this machine"
    SOCKETCAND = "socketcand", "CAN over the network (socketcand)"


@recorded()
class Device(models.Model):
    """Something that is connected. Only administrators say how; testers choose among devices."""

    name = models.CharField(max_length=60, unique=True)
    kind = models.CharField(max_length=16, choices=DeviceKind.choices)
    connection = models.CharField(max_length=12, choices=Connection.choices)
    path = models.CharField(max_length=120, blank=True, help_text="of a serial port, such as /dev/ttyACM0")
    baud_rate = models.PositiveIntegerField(default=115_200, validators=between(1200, 4_000_000))
    host = models.CharField(max_length=120, blank=True, help_text="of TCP and socketcand")
    port = models.PositiveIntegerField(null=True, blank=True, validators=between(1, 65_535))
    channel = models.CharField(max_length=20, blank=True, help_text="of CAN, such as can0")
    dbc = models.TextField(blank=True, max_length=2_000_000, help_text="decodes CAN; Coombe's own where empty")
    revision = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


@recorded()
class Recorder(models.Model):
    """One test car's devices, and what is recorded with them. One process serves it."""

    name = models.CharField(max_length=60, unique=True)
    setup = models.ForeignKey(Setup, on_delete=models.PROTECT, related_name="recorders")
    course = models.ForeignKey(Course, on_delete=models.PROTECT, null=True, blank=True, related_name="recorders")
    day = models.ForeignKey(TestDay, on_delete=models.SET_NULL, null=True, blank=True, related_name="recorders")
    measure = models.CharField(max_length=24, default="0-60 mph")
    clock = models.CharField(max_length=16, choices=ClockName.choices, default=ClockName.ROLLOUT)
    receiver = models.ForeignKey(Device, on_delete=models.PROTECT, related_name="+", null=True, blank=True)
    can = models.ForeignKey(Device, on_delete=models.PROTECT, related_name="+", null=True, blank=True)
    weather_station = models.ForeignKey(Device, on_delete=models.PROTECT, related_name="+", null=True, blank=True)
    simulation = models.ForeignKey(Device, on_delete=models.PROTECT, related_name="+", null=True, blank=True)
    wanted = models.BooleanField(default=False, help_text="whether it should record")
    started_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, blank=True, related_name="recorders"
    )
    live_port = models.PositiveIntegerField(
        null=True, editable=False, help_text="where its process reports what it sees"
    )
    trouble = models.CharField(max_length=300, blank=True, editable=False, help_text="why its process ended last")
    held_by = models.CharField(max_length=60, blank=True, editable=False, help_text="the machine that records with it")
    held_until = models.DateTimeField(null=True, editable=False, help_text="by the database's clock")
    revision = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class LiveReport(models.Model):
    """What a recorder reported last, for web nodes of other machines than its own."""

    recorder = models.OneToOneField(Recorder, on_delete=models.CASCADE, primary_key=True, related_name="live_report")
    lines = models.JSONField(default=dict, help_text="the last report of each kind")
    number = models.PositiveBigIntegerField(default=0, help_text="grows as long as its process reports")
    seen = models.PositiveBigIntegerField(default=0, help_text="how often a person has decided on a result")

    def __str__(self) -> str:
        return f"{self.recorder} live"


@recorded(fields=("log",))
class Recording(models.Model):
    """From start to stop of a recorder. Its bytes are in the spool until they and all of its runs are stored.

    It runs until `stopped_at`, then waits to be stored; `trouble` says why it could not be. It carries what storing
    needs, since its recorder may be gone by then.
    """

    spool = models.UUIDField(default=uuid.uuid4, unique=True, editable=False)
    recorder = models.ForeignKey(Recorder, on_delete=models.SET_NULL, null=True, related_name="recordings")
    name = models.CharField(max_length=60, blank=True)
    setup = models.ForeignKey(Setup, on_delete=models.PROTECT, null=True, related_name="recordings")
    started_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, related_name="recordings"
    )
    log = models.OneToOneField(Log, on_delete=models.SET_NULL, null=True, related_name="recording")
    began_at = models.DateTimeField()
    stopped_at = models.DateTimeField(null=True)
    ended_at = models.DateTimeField(null=True, help_text="its last fix")
    stored_at = models.DateTimeField(null=True)
    trouble = models.CharField(max_length=500, blank=True)
    machine = models.CharField(max_length=60, blank=True, editable=False, help_text="where its spool is")

    MADE_BY = "started_by"

    class Meta:
        ordering = ["-began_at"]

    def __str__(self) -> str:
        return f"{self.name} {self.began_at:%Y-%m-%d %H:%M:%S}"


class GapCause(models.TextChoices):
    """Why fixes are missing."""

    NOT_LISTENING = "not listening", "the recorder was not listening"
    NO_FIX = "no fix", "the receiver sent no fix"
    NO_ROOM = "no room", "the disk was full"


class Gap(models.Model):
    """A time of a recording without fixes, in seconds after its first one."""

    recording = models.ForeignKey(Recording, on_delete=models.CASCADE, related_name="gaps")
    from_s = models.FloatField()
    to_s = models.FloatField()
    cause = models.CharField(max_length=16, choices=GapCause.choices)

    class Meta:
        ordering = ["from_s"]
        constraints = [models.UniqueConstraint(fields=["recording", "from_s"], name="gap_once_a_recording")]


class Action(models.TextChoices):
    """What a key does."""

    KEEP = "keep"
    VOID = "void"
    CONDITIONS = "conditions"
    SKIP = "skip"
    UNDO = "undo"


class Press(models.Model):
    """A key pressed on a strip screen. Its id comes from the page, so that a key that is sent twice acts once."""

    id = models.UUIDField(primary_key=True)
    recorder = models.ForeignKey(Recorder, on_delete=models.CASCADE, related_name="presses")
    action = models.CharField(max_length=12, choices=Action.choices)
    run = models.ForeignKey(Run, on_delete=models.CASCADE, null=True, related_name="presses")
    before = models.JSONField(default=dict, help_text="what undoing it brings back")
    pressed_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="presses")
    pressed_at = models.DateTimeField()
    received_at = models.DateTimeField(auto_now_add=True)
    undone = models.BooleanField(default=False)

    class Meta:
        ordering = ["received_at", "id"]


@recorded(named_by=("left", "right"))
class HeadsUp(models.Model):
    """Two cars side by side: a recorder in each lane, and since when their runs count for it."""

    left = models.ForeignKey(Recorder, on_delete=models.CASCADE, related_name="left_of")
    right = models.ForeignKey(Recorder, on_delete=models.CASCADE, related_name="right_of")
    left_before = models.DateTimeField(null=True, help_text="when the latest run in its lane began, when it was armed")
    right_before = models.DateTimeField(null=True, help_text="the same; none before the first run")
    signal_at = models.DateTimeField(null=True, help_text="by the clock of the computer that gives the signal")
    armed_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        verbose_name = "heads-up run"
        ordering = ["-armed_at"]
        constraints = [
            models.CheckConstraint(condition=~models.Q(left=models.F("right")), name="heads_up_of_two_recorders")
        ]

    def __str__(self) -> str:
        return f"{self.left} and {self.right}"

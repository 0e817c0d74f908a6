"""Recorders: what stands in a test car, what it recorded and what it missed, and the keys that were pressed."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models

from cars.models import SetUp
from courses.models import Course
from days.models import TestDay
from runs.models import ClockName, Log, Run


class Recorder(models.Model):
    """One test car's devices, and what is recorded with them. One process serves it."""

    name = models.CharField(max_length=60, unique=True)
    set_up = models.ForeignKey(SetUp, on_delete=models.PROTECT, related_name="recorders")
    course = models.ForeignKey(Course, on_delete=models.PROTECT, null=True, blank=True, related_name="recorders")
    day = models.ForeignKey(TestDay, on_delete=models.SET_NULL, null=True, blank=True, related_name="recorders")
    measure = models.CharField(max_length=24, default="0-60 mph")
    clock = models.CharField(max_length=16, choices=ClockName.choices, default=ClockName.ROLLOUT)
    receiver = models.CharField(max_length=200, help_text="a serial port such as /dev/ttyACM0, or socket://host:port")
    baud_rate = models.PositiveIntegerField(default=115_200)
    bus_interface = models.CharField(max_length=40, blank=True, help_text="a python-can interface such as socketcan")
    bus_channel = models.CharField(max_length=200, blank=True, help_text="can0; host:port/can0 for socketcand")
    dbc = models.TextField(blank=True, help_text="decodes the bus; Coombe's own where empty")
    mast = models.CharField(max_length=200, blank=True, help_text="socket://host:port of a mast that sends METAR lines")
    stand_in = models.CharField(max_length=200, blank=True, help_text="host:port of a stand-in's driver")
    wanted = models.BooleanField(default=False, help_text="whether it should record")
    started_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, blank=True, related_name="recorders"
    )
    live_port = models.PositiveIntegerField(null=True, editable=False, help_text="where its process tells what it sees")

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Recording(models.Model):
    """From start to stop of a recorder. Its octets lie in the spool until it has ended, then in the store."""

    spool = models.UUIDField(default=uuid.uuid4, unique=True, editable=False)
    recorder = models.ForeignKey(Recorder, on_delete=models.CASCADE, related_name="recordings")
    log = models.OneToOneField(Log, on_delete=models.SET_NULL, null=True, related_name="recording")
    began_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-began_at"]


class GapCause(models.TextChoices):
    """Why fixes are missing."""

    NOT_LISTENING = "not listening", "the recorder was not listening"
    NO_FIX = "no fix", "the receiver sent no fix"


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


class HeadsUp(models.Model):
    """Two cars side by side: a recorder in each lane, and since when their runs count for it."""

    left = models.ForeignKey(Recorder, on_delete=models.CASCADE, related_name="left_of")
    right = models.ForeignKey(Recorder, on_delete=models.CASCADE, related_name="right_of")
    runs_before = models.PositiveBigIntegerField(help_text="the newest run when it was armed")
    signal_at = models.DateTimeField(null=True, help_text="by the clock of the computer that gives the signal")
    armed_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-armed_at"]
        constraints = [
            models.CheckConstraint(condition=~models.Q(left=models.F("right")), name="heads_up_of_two_recorders")
        ]

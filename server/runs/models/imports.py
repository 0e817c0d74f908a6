"""Imports: files that were sent and wait, are being timed, or were refused."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models

from cars.models import Setup
from runs.models.logs import Log


class ImportState(models.TextChoices):
    """How far an import has come."""

    WAITING = "waiting"
    TIMING = "timing"
    DONE = "done"
    REFUSED = "refused"
    CANCELED = "canceled"


class Import(models.Model):
    """One file that was sent. Its bytes are beside the store until its runs are stored, then in it."""

    spool = models.UUIDField(default=uuid.uuid4, unique=True, editable=False, help_text="names its bytes meanwhile")
    name = models.CharField(max_length=255)
    can_name = models.CharField(max_length=255, blank=True, help_text="of a CAN log that goes with it")
    setup = models.ForeignKey(Setup, on_delete=models.PROTECT, related_name="imports")
    asked = models.JSONField(help_text="conditions of its runs, and what its columns, date and CAN log need")
    state = models.CharField(max_length=10, choices=ImportState.choices, default=ImportState.WAITING)
    sha256 = models.CharField(max_length=64)
    runs_found = models.PositiveIntegerField(default=0)
    runs_timed = models.PositiveIntegerField(default=0)
    log = models.ForeignKey(Log, on_delete=models.SET_NULL, null=True, related_name="imports")
    already = models.BooleanField(default=False, help_text="the same bytes were there already")
    doubt = models.CharField(max_length=400, blank=True, help_text="what looks like a slip about its runs")
    refusal = models.JSONField(null=True, help_text="the problem, where it was refused")
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="imports")
    created_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True)

    MADE_BY = "created_by"

    class Meta:
        ordering = ["-created_at", "-id"]

    def __str__(self) -> str:
        return f"{self.name}, {self.state}"

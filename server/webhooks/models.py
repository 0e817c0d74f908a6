"""Addresses that are notified of what happens, and of what they were."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone


class Event(models.TextChoices):
    """What there is to notify of."""

    RUN_STORED = "run stored"
    COMPARISON_SAVED = "comparison saved"
    RECORDING_IN_TROUBLE = "recording in trouble"


class Webhook(models.Model):
    """An address that is notified of what happens. Its secret signs what is sent, and so is kept as it is."""

    address = models.CharField(max_length=300)
    events = models.JSONField(default=list)
    secret = models.CharField(max_length=64)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="webhooks")
    created_at = models.DateTimeField(auto_now_add=True)

    MADE_BY = "created_by"

    class Meta:
        ordering = ["address", "id"]

    def __str__(self) -> str:
        return self.address


class Delivery(models.Model):
    """One event for one address, sent until it is taken or was tried too often."""

    webhook = models.ForeignKey(Webhook, on_delete=models.CASCADE, related_name="deliveries")
    event = models.CharField(max_length=24, choices=Event.choices)
    about = models.JSONField(help_text="what happened")
    made_at = models.DateTimeField(default=timezone.now)
    due_at = models.DateTimeField(default=timezone.now, help_text="when to try next")
    tries = models.PositiveSmallIntegerField(default=0)
    taken_at = models.DateTimeField(null=True)
    given_up = models.BooleanField(default=False)
    answer = models.CharField(max_length=200, blank=True, help_text="to the last try")

    class Meta:
        ordering = ["-id"]
        verbose_name_plural = "deliveries"

    def __str__(self) -> str:
        return f"{self.event} to {self.webhook}"

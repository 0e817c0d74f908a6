"""Receivers, as testers know them: what a log cannot show of the device that wrote it."""

from __future__ import annotations

from django.db import models

from coombe_core.uncertainty import Value
from courses.models import between
from history.recorded import recorded


@recorded()
class Receiver(models.Model):
    """A receiver by the name that runs carry; what is not stated is not known."""

    WITHIN = 0.1  # of the smoothing that is stated, where nobody said how well it is known

    name = models.CharField(max_length=80, unique=True)
    firmware = models.CharField(max_length=80, blank=True)
    smoothing_s = models.FloatField(
        null=True, blank=True, validators=between(0, 1), help_text="time constant of its speed filter; 0 without one"
    )
    smoothing_u95_s = models.FloatField(null=True, blank=True, validators=between(0, 1))
    latency_s = models.FloatField(
        null=True, blank=True, validators=between(-2, 2), help_text="by how much later than true its times are"
    )
    source = models.CharField(max_length=200, blank=True, help_text="where that is known from")
    notes = models.TextField(max_length=2000, blank=True)
    revision = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name

    @property
    def smoothing(self) -> Value | None:
        """The time constant of its speed filter with its u95; None where nobody knows."""
        if self.smoothing_s is None:
            return None
        within_s = self.WITHIN * self.smoothing_s if self.smoothing_u95_s is None else self.smoothing_u95_s
        return Value(self.smoothing_s, within_s)


def smoothing_of(name: str) -> Value | None:
    """How a receiver of that name smooths; None where it was not registered, or nobody knows."""
    found = Receiver.objects.filter(name=name).first() if name else None
    return found.smoothing if found else None

"""What is announced, and when: in the transaction in which it happens, so that nobody hears of what is taken back."""

from __future__ import annotations

from typing import Any

from django.db.models.signals import post_save
from django.dispatch import receiver

from comparisons.models import Comparison
from history.recorded import plain
from recording.finishing import in_trouble
from runs.importing import worker_began
from runs.models import Run
from webhooks.models import Delivery, Event, Webhook
from webhooks.sending import resume, send


def announce(event: Event, about: dict[str, Any]) -> None:
    """Notify every address that wants to know of such events."""
    for webhook in Webhook.objects.all():
        if event in webhook.events:
            send.enqueue(Delivery.objects.create(webhook=webhook, event=event, about=about).pk)


@receiver(post_save, sender=Run)
def _run_stored(instance: Run, created: bool, **kwargs: Any) -> None:
    if created:
        about = {"id": instance.pk, "log": instance.log_id, "setup": instance.setup_id, "kind": instance.kind}
        announce(Event.RUN_STORED, {**about, "start_utc": plain(instance.start_utc), "page": f"/runs/{instance.pk}"})


@receiver(post_save, sender=Comparison)
def _comparison_saved(instance: Comparison, update_fields: frozenset[str] | None, **kwargs: Any) -> None:
    """A comparison is saved once what it found is kept with it."""
    if instance.kept and update_fields is not None and set(update_fields) == {"kept"}:
        about = {"id": instance.pk, "title": instance.title, "measure": instance.measure, "clock": instance.clock}
        sentences = [pair["sentence"] for pair in instance.kept["pairs"]]
        announce(Event.COMPARISON_SAVED, {**about, "sentences": sentences, "page": f"/compare/{instance.pk}"})


@receiver(in_trouble)
def _recording_in_trouble(name: str, trouble: str, **kwargs: Any) -> None:
    announce(Event.RECORDING_IN_TROUBLE, {"name": name, "trouble": trouble, "page": "/record"})


@receiver(worker_began)
def _worker_began(**kwargs: Any) -> None:
    resume()

"""Sending to an address: signed, without following it anywhere else, again after longer and longer pauses."""

from __future__ import annotations

import hashlib
import hmac
import json
import urllib.error
import urllib.request
from datetime import timedelta
from http.client import HTTPException
from typing import Any

from django.db.models import F, QuerySet
from django.utils import timezone
from django_tasks import task

from webhooks.models import Delivery

TIMEOUT_S = 5.0
PAUSES = tuple(timedelta(minutes=minutes) for minutes in (1, 5, 30, 120, 360, 1440))


class _NoRedirect(urllib.request.HTTPRedirectHandler):
    """An address leads nowhere else: only what an administrator gave is asked."""

    def redirect_request(self, *args: Any, **kwargs: Any) -> None:
        """Never."""
        return


_OPENER = urllib.request.build_opener(urllib.request.ProxyHandler({}), _NoRedirect)


@task()
def send(number: int) -> None:
    """Send one delivery that is due, and have it sent again later where it is not taken."""
    now = timezone.now()
    delivery = waiting().filter(pk=number, due_at__lte=now).select_related("webhook").first()
    if delivery is None:  # taken already, or another task is to send it later, or its address is gone
        return
    answer, taken = _post(delivery)
    pause = PAUSES[delivery.tries] if delivery.tries < len(PAUSES) else None
    changed: dict[str, Any] = {"tries": F("tries") + 1, "answer": answer[:200]}
    if taken:
        changed["taken_at"] = now
    elif pause is None:
        changed["given_up"] = True
    else:
        changed["due_at"] = now + pause
    Delivery.objects.filter(pk=number).update(**changed)
    if "due_at" in changed:
        send.using(run_after=changed["due_at"]).enqueue(number)


def waiting() -> QuerySet[Delivery]:
    """What is still to be taken."""
    return Delivery.objects.filter(taken_at=None, given_up=False)


def resume() -> None:
    """Have what a worker left when it was killed sent when it is due."""
    for number, due_at in waiting().values_list("pk", "due_at"):
        send.using(run_after=max(due_at, timezone.now())).enqueue(number)


def send_again(delivery: Delivery) -> None:
    """Begin anew with a delivery."""
    again = {"tries": 0, "given_up": False, "taken_at": None, "due_at": timezone.now()}
    Delivery.objects.filter(pk=delivery.pk).update(**again)
    send.enqueue(delivery.pk)


def body_of(delivery: Delivery) -> bytes:
    """What is sent: the same bytes at every try."""
    message = {"id": delivery.pk, "event": delivery.event, "at": delivery.made_at.isoformat(), "about": delivery.about}
    return json.dumps(message, sort_keys=True).encode()


def signature(secret: str, time: str, body: bytes) -> str:
    """HMAC-SHA256 (RFC 2104) of the time and the body, as hexadecimal digits."""
    return hmac.new(secret.encode(), f"{time}.".encode() + body, hashlib.sha256).hexdigest()


def _post(delivery: Delivery) -> tuple[str, bool]:
    """What the address answered, and whether it took it."""
    body, time = body_of(delivery), f"{timezone.now().timestamp():.0f}"
    headers = {
        "Content-Type": "application/json",
        "User-Agent": "Coombe",
        "Coombe-Delivery": str(delivery.pk),
        "Coombe-Time": time,
        "Coombe-Signature": signature(delivery.webhook.secret, time, body),
    }
    request = urllib.request.Request(delivery.webhook.address, body, headers, method="POST")
    try:
        with _OPENER.open(request, timeout=TIMEOUT_S) as answer:
            return f"{answer.status}", True
    except urllib.error.HTTPError as error:
        with error:
            return f"{error.code}", False
    except (OSError, HTTPException, ValueError) as error:
        return f"does not answer: {getattr(error, 'reason', None) or error}", False

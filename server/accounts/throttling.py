"""Guessing at passwords is held back: longer after each failure for a name, and by address for many names.

A name is never locked: whoever logged in from a browser before is known there by a signed cookie, and counted apart
from strangers, so that nobody can keep a person out by guessing at their name.
"""

from __future__ import annotations

import secrets
from datetime import datetime, timedelta
from typing import Any

from django.contrib.auth.backends import BaseBackend
from django.core import signing
from django.core.exceptions import PermissionDenied
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from accounts.models import SecurityEvent, SecurityEventKind, User

WINDOW = timedelta(minutes=15)
FREE_FAILURES = 3  # before a name is held back at all
LONGEST_HOLD_S = 60
MOST_FAILURES_BY_ADDRESS = 20  # in the window, whatever the names
DEVICE_COOKIE, DEVICE_SALT = "known-device", "coombe.known-device"
DEVICE_KEPT = timedelta(days=180)


class HoldBackBackend(BaseBackend):
    """The first authentication backend: stops an attempt that comes too soon."""

    def authenticate(self, request: HttpRequest | None, username: str | None = None, **kwargs: Any) -> User | None:
        """Never lets anybody in. Raises PermissionDenied, and says on the request for how many seconds to wait."""
        if request is None:
            return None
        wait_s = hold_s(request, username or "")
        if wait_s > 0:
            request.held_back_s = wait_s  # type: ignore[attr-defined]
            raise PermissionDenied
        return None


def hold_s(request: HttpRequest, username: str) -> int:
    """For how many more seconds an attempt with a name is held back; 0 where it may be made."""
    failed = SecurityEvent.objects.filter(kind=SecurityEventKind.FAILED, at__gte=timezone.now() - WINDOW)
    device = device_of(request, username)
    if device:
        return _hold_of_name(failed.filter(username=username, device=device))
    by_address = failed.filter(address=request.META.get("REMOTE_ADDR", ""), device="")
    oldest = by_address.order_by("-at").values_list("at", flat=True)[MOST_FAILURES_BY_ADDRESS - 1 :].first()
    hold_of_address = _until(oldest + WINDOW) if oldest else 0
    return max(_hold_of_name(failed.filter(username=username, device="")), hold_of_address)


def _hold_of_name(failed: QuerySet[SecurityEvent]) -> int:
    """Twice as long after each failure that follows the first few."""
    times = list(failed.order_by("-at").values_list("at", flat=True)[:20])
    over = len(times) - FREE_FAILURES
    if over < 0 or not times:
        return 0
    return _until(times[0] + timedelta(seconds=min(2 ** (over + 1), LONGEST_HOLD_S)))


def _until(instant: datetime) -> int:
    left_s = (instant - timezone.now()).total_seconds()
    return max(int(left_s) + 1, 0) if left_s > 0 else 0


def device_of(request: HttpRequest | None, username: str) -> str:
    """The mark of a browser that the person logged in with before; empty for any other."""
    signed = request.COOKIES.get(DEVICE_COOKIE, "") if request else ""
    try:
        known = signing.loads(signed, salt=DEVICE_SALT, max_age=DEVICE_KEPT)
    except signing.BadSignature:
        return ""
    return str(known["device"]) if known.get("username") == username else ""


def remember_device(response: HttpResponse, username: str, secure: bool) -> None:
    """Have the browser known as one that the person logged in with."""
    made = {"username": username, "device": secrets.token_urlsafe(16)}
    response.set_cookie(
        DEVICE_COOKIE,
        signing.dumps(made, salt=DEVICE_SALT),
        max_age=DEVICE_KEPT,
        httponly=True,
        secure=secure,
        samesite="Lax",
    )

"""The security log: log-ins, failures, changes of people, deletions and exports, as rows and as log lines."""

from __future__ import annotations

import logging
from collections.abc import Callable
from typing import Any

from django.contrib.auth.signals import user_logged_in, user_logged_out, user_login_failed
from django.dispatch import receiver
from django.http import HttpRequest
from django.http.response import HttpResponseBase

from accounts.models import SecurityEvent, SecurityEventKind, User
from accounts.sessions import forget_expired, note_browser
from accounts.throttling import device_of

logger = logging.getLogger("coombe.security")


def note(request: HttpRequest | None, kind: SecurityEventKind, detail: str = "", username: str = "") -> None:
    """Write an event down."""
    user = getattr(request, "user", None)
    person = user if isinstance(user, User) and user.pk else None
    event = SecurityEvent.objects.create(
        kind=kind,
        username=(username or (person.username if person else ""))[:150],
        person=person,
        address=address_of(request),
        device=device_of(request, username),
        detail=detail[:300],
    )
    logger.info("%s: %r from %s %s", event.kind, event.username, event.address or "the command line", event.detail)


def address_of(request: HttpRequest | None) -> str:
    """Where a request comes from, as the connection has it; empty for the command line."""
    return str(request.META.get("REMOTE_ADDR", ""))[:45] if request else ""


@receiver(user_logged_in)
def _logged_in(request: HttpRequest, user: User, **kwargs: Any) -> None:
    note_browser(request, address_of(request))
    forget_expired()
    note(request, SecurityEventKind.LOG_IN, username=user.username)


@receiver(user_logged_out)
def _logged_out(request: HttpRequest, user: User | None, **kwargs: Any) -> None:
    if user:
        note(request, SecurityEventKind.LOG_OUT, username=user.username)


@receiver(user_login_failed)
def _failed(credentials: dict[str, Any], request: HttpRequest | None = None, **kwargs: Any) -> None:
    held = getattr(request, "held_back_s", 0)
    kind = SecurityEventKind.HELD_BACK if held else SecurityEventKind.FAILED
    note(request, kind, username=str(credentials.get("username", "")))


class SecurityLogMiddleware:
    """Notes deletions and exports once they were answered."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        """Answer, then note what it was."""
        response = self._get_response(request)
        if request.path.startswith("/api/v1/"):
            if request.method == "DELETE" and response.status_code == 204 and request.path != "/api/v1/session/":
                note(request, SecurityEventKind.DELETED, request.path)
            elif response.headers.get("Content-Disposition", "").startswith("attachment"):
                note(request, SecurityEventKind.EXPORTED, request.path)
        return response

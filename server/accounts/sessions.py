"""Sessions of browsers, in the database as Django keeps them, with whose they are and where from."""

from __future__ import annotations

import hashlib
import time
from collections.abc import Callable
from contextlib import suppress
from datetime import datetime
from typing import Any

from django.contrib.auth import SESSION_KEY
from django.contrib.sessions.backends.db import SessionStore as DatabaseStore
from django.db.models import QuerySet
from django.http import HttpRequest
from django.http.response import HttpResponseBase
from django.utils import timezone

from accounts.models import BrowserSession, User
from config.connections import AWAY

FROM = "from"  # where in a session stands when it was begun, in which browser and from where
SEEN_EVERY_S = 300.0  # how precisely it is kept when a browser was last seen
MOST_REMEMBERED = 10_000


class SessionStore(DatabaseStore):
    """Django's store over rows that name the person."""

    @classmethod
    def get_model_class(cls) -> type[BrowserSession]:
        """Its rows."""
        return BrowserSession

    def create_model_instance(self, data: dict[str, Any]) -> BrowserSession:
        """The row of a session's data."""
        row = BrowserSession(
            session_key=self._get_or_create_session_key(),  # type: ignore[attr-defined]
            session_data=self.encode(data),
            expire_date=self.get_expiry_date(),
            person_id=data.get(SESSION_KEY),
        )
        if begun := data.get(FROM):
            row.begun_at = datetime.fromisoformat(begun["at"])
            row.address, row.browser = begun["address"], begun["browser"]
        return row


def note_browser(request: HttpRequest, address: str) -> None:
    """Keep with a session when and in which browser it was begun."""
    browser = request.headers.get("User-Agent", "")[:200]
    request.session[FROM] = {"at": timezone.now().isoformat(), "address": address, "browser": browser}


def forget_expired() -> None:
    """Remove the sessions that have run out, of anybody."""
    BrowserSession.objects.filter(expire_date__lt=timezone.now()).delete()


def mark_of(row: BrowserSession) -> str:
    """What names a session to its owner; the key itself would open it."""
    return hashlib.sha256(row.session_key.encode()).hexdigest()[:16]


def open_of(person: User) -> QuerySet[BrowserSession]:
    """The sessions of a person that have not run out, the latest seen first."""
    return BrowserSession.objects.filter(person=person, expire_date__gt=timezone.now())


def end_sessions(person: User, but: str | None = None) -> int:
    """End all sessions of a person, but the one with a key; how many there were."""
    ended, _ = BrowserSession.objects.filter(person=person).exclude(session_key=but or "").delete()
    return ended


class SeenMiddleware:
    """Keeps when a browser was last seen, to a few minutes."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self._get_response = get_response
        self._kept_at_s: dict[str, float] = {}

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        """Answer, then keep it."""
        response = self._get_response(request)
        key = request.session.session_key
        with suppress(*AWAY):  # the answer is there, and is worth more
            if key and request.session.accessed and SESSION_KEY in request.session:
                self._keep(key)
        return response

    def _keep(self, key: str) -> None:
        now_s = time.monotonic()
        if now_s - self._kept_at_s.get(key, -SEEN_EVERY_S) < SEEN_EVERY_S:
            return
        if len(self._kept_at_s) >= MOST_REMEMBERED:
            self._kept_at_s.clear()
        self._kept_at_s[key] = now_s
        BrowserSession.objects.filter(pk=key).update(seen_at=timezone.now())

"""Requests to a served Coombe by a person who is logged in, for the trials that load it and kill its processes."""

from __future__ import annotations

import http.client
from typing import cast

from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY

from accounts.models import User
from accounts.sessions import SessionStore

TOKEN = "x" * 32
LIMIT_S = 120.0


class Asker:
    """One person's browser, to a port of this machine."""

    def __init__(self, port: int) -> None:
        self.port = port
        self._session = ""

    def log_in(self, person: User) -> None:
        """Ask as that person from now on; no password is needed where the database is at hand."""
        session = SessionStore()
        session[SESSION_KEY] = str(person.pk)
        session[BACKEND_SESSION_KEY] = "django.contrib.auth.backends.ModelBackend"
        session[HASH_SESSION_KEY] = person.get_session_auth_hash()
        session.save()
        self._session = cast(str, session.session_key)

    @property
    def cookies(self) -> dict[str, str]:
        """What a browser of this person holds."""
        return {"sessionid": self._session, "csrftoken": TOKEN}

    @property
    def headers(self) -> dict[str, str]:
        """What says who asks, and that it is no forged request."""
        return {"Cookie": f"sessionid={self._session}; csrftoken={TOKEN}", "X-CSRFToken": TOKEN}

    def ask(
        self, method: str, path: str, body: bytes | None = None, media_type: str = "application/json"
    ) -> tuple[int, bytes]:
        """An answer's status and body; 0 and nothing where nobody answers."""
        line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=LIMIT_S)
        try:
            line.request(method, path, body, {**self.headers, "Content-Type": media_type})
            answer = line.getresponse()
            return answer.status, answer.read()
        except (OSError, http.client.HTTPException):
            return 0, b""
        finally:
            line.close()

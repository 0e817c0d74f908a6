"""What stands before the application: who may send how much, how slowly, and how many requests run at once.

Django reads a request's whole body before any view sees it. Here the body is refused while it arrives: by its size, by
its time, and, above a few kilobytes, where nobody is logged in.
"""

from __future__ import annotations

import asyncio
import json
import re
import time
from collections.abc import Awaitable, Callable, MutableMapping
from http.cookies import CookieError, SimpleCookie
from importlib import import_module
from typing import Any

from asgiref.sync import sync_to_async
from django.conf import settings
from django.contrib.auth import get_user
from django.http import HttpRequest

from accounts.tokens import token_of
from config.connections import release_connections
from config.errors import MEDIA_TYPE, problem

Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
App = Callable[[Message, Receive, Send], Awaitable[None]]

ANYBODY_BYTES = 64 * 1024  # what is taken without a log-in: a name and a password need far less
DATA_BYTES = 4 * 1024**2
FORM_BYTES = 64 * 1024  # what a form adds to its files
SILENT_S = 20.0  # the longest pause in a body
SLOWEST_BYTES_PER_S = 2_000.0  # after the first pause; a slower body is cut off
AT_ONCE = 32  # requests that a process works on at once: each may hold a connection to the database
LIVE = re.compile(r"^/api/v1/recorders/\d+/live/$")  # open for hours, and without a connection meanwhile


def limit_bytes(path: str) -> int:
    """How large the body of a request to an address may be."""
    limits = {
        r"^/api/v1/logs/$": 2 * settings.MAX_LOG_BYTES,  # a log and its CAN log
        r"^/api/v1/attachments/$": settings.MAX_ATTACHMENT_BYTES,
        r"^/api/v1/courses/\d+/survey/$": settings.MAX_SURVEY_BYTES,
    }
    found = next((size for pattern, size in limits.items() if re.match(pattern, path)), None)
    return DATA_BYTES if found is None else found + FORM_BYTES


class RefusedError(Exception):
    """A body that is not read further."""

    def __init__(self, status: int, sentence: str, code: str) -> None:
        super().__init__(sentence)
        self.body = problem(status, sentence, code)


class Guard:
    """An ASGI application around another one."""

    def __init__(self, app: App) -> None:
        self._app = app
        self._places: asyncio.Semaphore | None = None

    async def __call__(self, scope: Message, receive: Receive, send: Send) -> None:
        """Pass a request on, or answer it with a problem."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        self._places = self._places or asyncio.Semaphore(AT_ONCE)
        body = Body(scope, receive, None if LIVE.match(scope["path"]) else self._places)
        begun = False

        async def sending(message: Message) -> None:
            nonlocal begun
            begun = True
            await send(message)

        try:
            await body.check_stated()
            await self._app(scope, body.receive, sending)
        except RefusedError as refused:
            if not begun:
                await _refuse(refused.body, send)
        finally:
            body.leave()


class Body:
    """The body of one request as it arrives, watched."""

    def __init__(self, scope: Message, receive: Receive, places: asyncio.Semaphore | None) -> None:
        self._scope, self._receive, self._places = scope, receive, places
        self._limit = limit_bytes(scope["path"])
        self._read = 0
        self._complete = self._trusted = self._placed = False
        self._began = time.monotonic()

    async def check_stated(self) -> None:
        """Judge the request by the length that it states, before anything is read. Raises RefusedError."""
        stated = dict(self._scope["headers"]).get(b"content-length", b"0")
        await self._check(int(stated) if stated.isdigit() else 0)

    async def receive(self) -> Message:
        """The next message. Raises RefusedError for a body too large, too slow, or from somebody unknown."""
        if self._complete:
            return await self._receive()
        try:
            message = await asyncio.wait_for(self._receive(), SILENT_S)
        except TimeoutError:
            raise RefusedError(408, "The request stopped halfway. Send it again.", "too_slow") from None
        if message["type"] != "http.request":
            return message
        self._read += len(message.get("body", b""))
        await self._check(self._read)
        self._complete = not message.get("more_body", False)
        if self._complete:
            await self._enter()
        elif time.monotonic() - self._began > SILENT_S + self._read / SLOWEST_BYTES_PER_S:
            raise RefusedError(408, "The request arrives too slowly. Send it again.", "too_slow")
        return message

    async def _check(self, size: int) -> None:
        if size > self._limit:
            message = f"This address takes at most {self._limit / 1024**2:.0f} MB. Send less, or split the file."
            raise RefusedError(413, message, "too_large")
        if size > ANYBODY_BYTES and not self._trusted:
            self._trusted = await _is_logged_in(_session_key(self._scope), _authorization(self._scope))
            if not self._trusted:
                raise RefusedError(401, "Log in first.", "not_authenticated")

    async def _enter(self) -> None:
        """Wait for one of the places; a body that is still arriving holds none."""
        if self._places is not None:
            await self._places.acquire()
            self._placed = True

    def leave(self) -> None:
        """Give the place back."""
        if self._placed and self._places is not None:
            self._placed = False
            self._places.release()


def _authorization(scope: Message) -> str:
    found = (value for name, value in scope["headers"] if name == b"authorization")
    return next(found, b"").decode("latin-1")


def _session_key(scope: Message) -> str:
    sent = b"; ".join(value for name, value in scope["headers"] if name == b"cookie").decode("latin-1")
    try:
        morsel = SimpleCookie(sent).get(settings.SESSION_COOKIE_NAME)
    except CookieError:
        return ""
    return morsel.value if morsel else ""


@sync_to_async
def _is_logged_in(session_key: str, authorization: str) -> bool:
    """Whether a session or an access token is one of a person who may still log in."""
    if authorization:
        try:
            return token_of(authorization) is not None
        finally:
            release_connections()
    if not session_key:
        return False
    request = HttpRequest()
    request.session = import_module(settings.SESSION_ENGINE).SessionStore(session_key)
    try:
        return bool(get_user(request).is_authenticated)
    finally:
        release_connections()


async def _refuse(body: dict[str, Any], send: Send) -> None:
    data = json.dumps(body).encode()
    headers = [
        (b"content-type", MEDIA_TYPE.encode()),
        (b"content-length", str(len(data)).encode()),
        (b"cache-control", b"no-store"),
        (b"connection", b"close"),  # what is still on its way is not read
    ]
    await send({"type": "http.response.start", "status": body["status"], "headers": headers})
    await send({"type": "http.response.body", "body": data})

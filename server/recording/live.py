"""What a recorder reports, passed on to a page as server-sent events by whichever web worker it asked."""

from __future__ import annotations

import asyncio
import json
import socket
import time
from collections.abc import AsyncIterator

from asgiref.sync import sync_to_async
from django.contrib.auth import get_user
from django.http import HttpRequest, HttpResponseBase, JsonResponse, StreamingHttpResponse

from accounts.models import User
from config.connections import AWAY, release_connections
from config.errors import MEDIA_TYPE, problem
from recording.broadcast import HOST
from recording.models import Recorder

RETRY_S = 0.5
BEAT_S = 5.0
NO_ANSWER = b'data: {"t": "away"}\n\n'
BEAT = b": still here\n\n"


async def live(request: HttpRequest, pk: int) -> HttpResponseBase:
    """Glances, states and runs of one recorder, for as long as the page listens and its person may log in."""
    person = await _person(request)
    if person is None:
        return JsonResponse(problem(401, "Log in first.", "not_authenticated"), status=401, content_type=MEDIA_TYPE)
    answer = StreamingHttpResponse(_events(pk, person), content_type="text/event-stream")
    answer["Cache-Control"] = "no-store"
    answer["X-Accel-Buffering"] = "no"
    return answer


@sync_to_async
def _person(request: HttpRequest) -> int | None:
    """The number of who is logged in. The stream lasts for hours: no connection is kept for it."""
    try:
        user = get_user(request)
        return user.pk if user.is_authenticated else None
    finally:
        release_connections()


@sync_to_async
def _may_listen(person: int) -> bool:
    try:
        return User.objects.filter(pk=person, is_active=True).exists()
    except AWAY:
        return True  # while the database is away, who listens goes on
    finally:
        release_connections()


async def _events(pk: int, person: int) -> AsyncIterator[bytes]:
    """Lines of the recorder as events; `away` while its process does not answer."""
    while await _may_listen(person):
        port = await _port(pk)
        try:
            if port is None:
                raise OSError("the recorder has never run")
            reader, writer = await asyncio.open_connection(HOST, port)
        except OSError:
            yield NO_ANSWER
            await asyncio.sleep(RETRY_S)
            continue
        try:
            async for event in _lines(reader, person):
                yield event
        finally:
            writer.close()


async def _lines(reader: asyncio.StreamReader, person: int) -> AsyncIterator[bytes]:
    looked_at = time.monotonic()
    while True:
        if time.monotonic() - looked_at > BEAT_S:
            looked_at = time.monotonic()
            if not await _may_listen(person):
                return
        try:
            line = await asyncio.wait_for(reader.readline(), BEAT_S)
        except TimeoutError:
            yield BEAT
            continue
        except OSError:
            return
        if not line:
            return
        yield b"data: " + line.strip() + b"\n\n"


@sync_to_async
def _port(pk: int) -> int | None:
    try:
        found: int | None = Recorder.objects.filter(pk=pk, wanted=True).values_list("live_port", flat=True).first()
        return found
    except AWAY:
        return None
    finally:
        release_connections()


def say(recorder: Recorder, message: dict[str, object]) -> None:
    """Tell a recorder's process something, if it is there."""
    if recorder.live_port is None:
        return
    try:
        with socket.create_connection((HOST, recorder.live_port), 1.0) as line:
            line.sendall(json.dumps(message).encode() + b"\n")
    except OSError:
        return

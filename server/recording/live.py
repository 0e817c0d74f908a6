"""What a recorder reports, passed on to a page as server-sent events by whichever web worker it asked."""

from __future__ import annotations

import asyncio
import json
import socket
import time
from collections.abc import AsyncIterator

from asgiref.sync import sync_to_async
from django.conf import settings
from django.contrib.auth import get_user
from django.http import HttpRequest, HttpResponseBase, JsonResponse, StreamingHttpResponse

from accounts.models import User
from config.connections import AWAY, release_connections
from config.errors import MEDIA_TYPE, problem
from recording import relaying
from recording.broadcast import HOST
from recording.models import Recorder

RETRY_S = 0.5
ELSEWHERE = -1
SILENT_S = 3.0
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
        place = await _place(pk)
        if place is ELSEWHERE:
            async for event in _relayed(pk):
                yield event
            continue
        try:
            if place is None:
                raise OSError("the recorder has never run")
            reader, writer = await asyncio.open_connection(HOST, place)
        except OSError:
            yield NO_ANSWER
            await asyncio.sleep(RETRY_S)
            continue
        try:
            async for event in _lines(reader, person):
                yield event
        finally:
            writer.close()


async def _relayed(pk: int) -> AsyncIterator[bytes]:
    """What another machine's process leaves in the database, for a while; `away` where it leaves nothing."""
    known: dict[str, str] = {}
    number, ended_at = 0, time.monotonic() + BEAT_S
    news_at = time.monotonic()
    while time.monotonic() < ended_at:
        found, lines = await sync_to_async(relaying.latest_for_all)(pk)
        if found != number:
            number, news_at = found, time.monotonic()
        for kind, line in lines.items():
            if known.get(kind) != line:
                yield b"data: " + line.encode() + b"\n\n"
        known = lines
        if time.monotonic() - news_at > SILENT_S:
            yield NO_ANSWER
        await asyncio.sleep(relaying.EVERY_S)
    yield BEAT


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
def _place(pk: int) -> int | None:
    """The port of its process; ELSEWHERE where another machine has it, none where nobody does."""
    try:
        recorder = Recorder.objects.filter(pk=pk, wanted=True).only("live_port", "held_by").first()
        if recorder is None:
            return None
        return ELSEWHERE if settings.CLUSTER and relaying.is_elsewhere(recorder) else recorder.live_port
    except AWAY:
        return None
    finally:
        release_connections()


def say_seen(recorder: Recorder) -> None:
    """Tell a recorder's process, if it is there, that a person has decided on a result."""
    if settings.CLUSTER and relaying.is_elsewhere(recorder):
        relaying.say_seen(recorder.pk)
        return
    if recorder.live_port is None:
        return
    try:
        with socket.create_connection((HOST, recorder.live_port), 1.0) as line:
            line.sendall(json.dumps({"seen": True}).encode() + b"\n")
    except OSError:
        return

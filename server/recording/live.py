"""What a recorder tells, passed on to a page as server-sent events by whichever web worker it asked."""

from __future__ import annotations

import asyncio
import json
import socket
from collections.abc import AsyncIterator

from asgiref.sync import sync_to_async
from django.db import close_old_connections
from django.http import HttpRequest, HttpResponseBase, JsonResponse, StreamingHttpResponse

from recording.broadcast import HOST
from recording.models import Recorder

RETRY_S = 0.5
BEAT_S = 5.0
AWAY = b'data: {"t": "away"}\n\n'
BEAT = b": still here\n\n"


async def live(request: HttpRequest, pk: int) -> HttpResponseBase:
    """Glances, states and runs of one recorder, for as long as the page listens."""
    person = await request.auser()
    if not person.is_authenticated:
        return JsonResponse({"detail": "Log in first.", "code": "not_authenticated"}, status=403)
    answer = StreamingHttpResponse(_events(pk), content_type="text/event-stream")
    answer["Cache-Control"] = "no-store"
    answer["X-Accel-Buffering"] = "no"
    return answer


async def _events(pk: int) -> AsyncIterator[bytes]:
    """Lines of the recorder as events; `away` while its process does not answer."""
    while True:
        port = await _port(pk)
        try:
            if port is None:
                raise OSError("the recorder has never run")
            reader, writer = await asyncio.open_connection(HOST, port)
        except OSError:
            yield AWAY
            await asyncio.sleep(RETRY_S)
            continue
        try:
            async for event in _lines(reader):
                yield event
        finally:
            writer.close()


async def _lines(reader: asyncio.StreamReader) -> AsyncIterator[bytes]:
    while True:
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
    close_old_connections()
    found: int | None = Recorder.objects.filter(pk=pk, wanted=True).values_list("live_port", flat=True).first()
    return found


def say(recorder: Recorder, said: dict[str, object]) -> None:
    """Tell a recorder's process something, if it is there."""
    if recorder.live_port is None:
        return
    try:
        with socket.create_connection((HOST, recorder.live_port), 1.0) as line:
            line.sendall(json.dumps(said).encode() + b"\n")
    except OSError:
        return

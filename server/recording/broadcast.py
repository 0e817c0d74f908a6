"""What a recorder reports: JSON objects, one a line, to every web worker that listens on its loopback port."""

from __future__ import annotations

import asyncio
import json
import threading
from collections.abc import Callable
from typing import Any

HOST = "127.0.0.1"
MOST_UNSENT_BYTES = 1 << 18


class Broadcast:
    """A port with any number of listeners. A newcomer is reported the last object of every kind (`t`) first.

    What a listener sends, one JSON object a line, goes to `heard`.
    """

    def __init__(self, heard: Callable[[dict[str, Any]], None]) -> None:
        self._heard = heard
        self._last: dict[str, bytes] = {}
        self._writers: set[asyncio.StreamWriter] = set()
        self._loop = asyncio.new_event_loop()
        self.port = self._loop.run_until_complete(self._open())
        threading.Thread(target=self._loop.run_forever, name="broadcast", daemon=True).start()

    def tell(self, report: dict[str, Any]) -> None:
        """Tell all listeners, from any thread."""
        line = json.dumps(report).encode() + b"\n"
        self._loop.call_soon_threadsafe(self._send, report["t"], line)

    @property
    def last(self) -> dict[str, str]:
        """The last report of each kind, from any thread."""
        return {kind: line.decode().strip() for kind, line in self._last.copy().items()}

    def _send(self, kind: str, line: bytes) -> None:
        self._last[kind] = line
        for writer in list(self._writers):
            if writer.is_closing() or writer.transport.get_write_buffer_size() > MOST_UNSENT_BYTES:
                self._writers.discard(writer)
                writer.close()
            else:
                writer.write(line)

    async def _open(self) -> int:
        self._server = await asyncio.start_server(self._welcome, HOST, 0)
        port: int = self._server.sockets[0].getsockname()[1]
        return port

    async def _welcome(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        for line in self._last.values():
            writer.write(line)
        self._writers.add(writer)
        try:
            while line := await reader.readline():
                self._heard(json.loads(line))
        except (OSError, ValueError):
            pass
        finally:
            self._writers.discard(writer)
            writer.close()

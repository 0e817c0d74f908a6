"""uvicorn's HTTP protocol with an end to how long a request's head may take."""

from __future__ import annotations

import asyncio
import os

import h11
from uvicorn.protocols.http.h11_impl import H11Protocol

HEAD_S = float(os.environ.get("COOMBE_HEAD_S", "10"))


class TimedProtocol(H11Protocol):
    """Closes a connection that has not sent a whole request head within HEAD_S."""

    _head_timer: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """The time begins."""
        super().connection_made(transport)
        self._expect_head()

    def data_received(self, data: bytes) -> None:
        """The time begins anew with the first bytes after an answer."""
        super().data_received(data)
        if self._waits_for_head():
            self._expect_head()
        elif self._head_timer:
            self._head_timer.cancel()
            self._head_timer = None

    def connection_lost(self, exc: Exception | None) -> None:
        """Nothing is waited for any more."""
        if self._head_timer:
            self._head_timer.cancel()
        super().connection_lost(exc)

    def _expect_head(self) -> None:
        if self._head_timer is None:
            self._head_timer = self.loop.call_later(HEAD_S, self._give_up)

    def _waits_for_head(self) -> bool:
        return self.conn.their_state is h11.IDLE

    def _give_up(self) -> None:
        self._head_timer = None
        if self._waits_for_head() and not self.transport.is_closing():
            self.transport.close()

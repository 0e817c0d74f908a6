"""Live reports by way of the database, where a page is served by another machine than the one that records.

A laptop at a course reaches the database; nobody reaches the laptop. So it leaves there what it reported last, a few
times a second, and a web node of another machine looks as often. Neither needs an address, a port or a key besides.
"""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable
from typing import Any

from django.db import connection
from django.db.models import F

from config.connections import AWAY, release_connections
from recording import lease
from recording.broadcast import Broadcast
from recording.models import LiveReport, Recorder

EVERY_S = 0.25
STILL_THERE = 4  # looks without news, after which it is said that the process is there
AWAY_S = 1.0
logger = logging.getLogger(__name__)


def is_elsewhere(recorder: Recorder) -> bool:
    """Whether another machine than this one records with it, as far as the database knows."""
    return recorder.held_by not in ("", lease.machine())


class Relay:
    """A recorder's reports, left in the database for as long as the process lasts."""

    def __init__(self, recorder: int, broadcast: Broadcast, heard: Callable[[dict[str, Any]], None]) -> None:
        self._recorder, self._broadcast, self._heard = recorder, broadcast, heard
        self._left: dict[str, str] | None = None
        self._seen: int | None = None
        self._unchanged = 0

    def start(self) -> None:
        """Leave them, in a thread of its own."""
        threading.Thread(target=self._go_on, name="relay", daemon=True).start()

    def _go_on(self) -> None:
        pause = threading.Event()
        while not pause.wait(EVERY_S):
            try:
                self.leave()
            except AWAY:
                connection.close()
                pause.wait(AWAY_S)
            except Exception:
                logger.exception("what is reported could not be passed on")
                pause.wait(AWAY_S)

    def leave(self) -> None:
        """Leave what is new; and pass on that a person has decided on a result."""
        lines = self._broadcast.last
        self._unchanged = self._unchanged + 1 if lines == self._left else 0
        if self._unchanged % STILL_THERE == 0:
            rows = LiveReport.objects.filter(pk=self._recorder)
            if not rows.update(lines=lines, number=F("number") + 1):
                LiveReport.objects.create(pk=self._recorder, lines=lines)
            self._left = lines
        seen = LiveReport.objects.values_list("seen", flat=True).get(pk=self._recorder)
        if self._seen not in (None, seen):
            self._heard({"seen": True})
        self._seen = seen


def say_seen(recorder: int) -> None:
    """Tell the process of another machine that a person has decided on a result."""
    LiveReport.objects.filter(pk=recorder).update(seen=F("seen") + 1)


_looks: dict[int, tuple[float, tuple[int, dict[str, str]]]] = {}


def latest_for_all(recorder: int) -> tuple[int, dict[str, str]]:
    """As `latest`, looked for once for all who watch through this process."""
    looked_at_s, found = _looks.get(recorder, (0.0, (0, {})))
    if time.monotonic() - looked_at_s > EVERY_S / 2:
        found = latest(recorder)
        _looks[recorder] = (time.monotonic(), found)
    return found


def latest(recorder: int) -> tuple[int, dict[str, str]]:
    """The number and the lines that were left last; 0 and none where nothing was."""
    try:
        found = LiveReport.objects.filter(pk=recorder).values_list("number", "lines").first()
        return found or (0, {})
    except AWAY:
        return 0, {}
    finally:
        release_connections()

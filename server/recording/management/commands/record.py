"""`coombe record`: one recorder's process, or, without a name, a process for every recorder that is wanted."""

from __future__ import annotations

import logging
import os
import signal
import sys
import threading
import time
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection, connections

from config.connections import AWAY
from coombe_launcher.beside import KeptProcess, end
from recording import memory
from recording.finishing import left_here
from recording.keeper import NeverRecordedError
from recording.lease import HeldError
from recording.models import Recorder
from recording.recorder import RecorderProcess

LOOK_S = 0.5
LOOK_FOR_UNSTORED_S = 5.0
WANTED = "wanted"
SILENCE = {"read_timeout": 20, "write_timeout": 20}  # s; a line that is cut says nothing
logger = logging.getLogger(__name__)


class Command(BaseCommand):
    """Record."""

    requires_system_checks = ()  # they load every page, and have passed where Coombe was started
    help = "Record with one recorder, by its number, or with all that are wanted."

    def add_arguments(self, parser: CommandParser) -> None:
        """The recorder's number."""
        parser.add_argument("recorder", nargs="?", type=int)

    def handle(self, *args: Any, **options: Any) -> None:
        """Until stopped."""
        if options["recorder"] is None:
            supervisor = Supervisor()
            signal.signal(signal.SIGTERM, lambda *_: supervisor.told_to_end.set())
            supervisor.run()
        else:
            # The kernel has every byte already: nothing is left to be done, and nothing must hold this up.
            signal.signal(signal.SIGTERM, lambda *_: os._exit(0))
            record(options["recorder"])


def record(recorder: int) -> None:
    """Record with one recorder; why it could not is written on its row, where screens find it."""
    connections.settings["default"]["OPTIONS"] |= SILENCE
    try:
        process = RecorderProcess(recorder)
    except Recorder.DoesNotExist:
        raise CommandError("There is no such recorder.") from None
    except BlockingIOError:
        raise CommandError("Another process records with it already.") from None
    except (HeldError, NeverRecordedError) as error:
        raise CommandError(str(error)) from None
    except Exception as error:
        _note(recorder, f"Recording could not begin: {type(error).__name__}: {error}"[:300])
        raise
    process.run()


def _note(recorder: int, trouble: str) -> None:
    try:
        Recorder.objects.filter(pk=recorder).update(trouble=trouble)
    except AWAY:
        logger.exception("the database is away; the trouble of recorder %d is not recorded", recorder)


class Supervisor:
    """Keeps a process running for every recorder that is wanted, and one that stores what has ended.

    Where the database is away those are kept running that were wanted the last time that it answered.
    """

    def __init__(self) -> None:
        self.told_to_end = threading.Event()
        self._processes: dict[int, KeptProcess] = {}
        self._known: set[int] | None = None  # the recorders that were wanted at the last look
        self._storing: KeptProcess | None = None
        self._looked_at = 0.0
        self._everything = True  # at the start also what could not be stored before: the code may be newer

    def run(self) -> None:
        """Until stopped; a look that fails is made again."""
        try:
            while not self.told_to_end.wait(LOOK_S):
                try:
                    self._look()
                except AWAY:
                    connection.close()
                    self._keep_running(self._remembered())
                except Exception:
                    logger.exception("looking after the recorders failed")
        finally:
            for process in self._processes.values():
                process.process.terminate()
            for process in self._processes.values():
                process.stop()
            if self._storing:
                end(self._storing.process)

    def _look(self) -> None:
        wanted = set(Recorder.objects.filter(wanted=True).values_list("pk", flat=True))
        self._keep_running(wanted)
        for pk in set(self._processes) - wanted:
            if self._processes[pk].has_ended:
                del self._processes[pk]
        self._remember(wanted)
        self._store()

    def _keep_running(self, wanted: set[int]) -> None:
        for pk in wanted:
            if pk in self._processes:
                self._processes[pk].look()
            else:
                self._processes[pk] = _kept("record", str(pk))

    def _remember(self, wanted: set[int]) -> None:
        """Keep what is wanted on this machine, for a start without the database."""
        if wanted != self._known:
            memory.remember(WANTED, sorted(wanted))
        self._known = wanted

    def _remembered(self) -> set[int]:
        if self._known is None:
            self._known = set(memory.remembered(WANTED) or ())
        return self._known

    def _store(self) -> None:
        """Have stored what a killed process left behind, beside whatever records."""
        now = time.monotonic()
        if now - self._looked_at < LOOK_FOR_UNSTORED_S or (self._storing and not self._storing.has_ended):
            return
        self._looked_at = now
        waiting = left_here() if self._everything else left_here().filter(trouble="")
        if waiting.exists():
            self._storing = _kept("store_recordings", *(["--all"] if self._everything else []))
        self._everything = False


def _kept(*command: str) -> KeptProcess:
    return KeptProcess(" ".join(command), [sys.executable, "manage.py", *command], None)

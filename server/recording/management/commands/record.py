"""`coombe record`: one recorder's process, or, without a name, a process for every recorder that is wanted."""

from __future__ import annotations

import signal
import subprocess
import sys
import time
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import InterfaceError, OperationalError, connection

from coombe_launcher.looking_after import die_with_parent
from recording.models import Recorder
from recording.recorder import RecorderProcess

LOOK_S = 0.5


class Command(BaseCommand):
    """Record."""

    help = "Record with one recorder, by its number, or with all that are wanted."

    def add_arguments(self, parser: CommandParser) -> None:
        """The recorder's number."""
        parser.add_argument("recorder", nargs="?", type=int)

    def handle(self, *args: Any, **options: Any) -> None:
        """Until told to stop."""
        signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
        if options["recorder"] is None:
            self._look_after_all()
            return
        try:
            process = RecorderProcess(options["recorder"])
        except Recorder.DoesNotExist:
            raise CommandError("There is no such recorder.") from None
        except BlockingIOError:
            raise CommandError("Another process records with it already.") from None
        process.run()

    def _look_after_all(self) -> None:
        """Start a process for each recorder that is wanted, and again where one has ended without being told to."""
        processes: dict[int, subprocess.Popen[bytes]] = {}
        wanted: list[int] = []
        try:
            while True:
                wanted = self._wanted(wanted)
                for pk in wanted:
                    if pk not in processes or processes[pk].poll() is not None:
                        command = [sys.executable, "manage.py", "record", str(pk)]
                        processes[pk] = subprocess.Popen(command, preexec_fn=die_with_parent)
                time.sleep(LOOK_S)
        finally:
            for process in processes.values():
                process.terminate()

    def _wanted(self, before: list[int]) -> list[int]:
        """Those that are wanted now, or were when the database was last there."""
        try:
            return list(Recorder.objects.filter(wanted=True).values_list("pk", flat=True))
        except (OperationalError, InterfaceError):
            connection.close()
            return before

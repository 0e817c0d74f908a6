"""A page on the real web server, with several workers, beside a recorder and its simulated devices."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
from pathlib import Path

from django.conf import settings
from django.test import override_settings

from coombe_launcher.database import free_port
from coombe_launcher.places import SERVER, STATIC
from driving import InBrowser
from recording.tests.recording_case import RecordingCase, environment, until
from runs.tests.factories import PASSWORD

WORKERS = 2


class ServedTest(InBrowser, RecordingCase):
    """The web server and the recorders' process run beside the test, on its database."""

    def setUp(self) -> None:
        super().setUp()
        (self.var / "static").symlink_to(STATIC)
        with override_settings(PASSWORD_HASHERS=["django.contrib.auth.hashers.PBKDF2PasswordHasher"]):
            self.person.set_password(PASSWORD)  # the web server knows nothing of the tests' quick passwords
            self.person.save()
        self.port = free_port()
        self.web = self.serve()

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def serve(self) -> subprocess.Popen[bytes]:
        """Start the web server and wait until it answers."""
        command = [sys.executable, "-m", "config.web", "--host", "127.0.0.1", "--port", str(self.port)]
        process = self.beside([*command, "--workers", str(WORKERS)])
        until("the web server answers", self.answers)
        return process

    def kill_web(self) -> None:
        """Kill the web server with all its workers."""
        os.killpg(self.web.pid, signal.SIGKILL)
        self.web.wait()

    def look_after_recorders(self) -> subprocess.Popen[bytes]:
        """Start what starts a process for every recorder that is wanted."""
        return self.beside([sys.executable, "manage.py", "record"])

    def kill_recorder(self) -> None:
        """Kill the process that records, not the one that looks after it."""
        asked = ["pgrep", "--full", f"manage.py record {self.recorder.pk}$"]
        found = subprocess.run(asked, capture_output=True, text=True, check=True).stdout.split()
        ours = [pid for pid in found if f"COOMBE_VAR={self.var}" in Path(f"/proc/{pid}/environ").read_text()]
        os.kill(int(ours[0]), signal.SIGKILL)

    def beside(self, command: list[str]) -> subprocess.Popen[bytes]:
        env = environment(self.var) | {"COOMBE_SECRET_KEY": settings.SECRET_KEY}
        process = subprocess.Popen(command, cwd=SERVER, env=env, start_new_session=True)
        self.addCleanup(process.wait)
        self.addCleanup(lambda: process.poll() is None and os.killpg(process.pid, signal.SIGKILL))
        return process

    def answers(self) -> bool:
        with socket.socket() as probe:
            return probe.connect_ex(("127.0.0.1", self.port)) == 0

"""A web server of its own process, for the trials that load it."""

from __future__ import annotations

import io
import os
import subprocess
import sys
import time
import uuid
from collections.abc import Mapping
from typing import Any

from django.conf import settings

from accounts.models import Role, User
from coombe_launcher.database import free_port
from coombe_launcher.places import SERVER
from trials.asking import Asker
from trials.memory import memory_mib

START_LIMIT_S = 60.0


class Web:
    """A web server of its own process, and a person who is logged in there."""

    def __init__(self, env: Mapping[str, str] | None = None, workers: int = 1) -> None:
        self.asker = Asker(free_port())
        self.port = self.asker.port
        person = User.objects.create(username=f"load-{uuid.uuid4().hex[:8]}", role=Role.TESTER)
        self.asker.log_in(person)
        env = {**os.environ, **(env or {}), "COOMBE_SECRET_KEY": settings.SECRET_KEY}
        command = [sys.executable, "-m", "config.web", "--host", "127.0.0.1", "--port", str(self.port)]
        command += ["--workers", str(workers)]
        self.process = subprocess.Popen(command, cwd=SERVER, env=env)
        self.processes = [self.process]
        if env.get("COOMBE_TASKS") != "immediate":
            self.processes.append(subprocess.Popen([sys.executable, "manage.py", "work"], cwd=SERVER, env=env))
        limit = time.monotonic() + START_LIMIT_S
        while time.monotonic() < limit:
            if self.ask("GET", "/api/v1/session/") == 200:
                return
            time.sleep(0.2)
        raise TimeoutError("the web server did not start")

    def ask(self, method: str, path: str, body: bytes | None = None, media_type: str = "application/json") -> int:
        """The status of an answer; 0 where the connection broke."""
        return self.asker.ask(method, path, body, media_type)[0]

    def send(self, path: str, files: dict[str, tuple[str, bytes]], **fields: Any) -> int:
        """The status of an upload."""
        mark = uuid.uuid4().hex
        out = io.BytesIO()
        for name, value in fields.items():
            out.write(f'--{mark}\r\nContent-Disposition: form-data; name="{name}"\r\n\r\n{value}\r\n'.encode())
        for name, (file, data) in files.items():
            head = f'--{mark}\r\nContent-Disposition: form-data; name="{name}"; filename="{file}"\r\n\r\n'
            out.write(head.encode() + data + b"\r\n")
        out.write(f"--{mark}--\r\n".encode())
        return self.ask("POST", path, out.getvalue(), f"multipart/form-data; boundary={mark}")

    @property
    def memory_mib(self) -> float:
        """What the web process and its task worker hold."""
        return sum(memory_mib(process.pid) for process in self.processes)

    def stop(self) -> None:
        """End it."""
        for process in self.processes:
            process.terminate()
            process.wait(30)

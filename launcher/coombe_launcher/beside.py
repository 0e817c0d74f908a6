"""Processes that run side by side: each started again alone when it ends, sooner or later, and stopped together."""

from __future__ import annotations

import json
import subprocess
import time
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from coombe_launcher.console import LauncherError, say
from coombe_launcher.looking_after import die_with_parent, looked_after
from coombe_launcher.places import PYTHON, SERVER

STOP_LIMIT_S = 15.0


@dataclass
class Backoff:
    """How long to wait before a process is started again: longer each time that it ended soon after its start."""

    first_s: float = 0.5
    longest_s: float = 30.0
    settled_s: float = 20.0
    failures: int = field(default=0, init=False)
    due_at: float | None = field(default=None, init=False)

    def ended(self, started_at: float, now: float) -> float:
        """Note that a process ended; the seconds to wait."""
        self.failures = 0 if now - started_at > self.settled_s else self.failures + 1
        wait_s = min(self.first_s * 2.0 ** max(self.failures - 1, 0), self.longest_s)
        self.due_at = now + wait_s
        return wait_s

    def is_due(self, now: float) -> bool:
        """Whether it is time to start it again."""
        return self.due_at is not None and now >= self.due_at

    def started(self) -> None:
        """Note that it runs again."""
        self.due_at = None


class KeptProcess:
    """A process that is started again whenever it ends on its own."""

    def __init__(
        self, name: str, command: Sequence[str | Path], env: Mapping[str, str] | None, open_files: Sequence[int] = ()
    ) -> None:
        self.name, self._command, self._env, self._open_files = name, command, env, open_files
        self._backoff = Backoff()
        self._start()

    @property
    def has_ended(self) -> bool:
        """Whether it does not run at the moment."""
        return self.process.poll() is not None

    def look(self) -> None:
        """Start it again where it has ended and its wait is over."""
        now = time.monotonic()
        if not self.has_ended:
            return
        if self._backoff.due_at is None:
            wait_s = self._backoff.ended(self._started_at, now)
            say(f"The {self.name} ended ({_end_of(self.process)}); it starts again in {wait_s:g} s")
        elif self._backoff.is_due(now):
            self._start()

    def stop(self) -> None:
        """Ask it to end, and see to it."""
        end(self.process)

    def _start(self) -> None:
        self._backoff.started()
        self._started_at = time.monotonic()
        self.process = subprocess.Popen(
            self._command,
            cwd=SERVER,
            env=self._env,
            start_new_session=True,
            preexec_fn=die_with_parent,
            pass_fds=self._open_files,
        )


@contextmanager
def kept_running(
    name: str, command: Sequence[str | Path], env: Mapping[str, str], open_files: Sequence[int] = ()
) -> Iterator[KeptProcess]:
    """Keep a process running for as long as the block lasts, also when it is killed; `open_files` it has from us."""
    kept = KeptProcess(name, command, env, open_files)
    try:
        with looked_after(kept.look):
            yield kept
    finally:
        kept.stop()


RECORDERS: Sequence[str | Path] = (PYTHON, "manage.py", "record")  # all that are wanted


@contextmanager
def simulated_devices(env: Mapping[str, str], seed: int = 1) -> Iterator[dict[str, Any]]:
    """Simulated devices for as long as the block lasts; gives their ports."""
    command: list[str | Path] = [PYTHON, "-m", "coombe_core.cli.devices", "--seed", str(seed)]
    process = subprocess.Popen(
        command, env=env, stdout=subprocess.PIPE, text=True, start_new_session=True, preexec_fn=die_with_parent
    )
    try:
        assert process.stdout
        line = process.stdout.readline()
        if not line:
            raise LauncherError("the simulated devices did not start")
        yield json.loads(line)
    finally:
        end(process)


def end(process: subprocess.Popen[Any]) -> None:
    """Ask a process to end; kill it where it does not."""
    process.terminate()
    with suppress(subprocess.TimeoutExpired):
        process.wait(STOP_LIMIT_S)
        return
    process.kill()
    process.wait()


def _end_of(process: subprocess.Popen[Any]) -> str:
    code = process.returncode
    return f"killed by signal {-code}" if code < 0 else f"exit {code}"

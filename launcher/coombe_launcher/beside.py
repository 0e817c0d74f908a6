"""Processes that run beside the web server: started with it, started again when they end, stopped with it."""

from __future__ import annotations

import json
import subprocess
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from coombe_launcher.console import LauncherError
from coombe_launcher.looking_after import die_with_parent, looked_after
from coombe_launcher.places import PYTHON, SERVER

STOP_LIMIT_S = 15.0


@contextmanager
def kept_running(command: Sequence[str | Path], env: Mapping[str, str]) -> Iterator[None]:
    """Keep a process running for as long as the block lasts, also when it is killed."""
    running = _start(command, env)

    def look() -> None:
        nonlocal running
        if running.poll() is not None:
            running = _start(command, env)

    try:
        with looked_after(look):
            yield
    finally:
        _end(running)


RECORDERS: Sequence[str | Path] = (PYTHON, "manage.py", "record")  # all that are wanted


@contextmanager
def stand_ins(env: Mapping[str, str], seed: int = 1) -> Iterator[dict[str, Any]]:
    """Stand-in devices for as long as the block lasts; gives their ports."""
    command: list[str | Path] = [PYTHON, "-m", "coombe_core.simulating.command", "--seed", str(seed)]
    process = subprocess.Popen(
        command, env=env, stdout=subprocess.PIPE, text=True, start_new_session=True, preexec_fn=die_with_parent
    )
    try:
        assert process.stdout
        line = process.stdout.readline()
        if not line:
            raise LauncherError("the stand-in devices did not start")
        yield json.loads(line)
    finally:
        _end(process)


def _start(command: Sequence[str | Path], env: Mapping[str, str]) -> subprocess.Popen[bytes]:
    return subprocess.Popen(command, cwd=SERVER, env=env, start_new_session=True, preexec_fn=die_with_parent)


def _end(process: subprocess.Popen[Any]) -> None:
    process.terminate()
    with suppress(subprocess.TimeoutExpired):
        process.wait(STOP_LIMIT_S)
        return
    process.kill()
    process.wait()

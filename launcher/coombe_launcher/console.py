"""What the launcher says while it works."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Mapping, Sequence
from pathlib import Path

from coombe_launcher.places import PYTHON, SERVER


class LauncherError(Exception):
    """Something that stops the launcher; its text is a sentence for the person at the terminal."""


def say(text: str) -> None:
    """One line on standard output, at once."""
    print(text, flush=True)


def run(
    command: Sequence[str] | Sequence[str | Path],
    doing: str,
    cwd: Path | None = None,
    env: Mapping[str, str] | None = None,
) -> str:
    """Run a command quietly and return what it printed.

    Raises LauncherError with the last lines of its output where it fails or does not exist.
    """
    try:
        done = subprocess.run(command, cwd=cwd, env=env, text=True, capture_output=True, check=False)
    except OSError as error:
        raise LauncherError(f"{doing} failed: {error.strerror}: {command[0]}") from None
    if done.returncode:
        tail = "\n".join((done.stdout + done.stderr).strip().splitlines()[-15:])
        raise LauncherError(f"{doing} failed (exit {done.returncode}):\n{tail}")
    return done.stdout


def manage(env: Mapping[str, str], *arguments: str, doing: str) -> str:
    """Run one of the server's management commands and return what it printed. Raises LauncherError."""
    return run([PYTHON, "manage.py", *arguments], doing, cwd=SERVER, env=env)


def fail(error: LauncherError) -> int:
    """Tell an error on standard error; the exit code to leave with."""
    print(f"coombe: {error}", file=sys.stderr, flush=True)
    return 1

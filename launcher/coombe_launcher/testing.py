"""`coombe test`: lint, types and every test, on a MariaDB of their own."""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from coombe_launcher.console import LauncherError, say
from coombe_launcher.database import PrivateDatabase
from coombe_launcher.installing import environment, node_environment, set_up
from coombe_launcher.places import PYTHON, ROOT, SERVER, VAR, VENV, WEB

TEST: Sequence[str | Path] = (PYTHON, "manage.py", "test", "--no-input")
CORE_TESTS, LAUNCHER_TESTS, BROWSER_TESTS = (str(ROOT / part / "tests") for part in ("core", "launcher", "browser"))
SERVER_TESTS = str(ROOT / "server")
TOTALS = re.compile(r"^(\d+) passed, (\d+) failed", re.MULTILINE)


def test(labels: Sequence[str]) -> int:
    """Run the checks and all tests, or the tests that are named; ends with one line `N passed, N failed`."""
    set_up()
    tracks = [lambda: _tests(labels)] if labels else [_core_and_launcher, _server, _browser]
    with ThreadPoolExecutor(len(tracks)) as beside:  # of about the same length
        results = list(beside.map(lambda track: track(), tracks))
    passed, failed = _sum(*results)
    say(f"{passed} passed, {failed} failed")
    return 1 if failed or not passed else 0


def _core_and_launcher() -> tuple[int, int]:
    """The core's tests need no database."""
    return _sum(_run_tests([*TEST, CORE_TESTS], environment()), _tests([LAUNCHER_TESTS], "launcher"))


def _server() -> tuple[int, int]:
    tools = VENV / "bin"
    checks = [
        _check("ruff check", [tools / "ruff", "check", "."], ROOT, environment()),
        _check("ruff format", [tools / "ruff", "format", "--check", "."], ROOT, environment()),
        _check("lint-imports", [tools / "lint-imports"], ROOT, environment()),
        _check("mypy", [tools / "mypy", "core/coombe_core", "launcher", "server"], ROOT, environment()),
    ]
    return _sum(*checks, _tests([SERVER_TESTS]))


def _browser() -> tuple[int, int]:
    tools = WEB / "node_modules" / ".bin"
    checks = [
        _check("tsc", [tools / "tsc", "--noEmit"], WEB, node_environment()),
        _check("eslint", [tools / "eslint", "."], WEB, node_environment()),
        _check("prettier", [tools / "prettier", "--check", "."], WEB, node_environment()),
    ]
    return _sum(*checks, _tests([BROWSER_TESTS], "browser"))


def _sum(*counts: tuple[int, int]) -> tuple[int, int]:
    passed, failed = (sum(each) for each in zip(*counts, strict=True))
    return passed, failed


def _check(name: str, command: list[str | Path], cwd: Path, env: dict[str, str]) -> tuple[int, int]:
    done = subprocess.run(command, cwd=cwd, env=env, text=True, capture_output=True, check=False)
    say(f"  {name}: {'ok' if done.returncode == 0 else 'FAILED'}")
    if done.returncode:
        say(done.stdout + done.stderr)
    return (0, 1) if done.returncode else (1, 0)


def _tests(labels: Sequence[str], track: str = "test") -> tuple[int, int]:
    home, var = VAR / f"{track}-mariadb", VAR / track
    database = PrivateDatabase(home, forgetful=True)
    try:
        database.start()
        ours = {"DATABASE_URL": database.url, "COOMBE_VAR": str(var), "PATH": node_environment()["PATH"]}
        return _run_tests([*TEST, *labels], environment() | ours)
    finally:
        database.stop()
        shutil.rmtree(var, ignore_errors=True)


def _run_tests(command: Sequence[str | Path], env: dict[str, str]) -> tuple[int, int]:
    process = subprocess.Popen(
        command, cwd=SERVER, env=env, text=True, stdout=subprocess.PIPE, stderr=subprocess.STDOUT
    )
    assert process.stdout
    lines = []
    for line in process.stdout:
        lines.append(line)
        if not TOTALS.match(line):
            sys.stdout.write(line)
            sys.stdout.flush()
    process.wait()
    totals = TOTALS.search("".join(lines))
    if not totals:
        raise LauncherError(f"the test run ended without a total (exit {process.returncode})")
    return int(totals[1]), int(totals[2])

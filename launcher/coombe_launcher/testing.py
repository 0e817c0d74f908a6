"""`coombe test`: lint, types and every test, on a MariaDB of their own."""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from pathlib import Path

from coombe_launcher.console import LauncherError, say
from coombe_launcher.database import PrivateDatabase
from coombe_launcher.installing import environment, node_environment, set_up
from coombe_launcher.places import PYTHON, ROOT, SERVER, VAR, VENV, WEB

TEST: Sequence[str | Path] = (PYTHON, "manage.py", "test", "--no-input")
CORE_TESTS, LAUNCHER_TESTS, BROWSER_TESTS = (str(ROOT / part / "tests") for part in ("core", "launcher", "browser"))
BESIDE = 3  # jobs at a time: one that computes, two that mostly wait
LARGEST = ("runs",)  # the app whose tests take as long as those of half the others
WAITING = ("recording", "trials")  # apps whose tests mostly wait for devices: others run meanwhile
TOTALS = re.compile(r"^(\d+) passed, (\d+) failed", re.MULTILINE)


def test(labels: Sequence[str], patterns: Sequence[str] = ()) -> int:
    """Run the checks and all tests, or those that are named; ends with one line `N passed, N failed`.

    A label is a module of the server or a folder of tests; a pattern is a part of a test's name.
    """
    set_up()
    if patterns and not labels:
        labels = ["server"]
    named = [str(ROOT / label) if (ROOT / label).is_dir() else label for label in labels]
    chosen = [*named, *(f"-k={pattern}" for pattern in patterns)]
    jobs = [partial(_tests, chosen)] if chosen else JOBS
    with ThreadPoolExecutor(BESIDE) as beside:
        results = list(beside.map(lambda job: job(), jobs))
    passed, failed = _sum(*results)
    say(f"{passed} passed, {failed} failed")
    return 1 if failed or not passed else 0


def _core() -> tuple[int, int]:
    """The core's tests need no database."""
    return _run_tests([*TEST, CORE_TESTS], environment())


def _server() -> tuple[int, int]:
    """The server's checks, and the tests of its largest app."""
    tools = VENV / "bin"
    checks = [
        _check("ruff check", [tools / "ruff", "check", "."], ROOT, environment()),
        _check("ruff format", [tools / "ruff", "format", "--check", "."], ROOT, environment()),
        _check("lint-imports", [tools / "lint-imports"], ROOT, environment()),
        _check("mypy", [tools / "mypy", "core/coombe_core", "launcher", "server"], ROOT, environment()),
    ]
    return _sum(*checks, _tests(LARGEST))


def _other_apps() -> tuple[int, int]:
    apps = sorted(tests.parent.name for tests in SERVER.glob("*/tests"))
    return _tests([app for app in apps if app not in (*WAITING, *LARGEST)], "others")


def _web() -> tuple[int, int]:
    """The web's checks, and half of the interface's tests."""
    tools = WEB / "node_modules" / ".bin"
    checks = [
        _check("tsc", [tools / "tsc", "--noEmit"], WEB, node_environment()),
        _check("eslint", [tools / "eslint", "."], WEB, node_environment()),
        _check("vitest", [tools / "vitest", "run"], WEB, node_environment()),
        _check("prettier", [tools / "prettier", "--check", "."], WEB, node_environment()),
    ]
    return _sum(*checks, _tests([BROWSER_TESTS, "--pattern=test_[s-z]*.py"], "screens"))


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


JOBS = [  # the longest first
    _core,
    _web,
    partial(_tests, WAITING, "waiting"),
    partial(_tests, [BROWSER_TESTS, "--pattern=test_[a-r]*.py"], "pages"),
    _other_apps,
    _server,
    partial(_tests, [LAUNCHER_TESTS], "launcher"),
]

"""`coombe test`: lint, types and every test, on a MariaDB of their own."""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path

from coombe_launcher.console import LauncherError, say
from coombe_launcher.database import PrivateDatabase
from coombe_launcher.installing import environment, node_environment, set_up
from coombe_launcher.places import PYTHON, ROOT, SERVER, VAR, VENV, WEB

TEST: Sequence[str | Path] = (PYTHON, "manage.py", "test", "--no-input")
CORE_TESTS, LAUNCHER_TESTS, BROWSER_TESTS = (str(ROOT / part / "tests") for part in ("core", "launcher", "browser"))
BESIDE = 4  # jobs at a time: two that compute, two that mostly wait
LARGEST = ("runs",)  # the app whose tests take as long as those of half the others
WAITING = ("recording", "trials")  # apps whose tests mostly wait for devices: others run meanwhile
TOTALS = re.compile(r"^(\d+) passed, \d+ failed", re.MULTILINE)
FAILED = re.compile(r"^FAILED (?!\()(.*)$", re.MULTILINE)  # and not the sum of a test runner


@dataclass(frozen=True)
class Outcome:
    """What some tests and checks came to: how many passed, and which failed."""

    passed: int = 0
    failed: list[str] = field(default_factory=list)

    def __add__(self, other: Outcome) -> Outcome:
        return Outcome(self.passed + other.passed, self.failed + other.failed)


def test(labels: Sequence[str], patterns: Sequence[str] = ()) -> int:
    """Run the checks and all tests, or those that are named; ends with what failed, and `N passed, N failed`.

    A label is a module of the server or a folder of tests; a pattern is a part of a test's name.
    """
    set_up(for_use=False)
    if patterns and not labels:
        labels = ["server"]
    named = [str(ROOT / label) if (ROOT / label).is_dir() else label for label in labels]
    chosen = [*named, *(f"-k={pattern}" for pattern in patterns)]
    jobs = [partial(_tests, chosen)] if chosen else JOBS
    with ThreadPoolExecutor(BESIDE) as beside:
        found = sum(beside.map(lambda job: job(), jobs), Outcome())
    for name in found.failed:
        say(f"FAILED {name}")
    say(f"{found.passed} passed, {len(found.failed)} failed")
    return 1 if found.failed or not found.passed else 0


def _core() -> Outcome:
    """The core's tests need no database."""
    return _run_tests([*TEST, CORE_TESTS], environment())


def _other_apps() -> Outcome:
    apps = sorted(tests.parent.name for tests in SERVER.glob("*/tests"))
    return _tests([app for app in apps if app not in (*WAITING, *LARGEST)], "others")


def _checks() -> Outcome:
    tools, scripts = VENV / "bin", WEB / "node_modules" / ".bin"
    checks: Sequence[tuple[str, list[str | Path], Path]] = (
        ("tsc", [scripts / "tsc", "--noEmit"], WEB),
        ("eslint", [scripts / "eslint", "."], WEB),
        ("vitest", [scripts / "vitest", "run"], WEB),
        ("prettier", [scripts / "prettier", "--check", "."], WEB),
        ("ruff check", [tools / "ruff", "check", "."], ROOT),
        ("ruff format", [tools / "ruff", "format", "--check", "."], ROOT),
        ("lint-imports", [tools / "lint-imports"], ROOT),
        ("mypy", [tools / "mypy", "core/coombe_core", "launcher", "server", "client/coombe_client"], ROOT),
    )
    return sum((_check(*check) for check in checks), Outcome())


def _check(name: str, command: list[str | Path], cwd: Path) -> Outcome:
    env = environment() | {"PATH": node_environment()["PATH"]}
    done = subprocess.run(command, cwd=cwd, env=env, text=True, capture_output=True, check=False)
    say(f"  {name}: {'ok' if done.returncode == 0 else 'FAILED'}")
    if done.returncode:
        say(done.stdout + done.stderr)
    return Outcome(0, [name]) if done.returncode else Outcome(1)


def _tests(labels: Sequence[str], track: str = "test") -> Outcome:
    home, var = VAR / f"{track}-mariadb", VAR / track
    database = PrivateDatabase(home, forgetful=True)
    try:
        database.start()
        ours = {"DATABASE_URL": database.url, "COOMBE_VAR": str(var), "PATH": node_environment()["PATH"]}
        return _run_tests([*TEST, *labels], environment() | ours)
    finally:
        database.stop()
        shutil.rmtree(var, ignore_errors=True)


def _run_tests(command: Sequence[str | Path], env: dict[str, str]) -> Outcome:
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
    report = "".join(lines)
    totals = TOTALS.search(report)
    if not totals:
        raise LauncherError(f"the test run ended without a total (exit {process.returncode})")
    return Outcome(int(totals[1]), FAILED.findall(report))


JOBS = [  # the longest first, and beside them what mostly waits
    _core,
    partial(_tests, [LAUNCHER_TESTS], "launcher"),
    _other_apps,
    partial(_tests, WAITING, "waiting"),
    partial(_tests, LARGEST, "runs"),
    partial(_tests, [BROWSER_TESTS, "--pattern=test_[m-r]*.py"], "pages"),
    partial(_tests, [BROWSER_TESTS, "--pattern=test_[a-l]*.py"], "strip"),
    partial(_tests, [BROWSER_TESTS, "--pattern=test_[s-z]*.py"], "screens"),
    _checks,
]

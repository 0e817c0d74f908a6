"""`coombe doctor`: what is installed and whether it works, a line each: ok, or what to do."""

from __future__ import annotations

import platform
import shutil
import socket
from collections.abc import Callable

from coombe_launcher import backup_state
from coombe_launcher.console import LauncherError, manage, run, say
from coombe_launcher.database import database_url
from coombe_launcher.home import Home
from coombe_launcher.installing import is_set_up, missing_debian, node_environment
from coombe_launcher.places import ROOT
from coombe_launcher.upgrading import schema_state

LEAST_FREE_BYTES = 2 * 1024**3


def examine(port: int) -> int:
    """Print every finding; 1 where something needs doing."""
    findings = [_finding(name, check) for name, check in _checks(port).items()]
    return 0 if all(findings) else 1


def _finding(name: str, check: Callable[[], str]) -> bool:
    try:
        say(f"ok    {name}: {check()}")
        return True
    except LauncherError as error:
        say(f"TO DO {name}: {error}")
        return False


def _checks(port: int) -> dict[str, Callable[[], str]]:
    return {
        "Python": platform.python_version,
        "Debian packages": _debian,
        "MariaDB": lambda: _version("mariadbd"),
        "Chromium": lambda: _version("chromium-headless-shell"),
        "Node": lambda: run(["node", "--version"], "node", env=node_environment()).strip(),
        "setup": _set_up,
        f"port {port}": lambda: _port(port),
        "database": _database,
        "store": _store,
        "recordings": _recordings,
        "disk": _disk,
        "backup": _backup,
    }


def _debian() -> str:
    missing = missing_debian()
    if missing:
        raise LauncherError(f"run ./coombe setup; missing: {' '.join(missing)}")
    return "all there"


def _version(program: str) -> str:
    if not shutil.which(program, path="/usr/sbin:/usr/bin:/usr/local/bin:/bin"):
        raise LauncherError("not installed; run ./coombe setup")
    return run([program, "--version"], program).strip().split("\n")[0]


def _set_up() -> str:
    if not is_set_up():
        raise LauncherError("not up to date; run ./coombe setup")
    return "up to date"


def _port(port: int) -> str:
    with socket.socket() as probe:
        if probe.connect_ex(("127.0.0.1", port)) == 0:
            raise LauncherError("in use; stop what listens there or name another with --port")
    return "free"


def _database() -> str:
    home = Home.of()
    with database_url(home.database) as url:
        env = home.environment(url)
        manage(env, "check", "--database", "default", doing="the database check")
        pending = schema_state(env)["pending"]
    return f"answers; {len(pending)} changes pending, ./coombe serve applies them" if pending else "answers"


def _store() -> str:
    home = Home.of()
    with database_url(home.database) as url:
        output = manage(home.environment(url), "check_store", "--quick", doing="comparing the store with the database")
    return output.strip().splitlines()[-1]


def _recordings() -> str:
    home = Home.of()
    with database_url(home.database) as url:
        return manage(home.environment(url), "unstored", doing="looking for recordings that are not stored").strip()


def _disk() -> str:
    free = shutil.disk_usage(ROOT).free
    if free < LEAST_FREE_BYTES:
        raise LauncherError(f"only {free / 1024**3:.1f} GiB free; logs and the database need room")
    return f"{free / 1024**3:.0f} GiB free"


def _backup() -> str:
    folder = Home.of().folder
    noted = backup_state.read(folder)
    if noted is None:
        return "none was made yet; ./coombe backup FOLDER makes one"
    if trouble := backup_state.trouble(folder):
        raise LauncherError(trouble)
    return f"the latest is of {noted['good_at']}, in {noted['target']}"

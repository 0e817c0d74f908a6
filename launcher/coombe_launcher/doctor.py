"""`coombe doctor`: what is installed and whether it works, a line each: ok, or what to do."""

from __future__ import annotations

import http.client
import json
import os
import platform
import re
import shutil
import socket
from collections.abc import Callable

from coombe_launcher import backup_state
from coombe_launcher.certificates import days_left_at
from coombe_launcher.console import LauncherError, manage, run, say
from coombe_launcher.database import SLOW_S, PrivateDatabase, database_url
from coombe_launcher.deploying import ENABLED
from coombe_launcher.home import Home
from coombe_launcher.installing import FOR_USE, is_set_up, missing_debian, node_environment
from coombe_launcher.places import ROOT
from coombe_launcher.upgrading import schema_state

LEAST_FREE_BYTES = 2 * 1024**3
ANSWERS_WITHIN_S = 10.0
HTTPS_PORT, FEW_DAYS = 443, 14
QUERY_TIME = re.compile(r"^# Query_time: ([0-9.]+)", re.MULTILINE)
NUMBERS = {  # of the metrics that are shown
    "coombe_runs": "runs",
    "coombe_tasks_waiting": "tasks waiting",
    "coombe_recordings_unstored": "recordings not stored",
    "coombe_recorders_in_trouble": "recorders in trouble",
}


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
        **({} if FOR_USE.exists() else {"Chromium": lambda: _version("chromium-headless-shell")}),
        "Node": lambda: run(["node", "--version"], "node", env=node_environment()).strip(),
        "setup": _set_up,
        f"port {port}": lambda: _server(port),
        **({"certificate": _certificate} if ENABLED.exists() else {}),
        "database": _database,
        "store": _store,
        "recordings": _recordings,
        "disk": _disk,
        "backup": _backup,
        "slow queries": _slow_queries,
        "numbers": _numbers,
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


def _certificate() -> str:
    """For how long browsers take what nginx shows on this machine."""
    days = days_left_at("127.0.0.1", HTTPS_PORT)
    if days < FEW_DAYS:
        raise LauncherError(f"it expires in {days:.0f} days; put a new one in its place")
    return f"it holds for {days:.0f} days"


def _server(port: int) -> str:
    """Whether Coombe, which says whether it can work, or something else listens there."""
    with socket.socket() as probe:
        if probe.connect_ex(("127.0.0.1", port)) != 0:
            return "free"
    asking = http.client.HTTPConnection("127.0.0.1", port, timeout=ANSWERS_WITHIN_S)
    try:
        asking.request("GET", "/health/ready")
        states = json.loads(asking.getresponse().read())
        wrong = [f"{part}: {state}" for part, state in states.items() if part != "ready" and state != "ok"]
        ready = bool(states["ready"])
    except (OSError, http.client.HTTPException, ValueError, KeyError, AttributeError, TypeError):
        raise LauncherError("in use by something else; stop that or name another with --port") from None
    finally:
        asking.close()
    if not ready:
        raise LauncherError(f"Coombe runs there and can't work: {' '.join(wrong)}")
    return "Coombe runs there and is ready"


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


def _slow_queries() -> str:
    if "DATABASE_URL" in os.environ:
        return "see the slow query log of the database that DATABASE_URL names"
    log = PrivateDatabase(Home.of().database).slow_log
    took_s = [float(found) for found in QUERY_TIME.findall(log.read_text(errors="replace"))] if log.exists() else []
    if not took_s:
        return f"none over {SLOW_S:g} s"
    return f"{len(took_s)} over {SLOW_S:g} s, the longest {max(took_s):.1f} s; they are in {log}"


def _numbers() -> str:
    home = Home.of()
    with database_url(home.database) as url:
        shown = manage(home.environment(url), "metrics", doing="reading the metrics")
    found = dict(line.split() for line in shown.splitlines() if line.split(" ")[0] in NUMBERS)
    return ", ".join(f"{float(found[name]):.0f} {words}" for name, words in NUMBERS.items() if name in found)

"""`coombe demo`, `serve`, `record` and what else works on a home: the database and processes, stopped together."""

from __future__ import annotations

import json
import os
import shutil
import signal
import socket
import subprocess
import threading
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import urlsplit

from coombe_launcher.backup import back_up, bring_back, check
from coombe_launcher.backup_target import Locker, Target
from coombe_launcher.beside import RECORDERS, KeptProcess, kept_running, simulated_devices
from coombe_launcher.console import LauncherError, manage, say
from coombe_launcher.database import database_at_rest, database_url
from coombe_launcher.home import Home, warn_of_root
from coombe_launcher.installing import is_set_up, set_up
from coombe_launcher.places import PYTHON, SERVER
from coombe_launcher.upgrading import check_schema, restore, upgrade
from coombe_launcher.version_change import move_back, move_up

HOST = "127.0.0.1"
SIMULATED_CARS = (1, 2)  # two cars, each with a seed of its own
START_LIMIT_S = 60.0
FIRST_SOCKET = 3
MYSQL_PORT = 3306
ANSWERS_WITHIN_S = 5.0
WORK = (PYTHON, "manage.py", "work")  # imports
RETIMING = (PYTHON, "manage.py", "retime", "--watch")  # runs of which something has changed


@dataclass(frozen=True)
class Address:
    """Where the web server listens: on loopback, or with a certificate on every address of the machine.

    `metrics_port`, always on loopback, is where a monitoring system reads; None for nowhere. Without `recorders`
    another machine records.
    """

    port: int
    lan: bool = False
    metrics_port: int | None = None
    recorders: bool = True

    @property
    def host(self) -> str:
        """What to bind."""
        return "0.0.0.0" if self.lan else HOST


def serve(address: Address, workers: int, demo: bool) -> int:
    """Serve until Ctrl-C or SIGTERM. `demo` works in a home of its own and fills it with the invented season first."""
    home = Home.of(demo)
    with home.alone(), ExitStack() as beside:
        given = _given_socket()
        if given is None:
            _check_free(address)
        env = beside.enter_context(_ready(home))
        if address.metrics_port:
            env |= _counted(home)
            showing = (PYTHON, "manage.py", "metrics", "--port", str(address.metrics_port))
            beside.enter_context(kept_running("metrics", showing, env))
        if demo:
            ports = json.dumps([beside.enter_context(simulated_devices(env, seed)) for seed in SIMULATED_CARS])
            say(manage(env, "load_demo", "--simulated-devices", ports, doing="making the demo data").strip())
        else:
            manage(env, "refuse_demo_accounts", doing="looking for the demo's accounts")
            say("The first administrator is made with: ./coombe admin")
        message, env, certificate = _for_lan(env, address) if address.lan else (_local(address), env, [])
        if address.recorders:
            beside.enter_context(kept_running("recorder", RECORDERS, env))
        beside.enter_context(kept_running("task worker", WORK, env))
        beside.enter_context(kept_running("timing", RETIMING, env))
        command = [*_web_command(address, workers), *certificate, *(["--socket", str(given)] if given else [])]
        web = beside.enter_context(kept_running("web server", command, env, [given] if given else []))
        if given is None:
            _wait_until_it_listens(web, address.port)
        say(message)
        return _until_stopped()


def _begin(home: Home) -> None:
    """Everything is installed, SIGTERM ends as Ctrl-C does, and nothing of an earlier start runs on."""
    if not is_set_up():
        set_up()
    signal.signal(signal.SIGTERM, lambda *_: (_ for _ in ()).throw(KeyboardInterrupt()))
    home.end_leftovers()


@contextmanager
def _ready(home: Home) -> Iterator[dict[str, str]]:
    """The database of a home that is ours alone, up and up to date; gives the environment of its processes."""
    _begin(home)
    home.clear_uploads()
    say("Starting MariaDB")
    with database_url(home.database) as url:
        env = home.environment(url)
        upgrade(home, env)
        yield env


@contextmanager
def _ready_to_record(home: Home) -> Iterator[dict[str, str]]:
    """As `_ready`. A database elsewhere is upgraded where it is served from; while it is away, recording goes on."""
    url = os.environ.get("DATABASE_URL")
    if url is None:
        with _ready(home) as env:
            yield env
        return
    _begin(home)
    env = home.environment(url)
    if not _is_reached(url):
        say("The database does not answer. What is recorded is kept on this machine, and stored once it does.")
    elif check_schema(home, env)["pending"]:
        raise LauncherError("the database is older than this Coombe: upgrade it where it is served from, then record")
    yield env


def _is_reached(url: str) -> bool:
    place = urlsplit(url)
    try:
        socket.create_connection((place.hostname or HOST, place.port or MYSQL_PORT), ANSWERS_WITHIN_S).close()
    except OSError:
        return False
    return True


def _counted(home: Home) -> dict[str, str]:
    """An empty folder that all processes count into."""
    folder = home.folder / "metrics"
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir()
    return {"PROMETHEUS_MULTIPROC_DIR": str(folder)}


def _local(address: Address) -> str:
    return f"Coombe is at http://{HOST}:{address.port}/  (Ctrl-C stops it)"


def _for_lan(env: dict[str, str], address: Address) -> tuple[str, dict[str, str], list[str]]:
    """What to say, the environment and the web server's options for serving other devices over HTTPS."""
    warn_of_root()
    made = json.loads(manage(env, "make_certificate", doing="making the certificate"))
    places = ", ".join(f"https://{name}:{address.port}/" for name in made["names"] if name != "localhost")
    message = (
        f"Coombe is at {places}  (Ctrl-C stops it)\n"
        f"The certificate is this machine's own: a browser warns once. Its SHA-256 is\n  {made['fingerprint']}"
    )
    served = env | {"COOMBE_HTTPS": "1", "COOMBE_HOSTS": ",".join(made["names"])}
    return message, served, ["--certificates", made["folder"]]


def record(recorder: str | None) -> int:
    """Record with one recorder, or with all that are wanted, where no web server of this machine does."""
    home = Home.of()
    with home.alone(), _ready_to_record(home) as env:
        command = [*map(str, RECORDERS), *([recorder] if recorder else [])]
        with kept_running("recorder", command, env):
            return _until_stopped()


def at_home(*command: str, demo: bool = False) -> int:
    """Run a management command on a home's data, beside a server that runs or without one."""
    if not is_set_up():
        set_up()
    home = Home.of(demo)
    home.make()
    with database_url(home.database) as url:
        env = home.environment(url)
        upgrade(home, env)
        return subprocess.run([PYTHON, "manage.py", *command], cwd=SERVER, env=env, check=False).returncode


def restore_copy(copy: Path) -> int:
    """Put a copy in the place of the database."""
    home = Home.of()
    with home.alone(), database_url(home.database) as url:
        restore(home, url, copy)
    return 0


def backup(target: Path, passphrase: Path | None, demo: bool = False) -> int:
    """Back a home up, beside a server that runs or without one."""
    home = Home.of(demo)
    home.make()
    with database_url(home.database) as url:
        back_up(home, home.environment(url), Target(target, Locker(passphrase)))
    return 0


def check_backup(target: Path, name: str | None, passphrase: Path | None) -> int:
    """Read a whole backup."""
    check(Target(target, Locker(passphrase)), name)
    return 0


def restore_backup(target: Path, name: str | None, replace: bool, passphrase: Path | None, demo: bool = False) -> int:
    """Put a backup in the place of a home that nothing uses."""
    home = Home.of(demo)
    with home.alone(), database_at_rest(home.database):
        bring_back(home, Target(target, Locker(passphrase)), name, replace, os.environ.get("DATABASE_URL"))
    return 0


def upgrade_home(target: Path | None, passphrase: Path | None) -> int:
    """Bring a home that nothing uses up to this code, with a backup in `target` first; without, back to before."""
    if not is_set_up():
        set_up()
    home, locker = Home.of(), Locker(passphrase)
    if target is None:
        with home.alone(), database_at_rest(home.database):
            move_back(home, locker)
        return 0
    with home.alone(), database_url(home.database) as url:
        move_up(home, home.environment(url), Target(target, locker))
    return 0


def _given_socket() -> int | None:
    """The socket that systemd has opened for this process and holds open while it is started anew, if any.

    Its number and the variables that say so are from sd_listen_fds(3).
    """
    count = os.environ.pop("LISTEN_FDS", "0")
    return FIRST_SOCKET if os.environ.pop("LISTEN_PID", "") == str(os.getpid()) and count == "1" else None


def _check_free(address: Address) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((address.host, address.port))
        except OSError:
            raise LauncherError(f"port {address.port} is in use; name another with --port") from None


def _web_command(address: Address, workers: int) -> list[str | Path]:
    where = ["--host", address.host, "--port", str(address.port), "--workers", str(workers)]
    return [PYTHON, "-m", "config.web", *where]


def _wait_until_it_listens(web: KeptProcess, port: int) -> None:
    """Raises LauncherError where the web server ended instead, or did not answer for a minute."""
    limit = time.monotonic() + START_LIMIT_S
    while time.monotonic() < limit:
        with socket.socket() as probe:
            if probe.connect_ex((HOST, port)) == 0:
                return
        if web.has_ended:
            raise LauncherError("the web server did not start; its output is above")
        time.sleep(0.1)
    raise LauncherError(f"the web server did not take connections within {START_LIMIT_S:.0f} s")


def _until_stopped() -> int:
    try:
        threading.Event().wait()
    except KeyboardInterrupt:
        say("\nStopping")
    return 0

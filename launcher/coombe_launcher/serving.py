"""`coombe demo`, `serve` and `admin`: the database, the migrations and the web server, stopped together."""

from __future__ import annotations

import json
import shutil
import signal
import socket
import subprocess
import time
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path

from coombe_launcher.beside import RECORDERS, kept_running, stand_ins
from coombe_launcher.console import LauncherError, run, say
from coombe_launcher.database import PrivateDatabase, database_url
from coombe_launcher.installing import environment, is_set_up, set_up
from coombe_launcher.looking_after import die_with_parent
from coombe_launcher.places import PYTHON, SERVER, VAR

HOST = "127.0.0.1"
STOP_LIMIT_S = 15.0
STAND_INS = (1, 2)  # two cars, each with a seed of its own
START_LIMIT_S = 60.0


@dataclass(frozen=True)
class Address:
    """Where the web server listens: on loopback, or with a certificate on every address of the machine."""

    port: int
    lan: bool = False

    @property
    def host(self) -> str:
        """What to bind."""
        return "0.0.0.0" if self.lan else HOST


def serve(address: Address, workers: int, demo: bool) -> int:
    """Serve until Ctrl-C or SIGTERM. `demo` fills an empty database with the invented season first."""
    if not is_set_up():
        set_up()
    _check_free(address)
    signal.signal(signal.SIGTERM, lambda *_: (_ for _ in ()).throw(KeyboardInterrupt()))
    say("Starting MariaDB")
    with database_url() as url:
        env = environment() | {"DATABASE_URL": url}
        manage(env, "migrate", "--no-input", "--verbosity=0", doing="bringing the database up to date")
        manage(env, "sweep_store", doing="sweeping the store")
        with ExitStack() as beside:
            if demo:
                ports = json.dumps([beside.enter_context(stand_ins(env, seed)) for seed in STAND_INS])
                say(manage(env, "load_demo", "--stand-ins", ports, doing="making the demo data").strip())
            else:
                say("The first administrator is made with: ./coombe admin")
            beside.enter_context(kept_running(RECORDERS, env))
            told, env, certificate = _for_lan(env, address) if address.lan else (_local(address), env, [])
            return _until_stopped([*_web_command(address, workers), *certificate], env, address.port, told)


def _local(address: Address) -> str:
    return f"Coombe is at http://{HOST}:{address.port}/  (Ctrl-C stops it)"


def _for_lan(env: dict[str, str], address: Address) -> tuple[str, dict[str, str], list[str]]:
    """What to say, the environment and the web server's options for serving other devices over HTTPS."""
    made = json.loads(manage(env, "make_certificate", doing="making the certificate"))
    places = ", ".join(f"https://{name}:{address.port}/" for name in made["names"] if name != "localhost")
    told = (
        f"Coombe is at {places}  (Ctrl-C stops it)\n"
        f"The certificate is this machine's own: a browser warns once. Its SHA-256 is\n  {made['fingerprint']}"
    )
    keys = ["--ssl-keyfile", f"{made['folder']}/key.pem", "--ssl-certfile", f"{made['folder']}/certificate.pem"]
    return told, env | {"COOMBE_HTTPS": "1", "COOMBE_HOSTS": ",".join(made["names"])}, keys


def record(recorder: str | None) -> int:
    """Record with one recorder, or with all that are wanted, where no web server of this machine does."""
    if not is_set_up():
        set_up()
    signal.signal(signal.SIGTERM, lambda *_: (_ for _ in ()).throw(KeyboardInterrupt()))
    with database_url() as url:
        command = [*map(str, RECORDERS), *([recorder] if recorder else [])]
        return subprocess.run(command, cwd=SERVER, env=environment() | {"DATABASE_URL": url}, check=False).returncode


def soak(minutes: float, rate_hz: float) -> int:
    """A long recording against stand-ins."""
    return _apart("soak", "--minutes", str(minutes), "--rate", str(rate_hz))


def pace(runs: int) -> int:
    """How fast the server answers with many runs."""
    return _apart("pace", "--runs", str(runs))


def _apart(command: str, *options: str) -> int:
    """A command of manage.py on a database of its own that is thrown away."""
    if not is_set_up():
        set_up()
    home = VAR / command
    shutil.rmtree(home, ignore_errors=True)
    database = PrivateDatabase(home / "mariadb")
    try:
        database.start()
        env = environment() | {"DATABASE_URL": database.url, "COOMBE_VAR": str(home)}
        manage(env, "migrate", "--no-input", "--verbosity=0", doing="making the tables")
        made = [str(PYTHON), "manage.py", command, *options]
        return subprocess.run(made, cwd=SERVER, env=env, check=False).returncode
    finally:
        database.stop()
        shutil.rmtree(home, ignore_errors=True)


def make_administrator() -> int:
    """Ask for a name and a password and create an administrator."""
    if not is_set_up():
        set_up()
    with database_url() as url:
        env = environment() | {"DATABASE_URL": url}
        manage(env, "migrate", "--no-input", "--verbosity=0", doing="bringing the database up to date")
        return subprocess.run(
            [PYTHON, "manage.py", "create_administrator"], cwd=SERVER, env=env, check=False
        ).returncode


def manage(env: dict[str, str], *arguments: str, doing: str) -> str:
    """Run one of the server's management commands."""
    return run([PYTHON, "manage.py", *arguments], doing, cwd=SERVER, env=env)


def _check_free(address: Address) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((address.host, address.port))
        except OSError:
            raise LauncherError(f"port {address.port} is in use; name another with --port") from None


def _web_command(address: Address, workers: int) -> list[str | Path]:
    return [
        *(PYTHON, "-m", "uvicorn", "config.asgi:application", "--host", address.host),
        *("--port", str(address.port)),
        *("--workers", str(workers), "--no-access-log", "--log-level", "warning", "--timeout-graceful-shutdown", "5"),
    ]


def _until_stopped(command: list[str | Path], env: dict[str, str], port: int, told: str) -> int:
    web = subprocess.Popen(command, cwd=SERVER, env=env, start_new_session=True, preexec_fn=die_with_parent)
    try:
        if _listens(web, port):
            say(told)
        return web.wait()
    except KeyboardInterrupt:
        say("\nStopping")
        web.terminate()
        try:
            web.wait(STOP_LIMIT_S)
        except subprocess.TimeoutExpired:
            web.kill()
        return 0


def _listens(web: subprocess.Popen[bytes], port: int) -> bool:
    """Wait until the web server takes connections; False where it ended, or did not for a minute."""
    limit = time.monotonic() + START_LIMIT_S
    while web.poll() is None and time.monotonic() < limit:
        with socket.socket() as probe:
            if probe.connect_ex((HOST, port)) == 0:
                return True
        time.sleep(0.1)
    return False

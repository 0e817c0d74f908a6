"""Processes of a served home killed at random moments while two cars are recorded: is anything lost or doubled?

What the simulated devices sent is compared, sentence by sentence, with what is stored; every pull that was driven
while anybody listened must be there once, and every key pressed must have acted once.
"""

from __future__ import annotations

import json
import os
import random
import signal
import subprocess
import time
import uuid
from contextlib import ExitStack
from dataclasses import dataclass, field
from datetime import UTC, date, datetime
from functools import partial
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import connection

from accounts.models import Role, User
from cars.models import Car, Setup
from coombe_core.simulating.in_thread import Running, running
from coombe_launcher.database import free_port
from coombe_launcher.places import ROOT
from recording.models import Press, Recorder, Recording
from recording.simulated import devices_at
from runs.models import Run
from trials.asking import Asker
from trials.driven import Driven
from trials.waiting import LIMIT_S, until

KINDS = ("recorder", "web server", "MariaDB", "launcher")
PACE = 2.0


@dataclass
class Kills(Driven):
    """What the kills came to."""

    killed: dict[str, int] = field(default_factory=lambda: dict.fromkeys(KINDS, 0))
    keys: int = 0

    def __str__(self) -> str:
        killed = ", ".join(f"{count} of the {kind}" for kind, count in self.killed.items())
        lines = [
            f"kills: {killed}",
            f"sentences stored {self.sentences}, holes {self.holes}, gaps stored {self.gaps}",
            f"pulls and stops driven while listening {self.pulls}, runs stored {self.runs}, keys {self.keys}",
            *(self.wrong or ["nothing lost, nothing doubled"]),
        ]
        return "\n".join(lines)


class Served:
    """Coombe served from the home of this process, by a launcher that is started again when it was killed."""

    def __init__(self) -> None:
        self.asker = Asker(free_port())
        self.home = Path(settings.VAR)
        self.start()

    def start(self) -> None:
        """Start the launcher and wait until the web server and the database answer."""
        command = [str(ROOT / "coombe"), "serve", "--port", str(self.asker.port)]
        env = {name: value for name, value in os.environ.items() if name != "DATABASE_URL"}
        env |= {"COOMBE_VAR": str(self.home), "COOMBE_SECRET_KEY": settings.SECRET_KEY}
        with (self.home / "serve.log").open("ab") as log:
            self.launcher = subprocess.Popen(command, env=env, stdout=log, stderr=log, start_new_session=True)
        until("the web server answers", lambda: self.get("/api/v1/session/") == 200)
        self.connect()

    def connect(self) -> None:
        """Point this process at the database, whose port is another after each start of the launcher."""
        folder = self.home / "mariadb"
        connection.close()
        connection.settings_dict.update(
            HOST="127.0.0.1",
            USER="coombe",
            NAME="coombe",
            PORT=int((folder / "port").read_text()),
            PASSWORD=(folder / "password").read_text(),
        )

    def get(self, path: str) -> int:
        """The status of an answer; 0 where nobody answers."""
        return self.asker.ask("GET", path)[0]

    def read(self, path: str) -> Any:
        """What an address answers, from JSON; None where it does not answer, or refuses."""
        status, body = self.asker.ask("GET", path)
        return json.loads(body) if status == 200 else None

    def takes(self, path: str, given: Any = None) -> bool:
        """Whether a POST is answered with success."""
        return self.asker.ask("POST", path, None if given is None else json.dumps(given).encode())[0] == 200

    def processes(self, kind: str) -> list[int]:
        """The process numbers of a kind."""
        if kind == "launcher":
            return [self.launcher.pid]
        if kind == "MariaDB":
            return [int((self.home / "mariadb" / "server.pid").read_text())]
        words = {"recorder": ["manage.py", "record"], "web server": ["-m", "config.web"]}[kind]
        found = []
        for entry in Path("/proc").glob("[0-9]*"):
            try:
                command = (entry / "cmdline").read_text().split("\0")
                ours = f"COOMBE_VAR={self.home}\0" in (entry / "environ").read_text()
            except OSError:
                continue
            numbered = kind != "recorder" or command[-2:-1][0:1] != ["record"]
            if ours and " ".join(words) in " ".join(command) and numbered:
                found.append(int(entry.name))
        return found

    def kill(self, kind: str, draw: random.Random) -> None:
        """Kill one process of a kind, and wait until all is as it was."""
        until(f"the {kind} is killed", lambda: self._killed(draw.choice(self.processes(kind) or [0])))
        if kind == "launcher":
            self.launcher.wait()
            until("its children are gone", lambda: not self.processes("web server") and not self.processes("recorder"))
            self.start()

    @staticmethod
    def _killed(pid: int) -> bool:
        """Kill a process; False where there is none, or it is gone already."""
        if pid:
            os.kill(pid, signal.SIGKILL)  # ProcessLookupError is an OSError, which `until` waits through
        return bool(pid)

    def stop(self) -> None:
        """End as Ctrl-C does."""
        self.launcher.terminate()
        self.launcher.wait(LIMIT_S)


def kills(each: int, seed: int) -> Kills:
    """Kill every kind of process a number of times, two cars being driven meanwhile, and compare."""
    found, draw = Kills(), random.Random(seed)
    home = Path(settings.VAR)
    home.mkdir(parents=True, exist_ok=True)
    with ExitStack() as stack:
        served = Served()
        stack.callback(served.stop)
        cars = [stack.enter_context(running(pace=PACE, keep=home / f"sent-{car}")) for car in (1, 2)]
        recorders = _prepared(served, cars)
        keys: list[str] = []
        order = [kind for kind in KINDS for _ in range(each)]
        draw.shuffle(order)
        for kind in order:
            for car in cars:
                if car.order()["idle"]:
                    car.order(drive="launch")
            time.sleep(draw.uniform(0.2, 4.0))
            _press(served, recorders, keys)
            served.kill(kind, draw)
            found.killed[kind] += 1
        for car in cars:
            until("the car waits", partial(_waits, car))
            car.order(drive="launch")
        until("the cars wait", lambda: all(car.order()["idle"] for car in cars))
        until("what was driven last is stored", lambda: _settled(recorders))
        _press(served, recorders, keys)
        for pk in recorders:
            until("it stops", partial(served.takes, f"/api/v1/recorders/{pk}/stop/"))
        until("all is stored", lambda: not Recording.objects.filter(stored_at=None).exists())
        for place, (pk, car) in enumerate(zip(recorders, cars, strict=True), 1):
            found.compare(pk, car, (home / f"sent-{place}").read_bytes())
        found.keys = len(keys)
        acted = Press.objects.filter(pk__in=keys).count()
        if acted != len(keys):
            found.wrong.append(f"{len(keys)} keys were taken, {acted} acted")
    return found


def _prepared(served: Served, cars: list[Running]) -> list[int]:
    """A person, two cars and two recorders that record."""
    person = User.objects.create(username="kills", role=Role.ADMINISTRATOR)
    served.asker.log_in(person)
    numbers = []
    for number, car in enumerate(cars, 1):
        made = Car.objects.create(name=f"Car {number}", test_mass_kg=1900)
        setup = Setup.objects.create(car=made, name="as it is", since=date(2026, 1, 1))
        devices = devices_at(f"Car {number}", vars(car.ports))
        numbers.append(Recorder.objects.create(name=f"Car {number}", setup=setup, **devices).pk)
        until("it starts", lambda: served.takes(f"/api/v1/recorders/{numbers[-1]}/start/"))
    until("both record", lambda: Recording.objects.exclude(log=None).count() == len(numbers))
    return numbers


def _press(served: Served, recorders: list[int], keys: list[str]) -> None:
    """Keep the last run of each recorder, the same key sent twice, again and again until it is taken."""
    for pk in recorders:
        strip = served.read(f"/api/v1/recorders/{pk}/strip/")
        if not strip or not strip["last_run"]:
            continue
        key = {"id": str(uuid.uuid4()), "action": "keep", "run": strip["last_run"]["id"]}
        key["pressed_at"] = datetime.now(UTC).isoformat()
        for _ in range(2):
            until("the key is taken", partial(served.takes, f"/api/v1/recorders/{pk}/key-presses/", key))
        keys.append(key["id"])


def _waits(car: Running) -> bool:
    return bool(car.order()["idle"])


def _settled(recorders: list[int]) -> bool:
    """Whether the newest run of each recorder is a stop that ended just now: the last pull is in."""
    newest = [Run.objects.filter(log__recording__recorder=pk).order_by("-start_utc").first() for pk in recorders]
    return all(run is not None and run.kind == "stop" for run in newest)
